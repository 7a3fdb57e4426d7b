"""Resamples of what a survey design drew, as factors by which it counts (Rao & Wu 1988; Rao, Wu & Yue 1992).

Of the n_h units drawn in stratum h, n_h − 1 are drawn again, each time counting n_h / (n_h − 1) of its weight. Units
are clusters, or single records where no clusters were drawn.
"""

from collections.abc import Callable

import numpy as np

from grainstack.summary.figures.bootstrap import random_numbers
from grainstack.summary.figures.quantiles import Counted
from grainstack.summary.figures.stages import Stage
from grainstack.summary.sums.exact import Floats, Integers

_AT_ONCE = 1 << 22  # weights of resamples in memory at a time: 32 MB
_TIE = 1e-12  # of a weight: what adding up in another order may make of it
_ALIKE = 1e-12  # of a squared mean: what rounding makes of the variance of records that are alike


def resampled_clusters(stage: Stage, repeats: int, seed: int, figure: Callable[[Floats], Floats]) -> Floats:
    """Figures under resampled clusters, shape (repeats, cells).

    Args:
        stage: How clusters were drawn.
        repeats: How many resamples.
        seed: Of the random numbers.
        figure: Gives the figures, shape (repeats, cells), from factors by which each unit counts, (repeats, units).
    """
    random = random_numbers(seed, 0)
    factors = np.ones((repeats, len(stage.group_of)))
    for stratum, units in enumerate(stage.drawn.tolist()):
        members = np.flatnonzero(stage.group_of == stratum)
        if units < 2:
            continue
        chances = np.append(np.full(len(members), 1 / units), max(1 - len(members) / units, 0.0))
        times = random.multinomial(units - 1, chances, size=repeats)[:, :-1]
        weight = np.sqrt(1 - stage.fraction[stratum])
        factors[:, members] = 1 - weight + weight * units / (units - 1) * times
    return figure(factors[:, stage.part_of])


class RecordDraws:
    """Records of some groups under resamples.

    How many of the n_h − 1 draws of a stratum fall into each group is drawn exactly; what they add up to follows from
    the mean and variance of the group's records.

    Args:
        stage: How records were drawn within strata.
        strata: The stratum of each group, shape (groups,).
        records: How many records each group has, shape (groups,).
        repeats: How many resamples.
        random: The random numbers of the cell.
    """

    def __init__(
        self, stage: Stage, strata: Integers, records: Integers, repeats: int, random: np.random.Generator
    ) -> None:
        self._records, self._random = np.maximum(records, 1), random
        units = np.maximum(stage.drawn, 1).astype(np.float64)
        weight = np.where(units > 1, np.sqrt(1 - stage.fraction), 0.0)  # a lone record stays as it is
        self._kept, self._drawn = (1 - weight)[strata], (weight * units / np.maximum(units - 1, 1))[strata]
        self._times = np.zeros((repeats, len(records)), dtype=np.int64)
        for stratum in np.unique(strata).tolist():
            mine, drawn = np.flatnonzero(strata == stratum), int(stage.drawn[stratum])
            if drawn > 1:
                chances = np.append(records[mine], max(drawn - records[mine].sum(), 0)) / drawn
                self._times[:, mine] = random.multinomial(drawn - 1, chances, size=repeats)[:, :-1]

    def sums(self, total: Floats, squares: Floats) -> Floats:
        """What the records of each group add up to, shape (repeats, groups): never negative, by gamma distributions.

        Args:
            total: What they add up to in the sample, shape (groups,); of numbers that are not negative.
            squares: What their squares add up to, shape (groups,).
        """
        mean, variance = self._moments(total, squares)
        varies = variance > _ALIKE * mean**2
        drawn = self._times * mean
        scale = variance[varies] / mean[varies]
        drawn[:, varies] = self._random.gamma(self._times[:, varies] * mean[varies] / scale) * scale
        return np.asarray(self._kept * total + self._drawn * drawn)

    def ratios(self, above: tuple[Floats, Floats], below: tuple[Floats, Floats], products: Floats) -> Floats:
        """The ratio of two sums over all groups, shape (repeats,), by normal distributions of both.

        Args:
            above: What the numerators of each group add up to, and their squares, shape (groups,) each.
            below: The same of the denominators.
            products: What the products of both add up to, shape (groups,).
        """
        (x, xx), (y, yy) = self._moments(*above), self._moments(*below)
        xy = products / self._records - x * y
        first, second = self._random.standard_normal((2, *self._times.shape)) * np.sqrt(self._times)
        slope = np.divide(xy, xx, out=np.zeros_like(xy), where=xx > 0)
        x_drawn = self._times * x + first * np.sqrt(xx)
        y_drawn = self._times * y + slope * first * np.sqrt(xx) + second * np.sqrt(np.maximum(yy - slope * xy, 0))
        x_sums, y_sums = (
            (self._kept * total + self._drawn * drawn).sum(axis=1)
            for total, drawn in ((above[0], x_drawn), (below[0], y_drawn))
        )
        with np.errstate(invalid="ignore", divide="ignore"):
            return np.asarray(x_sums / y_sums)

    def _moments(self, total: Floats, squares: Floats) -> tuple[Floats, Floats]:
        """Mean and variance of the records of each group, shape (groups,) each."""
        mean = total / self._records
        return mean, np.maximum(squares / self._records - mean**2, 0.0)


def reweighted_means(cell: Counted, factors: Floats) -> Floats:
    """Weighted means, shape (repeats,); see `reweighted_quantiles`."""
    values, _, weights = cell
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.asarray((factors @ (weights * values)) / (factors @ weights))


def reweighted_totals(cell: Counted, factors: Floats) -> Floats:
    """Weighted totals, shape (repeats,); see `reweighted_quantiles`."""
    values, _, weights = cell
    return np.asarray(factors @ (weights * values))


def reweighted_quantiles(cell: Counted, factors: Floats, part: float) -> Floats:
    """Weighted quantiles, shape (repeats,): the smallest value at which the weight reaches its part of the whole.

    Args:
        cell: Values, rising, some of them equal, with their records and weights.
        factors: By which each of them counts in each resample, shape (repeats, values).
        part: Which quantile, from 0 to 1.
    """
    values, _, weights = cell
    found = np.full(len(factors), np.nan)
    for rows in _in_chunks(factors):
        reach = np.cumsum(factors[rows] * weights, axis=1)
        if reach.shape[1]:
            whole = reach[:, -1]
            places = (reach < (part * whole * (1 - _TIE))[:, None]).sum(axis=1)
            found[rows] = np.where(whole > 0, values[np.minimum(places, len(values) - 1)], np.nan)
    return found


def reweighted_deviations(cell: Counted, factors: Floats) -> Floats:
    """Weighted standard deviations, shape (repeats,), as they are estimated; see `reweighted_quantiles`."""
    values, records, weights = cell
    n = max(int(records.sum()), 2)
    found = np.full(len(factors), np.nan)
    if not weights.sum():
        return found
    apart = values - np.average(values, weights=weights)
    with np.errstate(invalid="ignore", divide="ignore"):
        for rows in _in_chunks(factors):
            counted = factors[rows] * weights
            first, second = (counted @ apart**power / counted.sum(axis=1) for power in (1, 2))
            found[rows] = np.sqrt(np.maximum(second - first**2, 0) * n / (n - 1))
    return found


def _in_chunks(factors: Floats) -> list[slice]:
    """Stretches of resamples that fit into memory together."""
    step = max(_AT_ONCE // max(factors.shape[1], 1), 1)
    return [slice(start, start + step) for start in range(0, len(factors), step)]
