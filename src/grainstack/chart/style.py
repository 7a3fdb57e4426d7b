"""The look of a chart as data: type sizes, strokes and spacing, all in points for a picture of 640 × 400."""

from dataclasses import dataclass, fields, replace
from math import sqrt

STANDARD = (640.0, 400.0)
_LEAST_SCALE = 0.7


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
        bar_most: The thickest a bar may be.
        least_type: The smallest type that may be used to make things fit.
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
    bar_most: float = 45.0
    least_type: float = 5.0

    def for_size(self, width: float, height: float) -> "Style":
        """The style for a picture of this size: everything grows and shrinks with it, within what can be read."""
        scale = max(sqrt(width * height / (STANDARD[0] * STANDARD[1])), _LEAST_SCALE)
        return replace(self, **{item.name: getattr(self, item.name) * scale for item in fields(self)})


REPORT = Style()
