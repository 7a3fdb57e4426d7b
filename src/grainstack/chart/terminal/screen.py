"""A finished drawing for a terminal as plain values: marks on rows of character columns, with nothing left to decide.

The top row is 0 and the left column is 0. A bar may end within a column, in eighths.
"""

from msgspec import Struct, field

from grainstack.chart.marks import Key, MarkRole


class Bar(Struct, frozen=True):
    """A filled stretch of one row.

    Attributes:
        start: Its left end in columns; may lie within one.
        width: Its length in columns.
        row: The row.
        fill: Its colour.
        role: What it is.
        pattern: The number of the pattern that tells it apart where there are no colours.
        key: The figure it shows.
    """

    start: float
    width: float
    row: int
    fill: str
    role: MarkRole
    pattern: int = 0
    key: Key = field(default_factory=Key)


class Whisker(Struct, frozen=True):
    """A level stroke with ends, over what is there.

    Attributes:
        start: Its left end in columns.
        end: Its right end.
        row: The row.
        ink: Its colour on plain ground.
        key: The figure it belongs to.
    """

    start: float
    end: float
    row: int
    ink: str
    key: Key = field(default_factory=Key)


class Post(Struct, frozen=True):
    """A piece of an upright line through one row, behind what is there.

    Attributes:
        column: Where it stands.
        row: The row.
    """

    column: int
    row: int


class Characters(Struct, frozen=True):
    """Characters on one row.

    Attributes:
        column: Where the first one stands.
        row: The row.
        content: The characters.
        role: What they are.
        bold: Whether they are set bold.
        fill: Their colour; empty for the terminal's own.
        ground: The colour behind them; empty for the terminal's own.
        key: The figure they belong to.
    """

    column: int
    row: int
    content: str
    role: MarkRole
    bold: bool = False
    fill: str = ""
    ground: str = ""
    key: Key = field(default_factory=Key)


ScreenMark = Bar | Whisker | Post | Characters


class Screen(Struct, frozen=True):
    """A drawing for a terminal.

    Attributes:
        columns: Its width in character columns.
        rows: Its height in rows.
        marks: In painting order.
        alt: What it shows, in words, for readers who cannot see it.
        title: Its title.
    """

    columns: int
    rows: int
    marks: tuple[ScreenMark, ...]
    alt: str
    title: str = ""
