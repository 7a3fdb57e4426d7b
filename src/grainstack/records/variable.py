"""What is known of one column: its kind, its words, and its levels in order."""

from dataclasses import dataclass, replace
from enum import StrEnum


class Kind(StrEnum):
    """How the values of a column are to be understood."""

    CATEGORY = "category"
    ORDERED = "ordered"
    NUMBER = "number"
    DATE = "date"
    TEXT = "text"
    MULTI = "multi"


class LevelOrder(StrEnum):
    """Where the order of a variable's levels comes from."""

    CODEBOOK = "codebook"
    KNOWN = "known words"
    NUMERIC = "numbers"
    AS_FOUND = "as found"


@dataclass(frozen=True, slots=True)
class Level:
    """One category of a variable: the code that is stored and the label that is shown."""

    code: str
    label: str
    color: str | None = None


@dataclass(frozen=True, slots=True)
class Variable:
    """A column with everything a table or a chart needs to write about it.

    Attributes:
        name: The column's name in the records.
        kind: How its values are understood.
        label: The words shown for it.
        unit: What a number counts or measures, such as `minutes` or `€`; may be empty.
        levels: Its categories in their order; empty for numbers.
        order: Where that order comes from.
    """

    name: str
    kind: Kind = Kind.CATEGORY
    label: str = ""
    unit: str = ""
    levels: tuple[Level, ...] = ()
    order: LevelOrder = LevelOrder.AS_FOUND

    def __post_init__(self) -> None:
        if not self.label:
            object.__setattr__(self, "label", readable(self.name))

    @property
    def has_natural_order(self) -> bool:
        """Whether its levels stand in an order of their own, so that sorting by size would lose something."""
        return self.order is not LevelOrder.AS_FOUND

    def with_levels(self, levels: tuple[Level, ...], order: LevelOrder) -> "Variable":
        """The same variable with other levels."""
        return replace(self, levels=levels, order=order)


def readable(name: str) -> str:
    """A column name as words: `sailings_in_stratum` becomes `sailings in stratum`."""
    return " ".join(name.replace("_", " ").split()) or name
