"""What is known of one column: its kind, its words, and its levels in order."""

from enum import StrEnum
from hashlib import blake2b

from msgspec import Struct
from msgspec.structs import force_setattr, replace

from grainstack.language import lowered, marked, phrase
from grainstack.records.known_orders import good_end
from grainstack.visible import visible


class Kind(StrEnum):
    """How the values of a column are to be understood."""

    CATEGORY = "category"
    ORDERED = "ordered"
    NUMBER = "number"
    DATE = "date"
    TEXT = "text"
    MULTI = "multi"


_LONGEST_LABEL = 2000  # characters: of a longer text nobody reads more, and charts repeat it in tips


class LevelOrder(StrEnum):
    """Where the order of a variable's levels comes from."""

    CODEBOOK = marked("codebook order")
    KNOWN = marked("usual order")
    NUMBERS = marked("by number")
    BANDS = marked("from low to high")
    LISTED = marked("as listed")
    AS_FOUND = marked("as found")


class LevelRole(StrEnum):
    """What a level stands for."""

    PLAIN = "plain"
    TOTAL = "total"
    REST = "rest"
    NET = "net"
    NO_ANSWER = "no answer"
    NO_BAND = "no band"


class Level(Struct, frozen=True):
    """One category of a variable: the code that is stored and the label that is shown.

    Attributes:
        code: What is stored.
        label: What is shown.
        color: Its own colour, `#rrggbb`; None where a palette decides.
        role: What it stands for; a label never tells that.
    """

    code: str
    label: str
    color: str | None = None
    role: LevelRole = LevelRole.PLAIN

    def __post_init__(self) -> None:
        if len(self.label) > _LONGEST_LABEL:
            force_setattr(self, "label", f"{self.label[:_LONGEST_LABEL]}… ({len(self.label):,} characters)")
        if not self.label.isprintable():
            force_setattr(self, "label", visible(self.label))

    @property
    def is_total(self) -> bool:
        """Whether it stands for all others together."""
        return self.role is LevelRole.TOTAL

    @property
    def is_rest(self) -> bool:
        """Whether it stands for the small ones together."""
        return self.role is LevelRole.REST

    @property
    def is_net(self) -> bool:
        """Whether it stands for some of the others together, which are shown too."""
        return self.role is LevelRole.NET

    @property
    def is_sum(self) -> bool:
        """Whether it stands for others together that are shown beside it: a total, or a net."""
        return self.is_total or self.is_net

    @property
    def is_no_answer(self) -> bool:
        """Whether it stands for records without an answer."""
        return self.role is LevelRole.NO_ANSWER and self.code == NO_ANSWER_CODE

    @property
    def is_no_band(self) -> bool:
        """Whether it stands for values that fall in no band."""
        return self.role is LevelRole.NO_BAND

    @property
    def is_special(self) -> bool:
        """Whether it is no step or kind of its own: a total, a net, the rest, no answer or no band."""
        return self.role is not LevelRole.PLAIN

    @property
    def key(self) -> str:
        """A name that no other level of its variable has, whatever codes there are."""
        if self.role is LevelRole.PLAIN:
            code = self.code
            if len(code) > _LONGEST_LABEL:
                code = f"{code[:20]}… {blake2b(code.encode('utf-8', 'replace'), digest_size=16).hexdigest()}"
            return f"*{code}" if code.startswith("*") else code
        return f"*{self.role.value}{f':{self.code}' if self.is_net else ''}"


EVERYTHING = "\x00everything"  # the name of a column that puts all records into one level
NO_ANSWER_CODE, NO_BAND_CODE = "", "\x00no band"
MOST_BANDS = 500  # more than this can be read by nobody, empty ones between counted


def no_answer() -> Level:
    """The level of records without an answer, where that is shown."""
    return Level(NO_ANSWER_CODE, phrase("No answer"), role=LevelRole.NO_ANSWER)


def no_band() -> Level:
    """The level of values that fall in no band."""
    return Level(NO_BAND_CODE, phrase("In no band"), role=LevelRole.NO_BAND)


class Variable(Struct, frozen=True):
    """A column with everything a table or a chart needs to write about it.

    Attributes:
        name: The column's name in the records.
        kind: How its values are understood.
        label: The words shown for it.
        unit: What a number counts or measures, such as `minutes` or `€`; may be empty.
        levels: Its categories in their order; empty for numbers.
        order: Where that order comes from.
        outside: Values that fall in none of its bands, a few of them, as text.
        good: Which end of its levels the codebook calls the good one: `first` or `last`; empty where it does not.
    """

    name: str
    kind: Kind = Kind.CATEGORY
    label: str = ""
    unit: str = ""
    levels: tuple[Level, ...] = ()
    order: LevelOrder = LevelOrder.AS_FOUND
    outside: tuple[str, ...] = ()
    good: str = ""

    def __post_init__(self) -> None:
        if not self.label:
            force_setattr(self, "label", readable(self.name))
        if not (self.label.isprintable() and self.unit.isprintable()):
            force_setattr(self, "label", visible(self.label))
            force_setattr(self, "unit", visible(self.unit))

    @property
    def has_natural_order(self) -> bool:
        """Whether its levels stand in an order of their own, so that sorting by size would lose something."""
        return self.order is not LevelOrder.AS_FOUND

    @property
    def is_ordered(self) -> bool:
        """Whether its levels run from low to high, as opposed to merely standing in a given order."""
        by_nature = self.order in (LevelOrder.KNOWN, LevelOrder.NUMBERS, LevelOrder.BANDS)
        return self.kind is Kind.ORDERED or by_nature

    @property
    def good_end(self) -> str:
        """Which end of its levels is the good one, as the codebook says or as everybody knows; empty otherwise."""
        return self.good or good_end([level.label for level in self.levels if not level.is_special])

    @property
    def in_sentence(self) -> str:
        """Its label as it stands within a sentence: `Waiting time` becomes `waiting time`, `GP visits` stays."""
        return lowered(self.label)

    def with_levels(self, levels: tuple[Level, ...], order: LevelOrder) -> "Variable":
        """The same variable with other levels."""
        return replace(self, levels=levels, order=order)


def readable(name: str) -> str:
    """A column name as words: `sailings_in_stratum` becomes `sailings in stratum`."""
    return " ".join(name.replace("_", " ").split()) or name
