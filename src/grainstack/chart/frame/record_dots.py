"""Records as dots: thinned where there are too many, spread without chance so that equal ones stand side by side."""

from collections.abc import Sequence

import numpy as np

from grainstack.quick import dataclass
from grainstack.summary.figures.quantiles import Counted
from grainstack.summary.sums.exact import Floats

MOST_DOTS = 3000  # more would print as one dark shape


@dataclass(frozen=True, slots=True)
class RecordDots:
    """The values of some cells as dots.

    Attributes:
        values: The values drawn in each cell, rising.
        drawn: How many dots there are.
        records: How many records they stand for.
    """

    values: tuple[Floats, ...]
    drawn: int
    records: int

    @property
    def note(self) -> str:
        """What is said when not every record is drawn."""
        if self.drawn == self.records:
            return "Each dot is one record."
        return f"Dots: {self.drawn:,} of {self.records:,} records, evenly from the lowest to the highest of each group."


def record_dots(cells: Sequence[Counted], most: int = MOST_DOTS) -> RecordDots:
    """The records of each cell, or where there are too many, as many at even ranks with the lowest and highest kept.

    Args:
        cells: The different values of each cell with how many records hold each.
        most: How many dots there may be in all, about.
    """
    total = sum(int(records.sum()) for _, records, _ in cells)
    factor = min(1.0, most / total) if total else 1.0
    drawn = []
    for values, records, _ in cells:
        n = int(records.sum())
        keep = n if factor == 1.0 else min(n, max(int(np.ceil(n * factor)), 2))
        if not n:
            drawn.append(np.zeros(0))
            continue
        ranks = np.arange(n) if keep == n else np.unique(np.round(np.linspace(0, n - 1, keep)).astype(np.int64))
        drawn.append(values[np.searchsorted(np.cumsum(records), ranks, side="right")])
    return RecordDots(tuple(drawn), sum(len(one) for one in drawn), total)


def dot_radius(places: Sequence[float], most: float, room: float) -> float:
    """The radius at which the fullest row of dots fits side by side, but never below two fifths of the largest.

    Args:
        places: Where dots stand along the value axis in points, rising.
        most: The largest radius in points.
        room: The room across in points.
    """
    if not len(places):
        return most
    row = np.floor((np.array(places) - places[0]) / (1.7 * most)).astype(np.int64)
    return max(min(most, room / (2.1 * int(np.bincount(row).max()))), most * 0.4)


def offsets(places: Sequence[float], radius: float, room: float) -> list[float]:
    """How far each dot stands aside from the middle, in points.

    Dots that would overlap stand side by side, the first in the middle and the others to both sides in turn; where the
    fullest row has no room, all rows draw together alike, so the shape still tells where records are dense.

    Args:
        places: Where dots stand along the value axis in points, rising.
        radius: The radius of a dot in points.
        room: The room across in points.
    """
    if not len(places):
        return []
    row = np.floor((np.array(places) - places[0]) / (1.7 * radius)).astype(np.int64)
    first = np.searchsorted(row, row, side="left")
    order = np.arange(len(places)) - first
    steps = (order + 1) // 2 * np.where(order % 2, 1, -1)
    widest = int(np.abs(steps).max())
    spacing = min(2.1 * radius, max(room / 2 - radius, 0.0) / widest) if widest else 0.0
    return [float(step) for step in steps * spacing]
