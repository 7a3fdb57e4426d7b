"""Labels along a line: as near as can be to where they belong, and never too close to each other."""

from collections.abc import Sequence


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
