"""Which marks can be drawn together: rectangles that follow each other and of which no two lie over each other."""

from bisect import bisect_left
from collections.abc import Iterator, Sequence
from itertools import groupby

from grainstack.chart.scene import Mark, Rect

_TOUCHING = 1e-6  # points: neighbours share an edge up to what calculating it left over


def drawn_together(marks: Sequence[Mark], rim: float) -> Iterator[tuple[Mark, ...]]:
    """The marks in painting order, as groups within which the order makes no difference.

    Args:
        marks: Those of a scene.
        rim: How far an outline reaches beyond its rectangle, in points.
    """
    for rectangles, run in groupby(marks, key=lambda mark: isinstance(mark, Rect)):
        group = tuple(run)
        if rectangles and are_apart([mark for mark in group if isinstance(mark, Rect)], rim):
            yield group
        else:
            yield from ((mark,) for mark in group)


def are_apart(rects: Sequence[Rect], rim: float) -> bool:
    """Whether no two rectangles lie over each other, their outlines included.

    A line is swept over them from left to right. Those it crosses are apart, and so stand one below the other: each
    that it comes to has to be compared with its two neighbours only, not with all (Shamos & Hoey, 1976).

    Args:
        rects: The rectangles.
        rim: How far an outline reaches beyond its rectangle, in points.
    """
    crossings: list[tuple[float, bool, int]] = []  # those that end come before those that start
    spans: list[tuple[float, float, int]] = []
    for place, rect in enumerate(rects):
        more = (rim if rect.outline else 0.0) - _TOUCHING
        left, right = rect.x - more, rect.x + rect.width + more
        top, bottom = rect.y - more, rect.y + rect.height + more
        spans.append((top, bottom, place))
        if left < right and top < bottom:
            crossings += [(left, True, place), (right, False, place)]
    crossed: list[tuple[float, float, int]] = []  # from the top down
    for _, starts, place in sorted(crossings):
        span = spans[place]
        if not starts:
            del crossed[bisect_left(crossed, span)]
            continue
        at = bisect_left(crossed, span)
        over_it, under_it = at > 0 and crossed[at - 1][1] > span[0], at < len(crossed) and crossed[at][0] < span[1]
        if over_it or under_it:
            return False
        crossed.insert(at, span)
    return True
