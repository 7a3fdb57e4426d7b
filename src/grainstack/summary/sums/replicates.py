"""Replicate weights: the same figures under other weights, and the variance that comes of their differences."""

from dataclasses import field

import numpy as np

from grainstack.quick import dataclass
from grainstack.summary.sums.cell_index import Cells
from grainstack.summary.sums.design import Pair, Ratios
from grainstack.summary.sums.exact import ExactSums, Floats, Integers


@dataclass(slots=True)
class ReplicateSums:
    """For each ratio and each replicate weight the sums of numerator and denominator per cell."""

    x: dict[Pair, list[ExactSums]] = field(default_factory=dict)
    y: dict[Pair, list[ExactSums]] = field(default_factory=dict)

    def absorb(self, cells: Cells, count: int, ratios: Ratios, weights: list[Floats]) -> None:
        """Adds records; `weights` holds one array of shape (records,) per replicate."""
        ones = np.ones(len(cells))
        for name, both in ratios.items():
            x, y = (ones if column is None else column.numbers for column in both)
            keep = (cells >= 0) & ~np.isnan(x) & ~np.isnan(y)
            for sums, values in ((self.x, x[keep]), (self.y, y[keep])):
                mine = sums.setdefault(name, [ExactSums() for _ in weights])
                for one, weight in zip(mine, weights, strict=True):
                    one.add(cells[keep], weight[keep] * values, count)

    def merge(self, other: "ReplicateSums", places: Integers, count: int) -> None:
        """Adds another set; `places` says where each of its cells stands here."""
        for mine, theirs in ((self.x, other.x), (self.y, other.y)):
            for name, sums in theirs.items():
                own = mine.setdefault(name, [ExactSums() for _ in sums])
                for one, added in zip(own, sums, strict=True):
                    one.merge(added, places, count)

    def shown(self, pair: Pair, inside: Integers, places: Integers, count: int) -> tuple[Floats, Floats]:
        """Numerators and denominators of the cells shown under each replicate, shape (replicates, cells) both."""
        both = []
        for sums in (self.x[pair], self.y[pair]):
            for one in sums:
                one.merge(ExactSums(), np.zeros(0, dtype=np.int64), int(inside.max(initial=-1)) + 1)
            both.append(np.array([one.at(inside).regrouped(places, count).values() for one in sums]))
        return both[0], both[1]


@dataclass(frozen=True, slots=True)
class ReplicateSpread:
    """How figures differ from replicate to replicate.

    Attributes:
        differences: θ_r − θ, shape (replicates, cells).
        scale: What their squares are multiplied by.
    """

    differences: Floats
    scale: float

    @property
    def variance(self) -> Floats:
        """V = scale · Σ_r (θ_r − θ)², shape (cells,)."""
        return np.asarray(self.scale * (self.differences**2).sum(axis=0))

    def covariance(self, one: int, other: int) -> float:
        """The covariance of two cells."""
        return float(self.scale * (self.differences[:, one] * self.differences[:, other]).sum())
