"""What a view has learnt of the columns by the time every record was read."""

from msgspec import Struct, field

from grainstack.records.variable import Variable


class ColumnFacts(Struct, frozen=True):
    """The columns of a view. Nothing here depends on the order in which batches came.

    Attributes:
        variables: What is known of each column read as levels; its levels in their natural order.
        numbers: What is known of each column read as numbers.
        coded: For each column read as levels, the codes its level places stand for.
        design: What is known of each column of the survey design that is read as levels.
        design_coded: The codes its level places stand for.
        keep_empty: Whether levels without records are to be shown.
        left_out: For each column read as levels, the codes of those that were left out by name.
    """

    variables: dict[str, Variable]
    numbers: dict[str, Variable]
    coded: dict[str, tuple[str, ...]]
    design: dict[str, Variable] = field(default_factory=dict)
    design_coded: dict[str, tuple[str, ...]] = field(default_factory=dict)
    keep_empty: bool = False
    left_out: dict[str, frozenset[str]] = field(default_factory=dict)

    def level_places(self, column: str) -> list[int]:
        """For each level place of a column, the place of that level in its variable's natural order."""
        places = {level.code: place for place, level in enumerate(self.variables[column].levels)}
        return [places[code] for code in self.coded[column]]

    def design_labels(self, column: str) -> tuple[str, ...]:
        """For each level place of a column of the design, the label of that level."""
        labels = {level.code: level.label for level in self.design[column].levels}
        return tuple(labels.get(code, code) for code in self.design_coded[column])
