"""What a drawing is made of: rectangles, lines, dots, slices, texts and images, each with the figure it shows.

Points are 1/72 inch; the origin is the top left corner and y grows downwards.
"""

from enum import StrEnum
from functools import lru_cache
from math import acos, ceil, cos, degrees, radians, sin
from typing import Any

from msgspec import Struct, field
from msgspec.structs import replace

from grainstack.chart.look.color import text_on
from grainstack.chart.look.measures import CAP_HEIGHT


class Key(Struct, frozen=True):
    """The figure a mark shows, as a path of level codes that stays the same whatever its labels are.

    Attributes:
        panel: The code of the panel; empty where it does not apply.
        category: The codes of the categories, outermost first; likewise.
        series: The code of the series; likewise.
    """

    panel: tuple[str, ...] = ()
    category: tuple[str, ...] = ()
    series: tuple[str, ...] = ()

    def parts(self) -> tuple[tuple[str, str], ...]:
        """The parts that are not empty, with their names; the codes of nested categories are parted by slashes."""
        named = (("panel", self.panel), ("category", self.category), ("series", self.series))
        return tuple((name, _path(codes)) for name, codes in named if codes)


@lru_cache(maxsize=4096)  # each path is a part of many keys
def _path(codes: tuple[str, ...]) -> str:
    return "/".join(code.replace("%", "%25").replace("/", "%2F") for code in codes)


ELLIPSIS = "…"
WHITE = "#ffffff"
BROKEN = (3.5, 2.5)  # of its thickness: a stroke and the gap behind it, in a line that is seen to be broken
PATTERNED = 1.0  # points: room for a stroke and as much beside it


class Weight(StrEnum):
    """How heavy a text is set."""

    REGULAR = "regular"
    SEMIBOLD = "semibold"


class Face(Struct, frozen=True):
    """One font file.

    Attributes:
        name: What its family is called.
        path: Where it is.
    """

    name: str
    path: str


class Typeface(Struct, frozen=True):
    """A typeface in the two weights charts are set in.

    Attributes:
        regular: Its ordinary weight.
        semibold: Its heavier one.
    """

    regular: Face
    semibold: Face

    def face(self, weight: Weight) -> Face:
        """The font file of a weight."""
        return self.regular if weight is Weight.REGULAR else self.semibold


class MarkRole(StrEnum):
    """What a mark is."""

    ANNOTATION = "annotation"
    AREA = "area"
    ASIDE = "aside"
    ASIDE_HEADING = "aside-heading"
    BAR = "bar"
    BASE = "base"
    BOX = "box"
    BRACKET = "bracket"
    BREAK = "break"
    CATEGORY = "category"
    CATEGORY_TITLE = "category-title"
    COLOR_BAR = "color-bar"
    DIFFERENCE = "difference"
    DOT = "dot"
    FOOTNOTE = "footnote"
    FRAME = "frame"
    GRID = "grid"
    GROUND = "ground"
    GROUP = "group"
    GROUP_LABEL = "group-label"
    HALO = "halo"
    LABEL = "label"
    LEADER = "leader"
    LEGEND = "legend"
    LEGEND_SWATCH = "legend-swatch"
    LETTER = "letter"
    LINE = "line"
    LOGO = "logo"
    MEAN = "mean"
    MEDIAN = "median"
    PANEL_TITLE = "panel-title"
    PAPER = "paper"
    PART = "part"
    RECORD = "record"
    REFERENCE = "reference"
    REFERENCE_LABEL = "reference-label"
    SECOND = "second"
    SECOND_DOT = "second-dot"
    SECOND_TICK = "second-tick"
    SECOND_TITLE = "second-title"
    SECOND_VALUE = "second-value"
    SLICE = "slice"
    SLICE_LABEL = "slice-label"
    SOURCE = "source"
    SPAN = "span"
    STEM = "stem"
    SUBTITLE = "subtitle"
    SWATCH = "swatch"
    TICK = "tick"
    TICK_MARK = "tick-mark"
    TILE = "tile"
    TITLE = "title"
    TOTAL = "total"
    VALUE = "value"
    VALUE_TITLE = "value-title"
    WHISKER = "whisker"


