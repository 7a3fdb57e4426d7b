"""Replicate weights: the same sums under other weights."""

import numpy as np
from msgspec import Struct, field

from grainstack.summary.sums.cell_index import Cells
from grainstack.summary.sums.design import Pair, Ratios
from grainstack.summary.sums.exact import ExactSums, Floats, Integers
from grainstack.summary.sums.factors import Column
from grainstack.summary.sums.values import Values


class ReplicateSums(Struct):
    """For each replicate weight the sums per cell.

    Attributes:
        x: Of each ratio the numerators.
        y: Of each ratio the denominators.
        values: The different values of some measures.
    """

    x: dict[Pair, list[ExactSums]] = field(default_factory=dict)
    y: dict[Pair, list[ExactSums]] = field(default_factory=dict)
    values: dict[str, list[Values]] = field(default_factory=dict)

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
        for measure, each in self.values.items():
            column, _ = ratios[measure, None]
            each.extend(Values() for _ in weights[len(each) :])
            if column is not None:
                for kept, weight in zip(each, weights, strict=True):
                    kept.absorb(cells, column, Column(weight), None)

    def merge(self, other: "ReplicateSums", places: Integers, count: int) -> None:
        """Adds another set; `places` says where each of its cells stands here."""
        for mine, theirs in ((self.x, other.x), (self.y, other.y)):
            for name, sums in theirs.items():
                of_each = mine.setdefault(name, [ExactSums() for _ in sums])
                for one, added in zip(of_each, sums, strict=True):
                    one.merge(added, places, count)
        for measure, each in self.values.items():
            each.extend(Values() for _ in other.values[measure][len(each) :])
            for values, those in zip(each, other.values[measure], strict=False):
                values.merge(those, places)

    def shown(self, pair: Pair, inside: Integers, places: Integers, count: int) -> tuple[Floats, Floats]:
        """Numerators and denominators of the cells shown under each replicate, shape (replicates, cells) both."""
        both = []
        for sums in (self.x[pair], self.y[pair]):
            for one in sums:
                one.merge(ExactSums(), np.zeros(0, dtype=np.int64), int(inside.max(initial=-1)) + 1)
            both.append(np.array([one.at(inside).regrouped(places, count).values() for one in sums]))
        return both[0], both[1]
