"""How much of each pixel a shape covers, from 0 to 1; exact for shapes of straight edges.

A pixel counts as a square of side 1: pixel 0 of a row reaches from 0 to 1.
"""

from collections.abc import Iterator, Sequence
from math import hypot, sqrt

import numpy as np
import numpy.typing as npt

from grainstack.paint.hatching import SHORT, SPACING, STROKE
from grainstack.quick import dataclass

Coverage = npt.NDArray[np.float32]
Edges = tuple[float, float, float, float]  # left, top, right and bottom, in pixels
Outline = Sequence[tuple[float, float]]  # the corners of a shape, in pixels; the last one is joined to the first

_Numbers = npt.NDArray[np.float64]
_AT_ONCE = 1 << 19  # pixels: what is worked out about them stays in the processor's memory


@dataclass(frozen=True, slots=True)
class Window:
    """A rectangle of whole pixels.

    Attributes:
        left: Its first column.
        top: Its first row.
        right: The column behind its last one.
        bottom: The row behind its last one.
    """

    left: int
    top: int
    right: int
    bottom: int

    @property
    def columns(self) -> Coverage:
        """The centres of its columns, shape (columns,)."""
        return np.arange(self.left, self.right, dtype=np.float32) + np.float32(0.5)

    @property
    def rows(self) -> Coverage:
        """The centres of its rows, shape (rows,)."""
        return np.arange(self.top, self.bottom, dtype=np.float32) + np.float32(0.5)

    @property
    def place(self) -> tuple[slice, slice]:
        """Its rows and columns in a picture."""
        return slice(self.top, self.bottom), slice(self.left, self.right)

    def bands(self) -> "Iterator[Window]":
        """Its rows, as many at a time as are worked out together."""
        tall = max(_AT_ONCE // (self.right - self.left), 1)
        for top in range(self.top, self.bottom, tall):
            yield Window(self.left, top, self.right, min(top + tall, self.bottom))


def between(centres: Coverage, low: float, high: float) -> Coverage:
    """How much of each pixel along a line lies between two places.

    Args:
        centres: Where the pixels have their centres.
        low: The first place.
        high: The second; nothing lies between them if it is the lower.
    """
    covered: Coverage = np.minimum(centres + np.float32(0.5), high) - np.maximum(centres - np.float32(0.5), low)
    return np.clip(covered, 0, 1, out=covered)


def between_diagonals(centres: Coverage, low: float, high: float) -> Coverage:
    """How much of each pixel lies between two diagonals.

    Args:
        centres: x + y of the centre of each pixel, or x − y.
        low: That of the first diagonal.
        high: That of the second.
    """

    def before(diagonal: float) -> Coverage:
        """How much more than half of a pixel lies before a diagonal; its corners are 1 before and behind its centre."""
        nearer = np.clip(np.float32(diagonal) - centres, -1, 1)
        covered: Coverage = nearer - nearer * np.abs(nearer) / 2
        return covered

    return before(high) - before(low)


def box(window: Window, edges: Edges) -> Coverage:
    """A rectangle along the pixels.

    Args:
        window: The pixels asked for.
        edges: Where it lies.
    """
    left, top, right, bottom = edges
    return np.multiply.outer(between(window.rows, top, bottom), between(window.columns, left, right))


def stroke(start: tuple[float, float], end: tuple[float, float], thickness: float) -> Outline:
    """The outline of a stroke with straight ends.

    Args:
        start: Its first end, in pixels.
        end: Its other end, elsewhere.
        thickness: How thick it is.
    """
    (x1, y1), (x2, y2) = start, end
    half = thickness / 2 / hypot(x2 - x1, y2 - y1)
    right, down = (y1 - y2) * half, (x2 - x1) * half
    return [(x1 - right, y1 - down), (x2 - right, y2 - down), (x2 + right, y2 + down), (x1 + right, y1 + down)]


def area(window: Window, outlines: Sequence[Outline]) -> Coverage:
    """A shape of straight edges; a hole in it is an outline that runs the other way round.

    Each edge is cut where it leaves a row, then where it leaves a pixel. What lies to the right of a piece is covered
    by as much of a row as the piece is high; the pixel it lies in, by its part to the right.

    Args:
        window: The pixels asked for.
        outlines: Its outlines.
    """
    tall, wide = window.bottom - window.top, window.right - window.left
    starts = np.array([corner for outline in outlines for corner in outline], dtype=float)
    ends = np.array([corner for outline in outlines for corner in (*outline[1:], outline[0])], dtype=float)
    corner = np.array((window.left, window.top))
    x1, y1 = (starts - corner).T
    x2, y2 = (ends - corner).T
    turned = y1 > y2
    sign = np.where(turned, -1.0, 1.0)
    upper_x, upper_y, lower_x, lower_y = (np.where(turned, *pair) for pair in ((x2, x1), (y2, y1), (x1, x2), (y1, y2)))
    high, low = np.clip(upper_y, 0, tall), np.clip(lower_y, 0, tall)
    crossing = low > high
    sign, upper_x, upper_y, lower_x, lower_y, high, low = (
        values[crossing] for values in (sign, upper_x, upper_y, lower_x, lower_y, high, low)
    )
    edge, row = _whole_steps(high, low)
    above, below = np.maximum(high[edge], row), np.minimum(low[edge], row + 1)
    enters, leaves = (
        upper_x[edge] + (lower_x - upper_x)[edge] * ((y - upper_y[edge]) / (lower_y - upper_y)[edge])
        for y in (above, below)
    )
    height = sign[edge] * (below - above)
    return _summed((tall, wide), row, np.minimum(enters, leaves), np.maximum(enters, leaves), height)


def _whole_steps(low: _Numbers, high: _Numbers) -> tuple[npt.NDArray[np.intp], npt.NDArray[np.intp]]:
    """For each whole step that stretches reach into, which stretch it is of and where it begins."""
    first = np.floor(low).astype(np.intp)
    count = np.maximum(np.ceil(high).astype(np.intp) - first, 1)
    stretch = np.repeat(np.arange(len(count)), count)
    before = np.cumsum(count) - count
    return stretch, first[stretch] + np.arange(len(stretch)) - before[stretch]


def _summed(
    shape: tuple[int, int], row: npt.NDArray[np.intp], left: _Numbers, right: _Numbers, height: _Numbers
) -> Coverage:
    """How much lies to the right of pieces of edges, each within one row; what is left of all pixels counts whole."""
    tall, wide = shape
    piece, column = _whole_steps(np.clip(left, 0, wide), np.clip(right, 0, wide))
    start, end = np.maximum(left[piece], column), np.minimum(right[piece], column + 1)
    across = right - left
    upright = across == 0
    across[upright] = 1
    part = np.where(upright[piece], left[piece] >= 0, np.maximum(end - start, 0) / across[piece]) * height[piece]
    outside = np.where(upright, left < 0, np.clip(-left / across, 0, 1)) * height
    inside = np.clip((start + end) / 2 - column, 0, 1)  # how far from the left side of its pixel
    line = wide + 2  # a piece at the right edge counts for the pixel behind it, which nobody sees
    place = row[piece] * line + column
    sums = np.bincount(place, part * (1 - inside), tall * line)
    sums += np.bincount(place + 1, part * inside, tall * line)
    sums += np.bincount(row * line, outside, tall * line)
    covered = np.cumsum(sums.reshape(tall, line)[:, :wide], axis=1, dtype=np.float64)
    return np.minimum(np.abs(covered), 1).astype(np.float32)


def pattern_coverage(hatch: str, window: Window, scale: float) -> Coverage:
    """How much of each pixel the strokes of a pattern cover: those of `strokes_over`, shape (rows, columns).

    Args:
        hatch: Its name; an unknown one covers nothing.
        window: The pixels asked for.
        scale: Pixels per point.
    """
    x, y = window.columns, window.rows[:, np.newaxis]
    every, thick = SPACING * scale, STROKE * scale

    def apart(at: Coverage, every: float = every, start: float = 0.0) -> Coverage:
        """How far places are from the nearest of those that are `every` pixels apart, one of them at `start`."""
        return (at - np.float32(start - every / 2)) % np.float32(every) - np.float32(every / 2)

    def diagonals(at: Coverage) -> Coverage:
        """Strokes along which x + y or x − y stays the same: across them, it grows by √2 a pixel."""
        return between_diagonals(apart(at), -thick / sqrt(2), thick / sqrt(2))

    nothing = np.zeros((len(y), len(x)), dtype=np.float32)
    if hatch in ("rising", "falling", "crossed"):
        rising = diagonals(x + y) if hatch != "falling" else nothing
        falling = diagonals(x - y) if hatch != "rising" else nothing
        return np.maximum(rising, falling)
    if hatch in ("level", "upright"):
        return nothing + between(apart(y if hatch == "level" else x), -thick / 2, thick / 2)
    if hatch in SHORT:
        long = SHORT[hatch] * scale
        even, odd = (
            between(apart(y, 2 * every, shift), -thick / 2, thick / 2)
            * between(apart(x, start=(long + shift) / 2), -long / 2, long / 2)
            for shift in (0, every)
        )
        return even + odd
    return nothing