class Anchor(StrEnum):
    """Which point of a text stands at its x."""

    START = "start"
    MIDDLE = "middle"
    END = "end"


class Rect(Struct, frozen=True):
    """A filled rectangle; its edges are (x, y) and (x + width, y + height).

    Attributes:
        hatch: A pattern that tells it apart where colours do not; empty for none.
        outline: The colour of a thin line around it; empty for none.
        opacity: How solid it is, up to 1.
        broken: Whether that line is broken.
    """

    x: float
    y: float
    width: float
    height: float
    fill: str
    role: MarkRole
    key: Key = field(default_factory=Key)
    tip: str = ""
    hatch: str = ""
    outline: str = ""
    opacity: float = 1.0
    broken: bool = False

    @property
    def pattern(self) -> str:
        """The colour of its pattern: the one that reads best on its fill."""
        return text_on(self.fill)

    @property
    def shown_hatch(self) -> str:
        """Its pattern where it is wide enough to show one; in a hair, strokes would be a grey of no meaning."""
        return self.hatch if min(self.width, self.height) >= PATTERNED else ""


class Line(Struct, frozen=True):
    """A straight stroke from (x1, y1) to (x2, y2)."""

    x1: float
    y1: float
    x2: float
    y2: float
    stroke: str
    thickness: float
    role: MarkRole
    key: Key = field(default_factory=Key)
    tip: str = ""


class Dot(Struct, frozen=True):
    """A filled disc around (x, y).

    Attributes:
        outline: The colour of a thin ring around it; empty for none.
        opacity: How solid it is, up to 1.
    """

    x: float
    y: float
    radius: float
    fill: str
    role: MarkRole
    key: Key = field(default_factory=Key)
    tip: str = ""
    outline: str = ""
    opacity: float = 1.0


class Sector(Struct, frozen=True):
    """A part of a disc or ring around (x, y).

    Attributes:
        radius: Its outer radius.
        inner: Its inner radius; 0 for a slice of a disc.
        start: Where it begins, in degrees clockwise from twelve o'clock.
        end: Where it ends; at most 360 beyond the start.
        hatch: A pattern that tells it apart where colours do not; empty for none.
        outline: The colour of a thin line around it; empty for none.
    """

    x: float
    y: float
    radius: float
    inner: float
    start: float
    end: float
    fill: str
    role: MarkRole
    key: Key = field(default_factory=Key)
    tip: str = ""
    hatch: str = ""
    outline: str = ""

    @property
    def pattern(self) -> str:
        """The colour of its pattern: the one that reads best on its fill."""
        return text_on(self.fill)

    @property
    def shown_hatch(self) -> str:
        """Its pattern."""
        return self.hatch


class Area(Struct, frozen=True):
    """A filled shape with straight sides, from corner to corner and back to the first.

    Attributes:
        corners: The x and y of each, in order.
        hatch: A pattern that tells it apart where colours do not; empty for none.
        opacity: How solid it is, up to 1.
    """

    corners: tuple[tuple[float, float], ...]
    fill: str
    role: MarkRole
    key: Key = field(default_factory=Key)
    tip: str = ""
    hatch: str = ""
    opacity: float = 1.0

    @property
    def pattern(self) -> str:
        """The colour of its pattern: the one that reads best on its fill."""
        return text_on(self.fill)

    @property
    def shown_hatch(self) -> str:
        """Its pattern."""
        return self.hatch


