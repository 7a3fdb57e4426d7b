"""Patterns of thin strokes that tell fills apart without colour, the same in every format."""

from collections.abc import Iterator

STROKE = 0.5  # points: thinner than the stems of the smallest type on it
SPACING = 5.0  # points: wide enough to be seen as lines at arm's length, narrow enough for a small segment
SHORT = {"dots": 0.8, "dashes": 2.4}  # points: how long the strokes of patterns of short ones are

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
    if hatch in SHORT:
        yield from _short(SHORT[hatch], left, top, right, bottom)


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
