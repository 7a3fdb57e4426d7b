"""Boxes on the page, and the plane in which bars stand, whichever way they grow."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Box:
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


@dataclass(frozen=True, slots=True)
class Plane:
    """The plot: categories along one side, values along the other.

    Attributes:
        frame: The room between the axes.
        box: Where the value axis runs within it, ends kept free for labels beyond bars.
        horizontal: Whether values grow to the right; otherwise they grow upwards.
        low: The value at the start of the value axis.
        high: The value at its end, above `low`.
        slots: How many categories share the other axis.
    """

    frame: Box
    box: Box
    horizontal: bool
    low: float
    high: float
    slots: int

    @property
    def value_length(self) -> float:
        """The length of the value axis in points."""
        return self.box.width if self.horizontal else self.box.height

    @property
    def slot(self) -> float:
        """The room of one category along its axis, in points."""
        return (self.box.height if self.horizontal else self.box.width) / self.slots

    def value(self, value: float) -> float:
        """Where a value stands: an x when horizontal, a y when vertical."""
        part = (value - self.low) / (self.high - self.low)
        return self.box.left + part * self.box.width if self.horizontal else self.box.bottom - part * self.box.height

    def middle(self, slot: int) -> float:
        """The middle of a category's room: a y when horizontal, an x when vertical."""
        return (self.box.top if self.horizontal else self.box.left) + (slot + 0.5) * self.slot

    def rectangle(self, middle: float, thickness: float, start: float, end: float) -> Box:
        """The box of a bar around a middle, between two values."""
        first, second = sorted((self.value(start), self.value(end)))
        near, far = middle - thickness / 2, middle + thickness / 2
        return Box(first, near, second, far) if self.horizontal else Box(near, first, far, second)

    def point(self, middle: float, value: float) -> tuple[float, float]:
        """The x and y of a value at a place along the categories."""
        return (self.value(value), middle) if self.horizontal else (middle, self.value(value))
