"""The look of a chart as data: type sizes, strokes, spacing and colours, for a picture of 640 × 400 points.

Each style is a file in `styles/` that holds nothing else.
"""

from dataclasses import fields, replace
from importlib import import_module
from math import sqrt

from grainstack.quick import dataclass

STANDARD = (640.0, 400.0)
_LEAST_SCALE = 0.7  # smaller strokes and gaps are not seen in print
_LEAST_MARGIN = 0.35  # a small picture is set into the margins of a page
_TYPE = ("title", "subtitle", "legend", "category", "base", "value", "tick", "note")


@dataclass(frozen=True, slots=True)
class Style:
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
        hatched: Whether series are told apart by patterns too.
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
    hatched: bool = False
    slender: bool = False

    def for_size(self, width: float, height: float) -> "Style":
        """The style for a picture of this size: everything grows and shrinks with it, within what can be read."""
        raw = sqrt(width * height / (STANDARD[0] * STANDARD[1]))
        scale = max(raw, _LEAST_SCALE)
        sizes = {item.name: getattr(self, item.name) * scale for item in fields(self) if item.type is float}
        sizes["margin"] = self.margin * max(raw, _LEAST_MARGIN)
        del sizes["least_type"]  # what can be read does not depend on how large the picture is
        for name in _TYPE:
            sizes[name] = max(sizes[name], self.least_type)
        return replace(self, **sizes)

    def smaller(self, factor: float) -> "Style":
        """The style with smaller type and marks inside the plot, as panels need; never below the least type."""
        names = ("category", "base", "value", "tick", "legend", "cap", "dot", "gap")  # type first
        sizes = {name: getattr(self, name) * factor for name in names}
        for name in names[:-3]:
            sizes[name] = max(sizes[name], self.least_type)
        return replace(self, **sizes)


def style_named(name: str) -> Style:
    """The style of a name, from its own file."""
    style: Style = import_module(f"grainstack.chart.look.styles.{name}").STYLE
    return style