class Text(Struct, frozen=True):
    """One line of text.

    Attributes:
        x: Where its anchor stands.
        y: Its baseline.
        content: The characters.
        size: Type size in points.
        width: Its measured width in points.
        ground: The colour behind it, for checking contrast.
        tip: The full text when `content` is shortened.
        turned: Whether it is turned by a quarter around its anchor, so that it reads upwards.
    """

    x: float
    y: float
    content: str
    size: float
    width: float
    fill: str
    role: MarkRole
    weight: Weight = Weight.REGULAR
    anchor: Anchor = Anchor.START
    ground: str = WHITE
    key: Key = field(default_factory=Key)
    tip: str = ""
    turned: bool = False

    @property
    def before(self) -> float:
        """How far its first character starts before its anchor, along the way it reads."""
        return {Anchor.START: 0.0, Anchor.MIDDLE: 0.5, Anchor.END: 1.0}[self.anchor] * self.width

    @property
    def left(self) -> float:
        """Where its first character starts, unless it is turned."""
        return self.x - self.before

    @property
    def box(self) -> tuple[float, float, float, float]:
        """Left, top, right and bottom of the room its letters take: capital height above, descent below."""
        below = descent(self.content) * self.size
        if self.turned:
            start = self.y + self.before
            return self.x - CAP_HEIGHT * self.size, start - self.width, self.x + below, start
        return self.left, self.y - CAP_HEIGHT * self.size, self.left + self.width, self.y + below


class Image(Struct, frozen=True):
    """A picture in the picture, such as a logo; its edges are (x, y) and (x + width, y + height).

    Attributes:
        data: The bytes of a PNG file.
    """

    x: float
    y: float
    width: float
    height: float
    data: bytes
    role: MarkRole
    key: Key = field(default_factory=Key)
    tip: str = ""


Mark = Rect | Line | Dot | Sector | Area | Text | Image


_ON_THE_LINE = frozenset("0123456789.%+-−–=*† nABCDEFGHIKLMNOPRSTUVWXYZ")


def descent(content: str) -> float:
    """How far a text reaches below its baseline, in type sizes: figures stand on it, a comma hangs a little."""
    below = set(content) - _ON_THE_LINE
    return 0.0 if not below else 0.15 if below == {","} else 0.21


_ROUND = 0.02  # points, or pixels: a chord that is no further off its arc is seen as a part of it
_COARSEST = 20.0  # degrees between two points of the smallest arc


def arc_points(x: float, y: float, radius: float, start: float, end: float) -> list[tuple[float, float]]:
    """Points along an arc, close enough to look round, both ends included.

    Args:
        x: The centre; likewise `y`.
        y: The centre.
        radius: In points, or in pixels.
        start: In degrees clockwise from twelve o'clock.
        end: The same; may be below the start, to run backwards.
    """
    apart = 2 * degrees(acos(1 - _ROUND / radius)) if radius > _ROUND else _COARSEST
    steps = max(2, ceil(abs(end - start) / min(apart, _COARSEST)))
    angles = (radians(start + (end - start) * step / steps) for step in range(steps + 1))
    return [(x + radius * sin(angle), y - radius * cos(angle)) for angle in angles]


_LENGTHS = ("x", "y", "x1", "y1", "x2", "y2", "width", "height", "thickness", "radius", "inner", "size")


def scaled_mark(mark: Mark, by: float) -> Mark:
    """A mark of another size; one that is too thin for its pattern stays without."""
    changed: dict[str, Any] = {name: getattr(mark, name) * by for name in _LENGTHS if hasattr(mark, name)}
    if isinstance(mark, Rect):
        changed["hatch"] = mark.shown_hatch
    if isinstance(mark, Area):
        changed["corners"] = tuple((x * by, y * by) for x, y in mark.corners)
    return replace(mark, **changed)


def moved_mark(mark: Mark, right: float, down: float) -> Mark:
    """A mark elsewhere."""
    if isinstance(mark, Area):
        return replace(mark, corners=tuple((x + right, y + down) for x, y in mark.corners))
    if isinstance(mark, Line):
        return replace(mark, x1=mark.x1 + right, y1=mark.y1 + down, x2=mark.x2 + right, y2=mark.y2 + down)
    return replace(mark, x=mark.x + right, y=mark.y + down)
