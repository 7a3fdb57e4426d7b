"""What a scan has learnt of the columns by the time every record was read."""

from dataclasses import dataclass

from grainstack.records.variable import Variable


@dataclass(frozen=True, slots=True)
class Found:
    """The columns of a scan.

    Attributes:
        variables: What is known of each column read as levels; its levels in their natural order.
        numbers: What is known of each column read as numbers.
        coded: For each column read as levels, the codes its dictionary places stand for.
        keep_empty: Whether levels without records are to be shown.
    """

    variables: dict[str, Variable]
    numbers: dict[str, Variable]
    coded: dict[str, tuple[str, ...]]
    keep_empty: bool = False

    def level_places(self, column: str) -> list[int]:
        """For each dictionary place of a column, the place of that level in its variable's natural order."""
        places = {level.code: place for place, level in enumerate(self.variables[column].levels)}
        return [places[code] for code in self.coded[column]]
