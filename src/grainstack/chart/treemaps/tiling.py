"""Nested tiles in the unit of the page: near-square, parents around their children, nothing lost.

Tiling by Bruls, Huizing & van Wijk (2000), Squarified treemaps: rows are filled from the largest child on, each for as
long as the worst proportion in it gets better. A parent's children are laid out from its own rectangle alone, so a
change in one parent does not shuffle the tiles of another.
"""

from collections.abc import Sequence

Rectangle = tuple[float, float, float, float]


def squarified(sizes: Sequence[float], room: Rectangle) -> list[Rectangle]:
    """Rectangles in proportion to sizes, as near to squares as the rows allow.

    Args:
        sizes: All above 0, from the largest.
        room: Left, top, width and height of what they fill.

    Returns:
        Left, top, width and height of each, in the order of the sizes.
    """
    left, top, width, height = room
    total = sum(sizes)
    if not sizes or width <= 0 or height <= 0 or total <= 0:
        return [(left, top, 0.0, 0.0) for _ in sizes]
    scale = width * height / total
    areas = [size * scale for size in sizes]
    found: list[Rectangle] = []
    start = 0
    while start < len(areas):
        side = min(width, height)
        end, row = start + 1, areas[start]
        worst = _worst(areas[start], areas[start], row, side)
        while end < len(areas):
            longer = row + areas[end]
            next_worst = _worst(areas[start], areas[end], longer, side)
            if next_worst > worst:
                break
            row, worst, end = longer, next_worst, end + 1
        last = end == len(areas)
        thick = (max(width, height)) if last else row / side if side else 0.0
        at = top if width >= height else left
        for area in areas[start:end]:
            long = area / row * side if row else 0.0
            found.append((left, at, thick, long) if width >= height else (at, top, long, thick))
            at += long
        if width >= height:
            left, width = left + thick, max(width - thick, 0.0)
        else:
            top, height = top + thick, max(height - thick, 0.0)
        start = end
    return found


def _worst(largest: float, smallest: float, row: float, side: float) -> float:
    """The worst proportion in a row: its thickness against its longest or shortest member."""
    if smallest < 1e-100 or row < 1e-100 or not side:
        return float("inf")
    return max(side * side * largest / (row * row), row * row / (side * side * smallest))
