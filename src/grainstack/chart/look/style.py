"""The look of a chart as data: type sizes, strokes, spacing and colours, for a picture of 640 × 400 points."""

from math import sqrt

from msgspec import Struct
from msgspec.structs import replace

STANDARD = (640.0, 400.0)
_LEAST_SCALE = 0.7  # smaller strokes and gaps are not seen in print
_LEAST_MARGIN = 0.35  # a small picture is set into the margins of a page
TYPE = ("title", "subtitle", "legend", "category", "base", "value", "tick", "note")


class Style(Struct, frozen=True):
    """Sizes in points.

    Attributes:
        margin: Empty rim of the picture.
        title: Type size of the title; likewise `subtitle`, `legend`, `category`, `base`, `value`, `tick`, `note`.
        gap: Distance between a mark and its text.
        grid: Thickness of grid lines.
        part: Thickness of the line between neighbours.
        whisker: Thickness of whiskers; `cap` is half the width of their caps.
        dot: Radius of a dot that stands for a figure; `record` of one that stands for a record.
        line: Thickness of a line that joins figures.
        bar_most: The thickest a bar may be.
        least_type: The smallest type that may be used to make things fit.
        nominal: Palette of series without an order.
        ordered: Palette of series that run from low to high.
        sides: Palette of series on two sides of a middle.
        outline: Thickness of outlines, where they are asked for.
        hatched: Whether series are told apart by patterns too.
        ink: The colour of titles, names and figures; `muted` of notes and axes, `grid_color` of grid lines, `paper` of
            what is behind them.
        title_place: Where title and subtitle stand: `left`, `middle` or `right`; `note_place` where notes do.
        size: The size of pictures where none is asked for; empty for the usual one.
        font: The file of a typeface, and `font_semibold` of its heavier weight; `fallback` are files for what it lacks.
        logo: The file of a picture at `logo_place`, `logo_height` tall.
        format: How figures are written where nothing else is asked for; likewise `locale`.
        slender: Whether marks are dots and thin lines, which need more contrast with paper than bars.
    """

    margin: float = 20.0
    title: float = 14.0
    subtitle: float = 9.5
    legend: float = 8.2
    category: float = 9.0
    base: float = 6.8
    value: float = 8.2
    tick: float = 7.6
    note: float = 7.25
    gap: float = 4.0
    grid: float = 0.6
    part: float = 1.0
    whisker: float = 0.8
    cap: float = 3.0
    dot: float = 3.6
    record: float = 1.7
    line: float = 1.4
    bar_most: float = 45.0
    least_type: float = 6.0
    nominal: str = "fields"
    ordered: str = "meadow"
    sides: str = "furrow"
    outline: float = 0.6
    hatched: bool = False
    ink: str = "#1f2a33"
    muted: str = "#5c6770"
    grid_color: str = "#e3e6e8"
    paper: str = "#ffffff"
    title_place: str = "left"
    note_place: str = "left"
    size: str = ""
    font: str = ""
    font_semibold: str = ""
    fallback: tuple[str, ...] = ()
    logo: str = ""
    logo_place: str = "top-right"
    logo_height: float = 24.0
    format: str = ""
    locale: str = ""
    slender: bool = False

    def for_size(self, width: float, height: float) -> "Style":
        """The style for a picture of this size: everything grows and shrinks with it, within what can be read."""
        raw = sqrt(width * height / (STANDARD[0] * STANDARD[1]))
        scale = max(raw, _LEAST_SCALE)
        sizes = {name: getattr(self, name) * scale for name in SIZES}
        sizes["margin"] = self.margin * max(raw, _LEAST_MARGIN)
        del sizes["least_type"]  # what can be read does not depend on how large the picture is
        for name in TYPE:
            sizes[name] = max(sizes[name], self.least_type)
        return replace(self, **sizes)

    def smaller(self, factor: float) -> "Style":
        """The style with smaller type and marks inside the plot, as panels need; never below the least type."""
        names = ("category", "base", "value", "tick", "legend", "cap", "dot", "gap")  # type first
        sizes = {name: getattr(self, name) * factor for name in names}
        for name in names[:-3]:
            sizes[name] = max(sizes[name], self.least_type)
        return replace(self, **sizes)


SIZES = tuple(name for name, kind in Style.__annotations__.items() if kind is float)  # what grows with the picture
