"""How cells hang together where records were drawn one by one: what the same records add to both.

For linearised values z of two cells, Σ z_a z_b over the records that stand in both, or in the base of either.
Categories of one whole exclude each other but share their base; questions and answers of the same people overlap.
"""

from collections.abc import Callable, Sequence
from functools import cached_property
from itertools import product

import numpy as np

from grainstack.summary.figures.shown_sums import ShownSums
from grainstack.summary.figures.stages import Stage
from grainstack.summary.statistics import Linear
from grainstack.summary.summary_request import Figure
from grainstack.summary.sums.design import COUNT, Pair, grown
from grainstack.summary.sums.exact import Floats, Integers, Mask

Sets = list[Mask]  # for each cell, which cells found belong to it or to its base
_Sums = Callable[[Sets, Sets, int], Floats]


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

    def squares(self, cell: int) -> Floats:
        """Σ z² of a cell in each unit of the design, shape (units,)."""

        def in_each_unit(left: Sets, right: Sets, which: int) -> Floats:
            return self._of(left[cell], right[cell], which)

        estimate = self._estimate[cell]
        return self._products(in_each_unit, estimate, estimate, self._below[cell] ** 2)

    def covariances(self, cells: Sequence[int], stage: Stage) -> Floats:
        """What Σ z_one z_other of each two cells adds to their covariances, shape (cells wanted, cells wanted).

        Args:
            cells: The cells wanted.
            stage: The stage at which records were drawn.
        """
        chosen = list(cells)
        units, one, other, amounts = self._entries
        factor = stage.factor[stage.group_of[stage.part_of]][units]

        def between(left: Sets, right: Sets, which: int) -> Floats:
            columns = [np.bincount(one, factor * amounts[which] * right[cell][other], self._found) for cell in chosen]
            return np.array([left[cell] for cell in chosen], dtype=np.float64) @ np.column_stack(columns)

        estimate, below = self._estimate[chosen], self._below[chosen]
        return self._products(between, estimate[:, None], estimate[None, :], np.outer(below, below))

    def _products(self, sums: _Sums, one: Floats, other: Floats, below: Floats) -> Floats:
        """Σ z_one z_other from sums over the records that stand in two sets of cells found.

        Args:
            sums: Gives Σ w² x x', Σ w² x y', Σ w² y x' or Σ w² y y' (0 to 3) over the records in a set of each list.
            one: The figure on the left.
            other: The figure on the right.
            below: The product of what both are divided by.
        """
        cells = self._cells
        if self._figure.statistic.linear is Linear.TOTAL:
            return sums(cells, cells, 0)
        if self._is_share:
            xx, xy, yx, yy = (sums(left, right, 0) for left, right in product((cells, self._bases), repeat=2))
        else:
            xx, xy, yx, yy = (sums(cells, cells, which) for which in range(4))
        with np.errstate(invalid="ignore", divide="ignore"):
            return np.asarray((xx - other * xy - one * yx + one * other * yy) / below)

    def records(self, one: int, other: int) -> int:
        """How many records stand in both cells, or for shares in both bases."""
        sets = self._bases if self._is_share else self._cells
        return int(self._of(sets[one], sets[other], 4).sum())

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
    def _cells(self) -> Sets:
        """Which cells found make up each cell; outer cells stand behind the others."""
        grouping = self._estimator.grouping
        return _members(grouping.inside, grouping.places, grouping.count, self._found)

    @cached_property
    def _bases(self) -> Sets:
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


def _members(inside: Integers, places: Integers, count: int, found: int) -> Sets:
    """For each place which of the cells found go there, shape (found,) each, as true and false."""
    result = np.zeros((count, found), dtype=bool)
    result[places, inside] = True
    return list(result)
