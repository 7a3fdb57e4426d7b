"""Lines from slices to their labels, which never cross each other."""

from collections.abc import Sequence
from itertools import combinations

from grainstack.chart.look.measures import ROUNDING


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
    return first < -ROUNDING and second < -ROUNDING
