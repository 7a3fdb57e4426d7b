"""Boxes on the page, and the plane in which bars stand, whichever way they grow."""

from math import ceil, sqrt

from msgspec import Struct

from grainstack.chart.look.style import Style
from grainstack.chart.marks import Key

_PANEL_SHAPE = 1.35  # width to height: what a plot looks best in
_SMALLER = (0.7, 1.15)  # of the type size: at least, and for one row or column; it falls with the root of their number


class Box(Struct, frozen=True):
    """A rectangle on the page, in points, y downwards."""

    left: float
    top: float
    right: float
    bottom: float

    @property
    def width(self) -> float:
        """From left to right."""
        return self.right - self.left

    @property
    def height(self) -> float:
        """From top to bottom."""
        return self.bottom - self.top

    def meets(self, other: "Box", slack: float = 0.0) -> bool:
        """Whether two boxes overlap by more than `slack` points both ways."""
        across = min(self.right, other.right) - max(self.left, other.left)
        down = min(self.bottom, other.bottom) - max(self.top, other.top)
        return across > slack and down > slack

    def holds(self, other: "Box", slack: float = 0.0) -> bool:
        """Whether another box lies within this one, give or take `slack` points."""
        excess = self.left - other.left, other.right - self.right, self.top - other.top, other.bottom - self.bottom
        return max(excess) <= slack


class CellPosition(Struct, frozen=True):
    """Where the marks of one cell stand.

    Attributes:
        plane: The plot.
        middle: The middle of its bar along the categories, in points.
        thickness: The room across it in points.
        key: The cell.
    """

    plane: "Plane"
    middle: float
    thickness: float
    key: Key


class Plane(Struct, frozen=True):
    """The plot: categories along one side, values along the other.

    Attributes:
        frame: The room between the axes.
        box: Where the value axis runs within it, ends kept free for labels beyond bars.
        horizontal: Whether values grow to the right; otherwise they grow upwards.
        low: The value at the start of the value axis.
        high: The value at its end, above `low`.
        places: Where each category stands, in slots from the first.
        span: The length of the category axis in slots.
    """

    frame: Box
    box: Box
    horizontal: bool
    low: float
    high: float
    places: tuple[float, ...]
    span: float

    @property
    def slot(self) -> float:
        """The room of one category along its axis, in points."""
        return (self.box.height if self.horizontal else self.box.width) / self.span

    def value(self, value: float) -> float:
        """Where a value stands: an x when horizontal, a y when vertical; values beyond the axis stand at its end."""
        part = (value - self.low) / (self.high - self.low)
        part = 0.0 if part < 0.0 else min(part, 1.0)
        box = self.box
        if self.horizontal:
            return box.left + part * (box.right - box.left)
        return box.bottom - part * (box.bottom - box.top)

    def middle(self, slot: int) -> float:
        """The middle of a category's room: a y when horizontal, an x when vertical."""
        return (self.box.top if self.horizontal else self.box.left) + (self.places[slot] + 0.5) * self.slot

    def rectangle(self, middle: float, thickness: float, start: float, end: float) -> Box:
        """The box of a bar around a middle, between two values."""
        first, second = self.value(start), self.value(end)
        if second < first:
            first, second = second, first
        near, far = middle - thickness / 2, middle + thickness / 2
        return Box(first, near, second, far) if self.horizontal else Box(near, first, far, second)

    def point(self, middle: float, value: float) -> tuple[float, float]:
        """The x and y of a value at a place along the categories."""
        return (self.value(value), middle) if self.horizontal else (middle, self.value(value))


def grid_of_panels(count: int, wanted: int | None, body: Box) -> tuple[int, int]:
    """Columns and rows of panels: as asked, else so that each is a little wider than tall.

    Args:
        count: How many panels there are.
        wanted: How many stand side by side; None to choose.
        body: The room for all, in points.
    """
    columns = wanted or max(1, min(count, round(sqrt(count * body.width / max(body.height, 1.0) / _PANEL_SHAPE))))
    rows = ceil(count / min(columns, count))
    columns = min(columns, count) if wanted else ceil(count / rows)
    return columns, rows


def panel_style(style: Style, columns: int, rows: int) -> Style:
    """The sizes used inside plots: smaller the more of them there are.

    Args:
        style: That of the whole picture.
        columns: How many panels stand side by side.
        rows: How many stand under each other.
    """
    most = max(columns, rows)
    return style if most == 1 else style.smaller(max(_SMALLER[0], _SMALLER[1] / sqrt(most)))
