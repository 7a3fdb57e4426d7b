"""The lowest and highest value of each cell."""

import numpy as np
from msgspec import Struct, field

from grainstack.summary.sums.cell_index import Cells
from grainstack.summary.sums.exact import Floats, Integers


def _none() -> Floats:
    return np.zeros(0)


class Extremes(Struct):
    """Per cell the lowest and highest value; infinite in an empty cell.

    Attributes:
        low: Shape (cells,).
        high: Shape (cells,).
    """

    low: Floats = field(default_factory=_none)
    high: Floats = field(default_factory=_none)

    def absorb(self, cells: Cells, count: int, values: Floats) -> None:
        """Adds records; negative cells and NaN are passed over."""
        keep = (cells >= 0) & ~np.isnan(values)
        low, high = np.full(count, np.inf), np.full(count, -np.inf)
        np.minimum.at(low, cells[keep], values[keep])
        np.maximum.at(high, cells[keep], values[keep])
        self.merge(Extremes(low, high), np.arange(count))

    def merge(self, other: "Extremes", places: Integers) -> None:
        """Adds other cells; `places` says where each of them stands here, several may share a place."""
        missing = int(places.max(initial=-1)) + 1 - len(self.low)
        if missing > 0:
            self.low = np.concatenate([self.low, np.full(missing, np.inf)])
            self.high = np.concatenate([self.high, np.full(missing, -np.inf)])
        np.minimum.at(self.low, places, other.low)
        np.maximum.at(self.high, places, other.high)

    def regrouped(self, inside: Integers, places: Integers, count: int) -> "Extremes":
        """The extremes of groups of cells: the cells `inside` go to these `places`, shape (inside,) both."""
        result = Extremes(np.full(count, np.inf), np.full(count, -np.inf))
        result.merge(Extremes(self.low[inside], self.high[inside]), places)
        return result
