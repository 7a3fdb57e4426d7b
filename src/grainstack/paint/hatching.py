"""Patterns of thin strokes that tell fills apart without colour, the same in every format."""

from collections.abc import Iterator
from math import sqrt
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from grainstack.paint.coverage import Coverage, Window

STROKE = 0.5  # points: thinner than the stems of the smallest type on it
SPACING = 5.0  # points: wide enough to be seen as lines at arm's length, narrow enough for a small segment
_SHORT = {"dots": 0.8, "dashes": 2.4}

Stroke = tuple[float, float, float, float]


def strokes_over(hatch: str, left: float, top: float, right: float, bottom: float) -> Iterator[Stroke]:
    """The strokes of a pattern that cross a rectangle, to be clipped to the shape inside it.

    They lie on one grid for the whole picture, so that neighbours continue each other, and end just beyond the
    rectangle: a hair of some length would be crossed by diagonals of that length, and drawing them takes as long.

    Args:
        hatch: Its name; an unknown one has no strokes.
        left: The rectangle, in points; likewise the other sides.
        top: Its top.
        right: Its right side.
        bottom: Its bottom.
    """
    if hatch in ("rising", "crossed"):
        for at in _multiples(left + top, right + bottom):  # x + y
            low, high = min(bottom, at - left) + STROKE, max(top, at - right) - STROKE
            yield at - low, low, at - high, high
    if hatch in ("falling", "crossed"):
        for at in _multiples(left - bottom, right - top):  # x − y
            high, low = max(top, left - at) - STROKE, min(bottom, right - at) + STROKE
            yield at + high, high, at + low, low
    if hatch == "level":
        yield from ((left, at, right, at) for at in _multiples(top, bottom))
    if hatch == "upright":
        yield from ((at, top, at, bottom) for at in _multiples(left, right))
    if hatch in _SHORT:
        yield from _short(_SHORT[hatch], left, top, right, bottom)


def _short(long: float, left: float, top: float, right: float, bottom: float) -> Iterator[Stroke]:
    """Rows of short strokes, every other row shifted."""
    for y in _multiples(top, bottom):
        shift = SPACING / 2 if round(y / SPACING) % 2 else 0.0
        yield from ((x + shift, y, x + shift + long, y) for x in _multiples(left - SPACING, right))


def _multiples(low: float, high: float) -> Iterator[float]:
    place = -(-low // SPACING) * SPACING
    while place <= high:
        yield place
        place += SPACING


def pattern_coverage(hatch: str, window: "Window", scale: float) -> "Coverage":
    """How much of each pixel the strokes of a pattern cover: those of `strokes_over`, shape (rows, columns).

    Args:
        hatch: Its name; an unknown one covers nothing.
        window: The pixels asked for.
        scale: Pixels per point.
    """
    import numpy as np  # noqa: PLC0415 - only pixels need it

    from grainstack.paint.coverage import between, between_diagonals  # noqa: PLC0415

    x, y = window.columns, window.rows[:, np.newaxis]
    every, thick = SPACING * scale, STROKE * scale

    def apart(at: "Coverage", every: float = every, start: float = 0.0) -> "Coverage":
        """How far places are from the nearest of those that are `every` pixels apart, one of them at `start`."""
        return (at - np.float32(start - every / 2)) % np.float32(every) - np.float32(every / 2)

    def diagonals(at: "Coverage") -> "Coverage":
        """Strokes along which x + y or x − y stays the same: across them, it grows by √2 a pixel."""
        return between_diagonals(apart(at), -thick / sqrt(2), thick / sqrt(2))

    nothing = np.zeros((len(y), len(x)), dtype=np.float32)
    if hatch in ("rising", "falling", "crossed"):
        rising = diagonals(x + y) if hatch != "falling" else nothing
        falling = diagonals(x - y) if hatch != "rising" else nothing
        return np.maximum(rising, falling)
    if hatch in ("level", "upright"):
        return nothing + between(apart(y if hatch == "level" else x), -thick / 2, thick / 2)
    if hatch in _SHORT:
        long = _SHORT[hatch] * scale
        even, odd = (
            between(apart(y, 2 * every, shift), -thick / 2, thick / 2)
            * between(apart(x, start=(long + shift) / 2), -long / 2, long / 2)
            for shift in (0, every)
        )
        return even + odd
    return nothing
