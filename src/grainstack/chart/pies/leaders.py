"""Lines from slices to their labels: spread out along a side, and never across each other."""

from collections.abc import Sequence
from itertools import combinations


def spaced(wanted: Sequence[float], gap: float, low: float, high: float) -> list[float]:
    """Places as near as can be to those wanted, in the same order, at least `gap` apart and within a range.

    Neighbours that are too close form a block around their mean; blocks merge until none is too close (pool adjacent
    violators). Where the range is too short for all, they share it out evenly.

    Args:
        wanted: The places wanted, rising or not.
        gap: The least distance.
        low: The lowest place allowed.
        high: The highest.
    """
    if not wanted:
        return []
    room = max(high - low, 0.0)
    if gap * (len(wanted) - 1) > room:
        step = room / max(len(wanted) - 1, 1)
        return [low + place * step for place in range(len(wanted))]
    blocks: list[tuple[float, int]] = []  # the sum of wanted places less their offsets, and how many there are
    for place, value in enumerate(wanted):
        total, count = value - gap * place, 1
        while blocks and blocks[-1][0] / blocks[-1][1] > total / count:
            before = blocks.pop()
            total, count = total + before[0], count + before[1]
        blocks.append((total, count))
    flat = [total / count for total, count in blocks for _ in range(count)]
    top = high - gap * (len(wanted) - 1)
    return [min(max(value, low), top) + gap * place for place, value in enumerate(flat)]


def uncrossed(starts: Sequence[tuple[float, float]], ends: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """The ends in an order in which no line from a start to its end crosses another.

    Two lines that cross exchange their ends, which makes both together shorter; so it comes to an end.

    Args:
        starts: Where lines start.
        ends: Where they may end, one each.
    """
    found = list(ends)
    again = True
    while again:
        again = False
        for one, other in combinations(range(len(found)), 2):
            if crosses((*starts[one], *found[one]), (*starts[other], *found[other])):
                found[one], found[other] = found[other], found[one]
                again = True
    return found


def crosses(one: tuple[float, float, float, float], other: tuple[float, float, float, float]) -> bool:
    """Whether two lines from (x1, y1) to (x2, y2) cross between their ends."""

    def side(line: tuple[float, float, float, float], x: float, y: float) -> float:
        x1, y1, x2, y2 = line
        return (x2 - x1) * (y - y1) - (y2 - y1) * (x - x1)

    first = side(one, *other[:2]) * side(one, *other[2:])
    second = side(other, *one[:2]) * side(other, *one[2:])
    return first < -1e-9 and second < -1e-9
