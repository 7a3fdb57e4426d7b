"""How cells hang together where records were drawn one by one: what the same records add to both.

For linearised values z of two cells, Σ z_a z_b over the records that stand in both, or in the base of either.
Categories of one whole exclude each other but share their base; questions and answers of the same people overlap.
"""

from functools import cached_property

import numpy as np
from msgspec import Struct

from grainstack.summary.figures.shown_sums import ShownSums
from grainstack.summary.statistics import Linear
from grainstack.summary.summary_request import Figure
from grainstack.summary.sums.design import COUNT, Pair, grown
from grainstack.summary.sums.exact import Floats, Integers, Mask


class Shared(Struct, frozen=True):
    """What two cells share, as sums of w² over records.

    Attributes:
        both: Records in both cells.
        first: Records in the first cell and in the base of the second.
        second: Records in the base of the first cell and in the second cell.
        bases: Records in both bases.
    """

    both: float
    first: float
    second: float
    bases: float


class Overlap:
    """The records that cells of a figure have in common.

    Args:
        figure: A count, share, sum, mean or rate.
        estimator: The sums of the cells; records must have been drawn one by one.
        estimate: The figure of each cell, shape (cells,).
    """

    def __init__(self, figure: Figure, estimator: ShownSums, estimate: Floats) -> None:
        self._figure, self._estimator, self._estimate = figure, estimator, estimate
        self._pair: Pair = (figure.measure, figure.per) if figure.measure else COUNT
        self._is_share = figure.statistic.linear is Linear.SHARE

    def products(self, one: int, other: int) -> Floats:
        """Σ z_one z_other in each unit of the design, shape (units,)."""
        if self._figure.statistic.linear is Linear.TOTAL:
            return self._of(self._cells[one], self._cells[other], 0)
        if not self._is_share:
            a, b = float(self._estimate[one]), float(self._estimate[other])
            xx, xy, yx, yy = (self._of(self._cells[one], self._cells[other], which) for which in range(4))
            return self._divided(xx - b * xy - a * yx + a * b * yy, one, other)
        both, first, second, bases = self._shared(one, other)
        p, q = float(self._estimate[one]), float(self._estimate[other])
        return self._divided(both - q * first - p * second + p * q * bases, one, other)

    def _divided(self, products: Floats, one: int, other: int) -> Floats:
        with np.errstate(invalid="ignore", divide="ignore"):
            return np.asarray(products / (self._below[one] * self._below[other]))

    def records(self, one: int, other: int) -> int:
        """How many records stand in both cells, or for shares in both bases."""
        sets = self._bases if self._is_share else self._cells
        return int(self._of(sets[one], sets[other], 4).sum())

    def shared(self, one: int, other: int) -> Shared:
        """What two cells of a share have in common, over all units."""
        return Shared(*(float(part.sum()) for part in self._shared(one, other)))

    def hang_together(self, one: int, other: int) -> bool:
        """Whether some record stands in both cells, or for shares in both bases."""
        return not self._all_apart and self.records(one, other) > 0

    @cached_property
    def _all_apart(self) -> bool:
        """Whether no record can stand in two cells shown: in one cell found each, and these in one shown each."""
        if self._is_share:
            return False
        _, one, other, _ = self._entries
        inside = np.bincount(self._estimator.grouping.inside, minlength=1)
        return bool((one == other).all()) and int(inside.max()) <= 1

    def _shared(self, one: int, other: int) -> tuple[Floats, Floats, Floats, Floats]:
        a, b = self._cells[one], self._cells[other]
        mine, theirs = self._bases[one], self._bases[other]
        return self._of(a, b, 0), self._of(a, theirs, 0), self._of(mine, b, 0), self._of(mine, theirs, 0)

    def _of(self, first: Mask, second: Mask, which: int) -> Floats:
        """A sum over the records that stand in a cell of the first set and in one of the second, shape (units,)."""
        units, one, other, amounts = self._entries
        inside = first[one] & second[other]
        return np.bincount(units[inside], amounts[which][inside], self._units).astype(np.float64)

    @property
    def _units(self) -> int:
        return len(self._estimator.strata_of_units)

    @cached_property
    def _entries(self) -> tuple[Integers, Integers, Integers, tuple[Floats, ...]]:
        """Of each two cells with records in common, themselves too, unit and cells; then the four sums and how many."""
        totals = self._estimator.totals
        joint, inner = totals.joint, len(totals.keys)
        parts, amounts = [], []
        for design, first, order in self._estimator.designs_by_record():
            if not design.has(self._pair):
                continue
            keys, sums = design.pairs.keys, design.ratio(self._pair)
            parts.append(np.column_stack([order[keys[:, 0]], keys[:, [1, 1]] + first]))
            counts = grown(sums.records, len(keys)).astype(np.float64)
            amounts.append([*(one.values() for one in (sums.xx, sums.xy, sums.xy, sums.yy)), counts])
        if joint is not None and self._pair in joint.sums:
            keys = joint.keys.keys
            parts.append(np.column_stack([keys[:, 0], keys[:, 1:] // 2 + inner * (keys[:, 1:] % 2)]))
            counts = grown(joint.records[self._pair], len(joint.keys)).astype(np.float64)
            amounts.append([*(one.values() for one in joint.sums[self._pair]), counts])
        units, one, other = np.concatenate(parts).T
        whole = tuple(np.concatenate([part[which] for part in amounts]) for which in range(5))
        return units, one, other, whole

    @cached_property
    def _cells(self) -> list[Mask]:
        """Which cells found make up each cell; outer cells stand behind the others."""
        grouping = self._estimator.grouping
        return _members(grouping.inside, grouping.places, grouping.count, self._found)

    @cached_property
    def _bases(self) -> list[Mask]:
        """Which cells found make up the base of each cell."""
        grouping = self._estimator.grouping
        inner = len(self._estimator.totals.keys) if grouping.of_respondents else 0
        bases = _members(grouping.base_inside + inner, grouping.base_places, grouping.bases, self._found)
        return [bases[base] for base in grouping.base_of.tolist()]

    @property
    def _found(self) -> int:
        """How many cells and outer cells were found."""
        outer = self._estimator.totals.outer_keys
        return len(self._estimator.totals.keys) + (0 if outer is None else len(outer))

    @cached_property
    def _below(self) -> Floats:
        """What each figure is divided by, shape (cells,)."""
        if not self._is_share:
            return np.asarray(self._estimator.matrices(self._pair).y.sum(axis=0))
        return np.asarray(self._estimator.base_matrices(self._pair).x.sum(axis=0))


def _members(inside: Integers, places: Integers, count: int, found: int) -> list[Mask]:
    """For each place which of the cells found go there, shape (found,) each, as true and false."""
    result = np.zeros((count, found), dtype=bool)
    result[places, inside] = True
    return list(result)
