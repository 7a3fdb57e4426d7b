"""Differences between categories, tested: pairs, each against the rest, or each against one."""

from collections.abc import Sequence
from itertools import combinations
from typing import TYPE_CHECKING

import numpy as np

from grainstack.errors import RequestError
from grainstack.quick import dataclass
from grainstack.summary.comparison.letters import comparison_letters
from grainstack.summary.comparison.tested import Comparison, Difference
from grainstack.summary.figures.estimates import Estimated, estimated
from grainstack.summary.figures.estimator import Estimator
from grainstack.summary.levels.grouping import joined
from grainstack.summary.request import Figure
from grainstack.summary.statistics import Linear
from grainstack.summary.sums.exact import Floats, Integers

if TYPE_CHECKING:
    from grainstack.summary.figures.design_spread import DesignSpread


@dataclass(frozen=True, slots=True)
class _Side:
    """One side of a comparison: the figures of some cells."""

    estimates: Estimated
    place: int

    @property
    def estimate(self) -> float:
        return float(self.estimates.estimate[self.place])

    @property
    def records(self) -> int:
        return int(self.estimates.base[self.place])

    @property
    def hits(self) -> int:
        return int(self.estimates.records[self.place])

    @property
    def degrees(self) -> float:
        return float(self.estimates.degrees[self.place])

    @property
    def variance(self) -> float:
        return float(self.estimates.error[self.place] ** 2)


def compared(
    figure: Figure,
    estimator: Estimator,
    estimates: Estimated,
    lines: Sequence[Integers],
    reference: Sequence[int | None],
) -> Comparison:
    """Compares the cells of each line as the request asks.

    Args:
        figure: A mean, share or rate.
        estimator: The sums of the cells.
        estimates: Their figures.
        lines: The cells compared with each other, one array per line.
        reference: For each line the cell all others are compared with; None when they are not compared with one.

    Raises:
        RequestError: There are fewer than two cells to compare.
    """
    request = estimator.request
    raw: list[Difference] = []
    for line, cells in enumerate(lines):
        known = [int(cell) for cell in cells if not np.isnan(estimates.error[cell])]
        if request.comparison.compare == "pairs":
            raw += [_pair(figure, estimator, estimates, line, pair) for pair in combinations(known, 2)]
        elif request.comparison.compare == "rest":
            raw += _against_rest(figure, estimator, line, known)
        elif (one := reference[line]) is not None:
            raw += [_pair(figure, estimator, estimates, line, (cell, one)) for cell in known if cell != one]
    if not raw:
        raise RequestError("There are no two figures to compare.", "At least two categories need a standard error.")
    adjusted = holm([difference.p for difference in raw])
    differences = tuple(_adjusted(difference, p) for difference, p in zip(raw, adjusted, strict=True))
    level = request.spread.level
    letters = tuple("" for _ in estimates.estimate)
    if request.comparison.letters:
        letters = _letters(differences, lines, estimates, 1 - level / 100)
    tests = " and ".join(dict.fromkeys(difference.test for difference in differences))
    many = f"{len(differences):,} comparisons adjusted by Holm's method" if len(differences) > 1 else "one comparison"
    bound = f"{(100 - level) / 100:g}"
    shared = f"; categories that share a letter do not differ at p < {bound}" if request.comparison.letters else ""
    return Comparison(differences, letters, level, f"Compared by {tests}, {many}{shared}")


def holm(p_values: Sequence[float]) -> list[float]:
    """P-values adjusted by Holm's step-down method (Holm 1979).

    Args:
        p_values: The p-values of one family of tests.
    """
    order = sorted(range(len(p_values)), key=p_values.__getitem__)
    adjusted = [1.0] * len(p_values)
    largest = 0.0
    for rank, place in enumerate(order):
        largest = max(largest, min(1.0, (len(p_values) - rank) * p_values[place]))
        adjusted[place] = largest
    return adjusted


def _adjusted(raw: Difference, p: float) -> Difference:
    return Difference(raw.cell, raw.other, raw.line, raw.estimate, raw.low, raw.high, raw.p, p, raw.test)


def _pair(figure: Figure, estimator: Estimator, estimates: Estimated, line: int, pair: tuple[int, int]) -> Difference:
    one, other = _Side(estimates, pair[0]), _Side(estimates, pair[1])
    covariance = estimates.spread.covariance(*pair) if estimates.spread is not None else 0.0
    return _tested(figure, estimator, (one, other), covariance, (pair[0], pair[1], line))


def _against_rest(figure: Figure, estimator: Estimator, line: int, known: Sequence[int]) -> list[Difference]:
    """Each cell against all other cells of its line together."""
    if len(known) < 2:
        return []
    members = [np.array([cell]) for cell in known]
    members += [np.array([other for other in known if other != cell]) for cell in known]
    both = estimator.regrouped(joined(estimator.grouping, members))
    figures = estimated(figure, both)
    differences = []
    for place, cell in enumerate(known):
        rest = len(known) + place
        covariance = figures.spread.covariance(place, rest) if figures.spread is not None else 0.0
        sides = (_Side(figures, place), _Side(figures, rest))
        differences.append(_tested(figure, estimator, sides, covariance, (cell, None, line)))
    return differences


def _tested(
    figure: Figure,
    estimator: Estimator,
    sides: tuple[_Side, _Side],
    covariance: float,
    where: tuple[int, int | None, int],
) -> Difference:
    one, other = sides
    level = estimator.request.spread.level
    difference = one.estimate - other.estimate
    if one.estimates.spread is not None:
        variance = max(one.variance + other.variance - 2 * covariance, 0.0)
        p, reach = _t_test(difference, variance, _design_degrees(sides, one.estimates.spread), level)
        test = "design-based t-tests" if estimator.request.design.is_complex else "t-tests of linearised differences"
    elif figure.statistic.linear is Linear.SHARE:
        p, reach, test = _two_shares(one, other, level)
    else:
        variance = one.variance + other.variance
        p, reach = _t_test(difference, variance, _welch_degrees(one, other), level)
        test = "Welch's t-tests"
    cell, against, line = where
    return Difference(cell, against, line, difference, difference - reach, difference + reach, p, p, test)


def _t_test(difference: float, variance: float, degrees: float, level: float) -> tuple[float, float]:
    """The two-sided p-value of a difference, and half the length of its confidence interval."""
    from scipy.special import stdtr, stdtrit  # noqa: PLC0415 - half a second that only tests should cost

    error = float(np.sqrt(variance))
    if error == 0:  # two shares of 0 % or 100 % each, or all units drawn: nothing is left to test with
        return 1.0, float("nan")
    p = 2 * float(stdtr(degrees, -abs(difference) / error))
    return p, float(stdtrit(degrees, 0.5 + level / 200)) * error


def _design_degrees(sides: tuple[_Side, _Side], spread: "DesignSpread") -> float:
    """Degrees of freedom of a difference under a design.

    Those of Satterthwaite (1946) for the two variances, at most those of both domains together: the larger variance
    says how sure the difference is, and so do the clusters it rests on.
    """
    one, other = sides
    joint = spread.joint_degrees((one.place, other.place))
    parts = one.variance**2 / one.degrees + other.variance**2 / other.degrees
    return max(min(joint, (one.variance + other.variance) ** 2 / parts) if parts else joint, 1.0)


def _welch_degrees(one: _Side, other: _Side) -> float:
    """Degrees of freedom of the difference of two means with unequal variances (Welch 1938; Satterthwaite 1946)."""
    first, second = one.variance, other.variance
    if first + second == 0:
        return max(one.records + other.records - 2, 1)
    return (first + second) ** 2 / (first**2 / max(one.records - 1, 1) + second**2 / max(other.records - 1, 1))


def _two_shares(one: _Side, other: _Side, level: float) -> tuple[float, float, str]:
    """Pooled z where every expected count is at least 5, else Fisher's exact test; the interval is Wald's."""
    from scipy.special import ndtr, ndtri  # noqa: PLC0415 - see `_t_test`

    n, m = one.records, other.records
    pooled = (one.hits + other.hits) / (n + m)
    first, second = one.estimate, other.estimate
    reach = float(ndtri(0.5 + level / 200)) * np.sqrt(first * (1 - first) / n + second * (1 - second) / m)
    if min(pooled, 1 - pooled) * min(n, m) < 5:
        return fisher_exact(one.hits, n - one.hits, other.hits, m - other.hits), float(reach), "Fisher's exact tests"
    z = (first - second) / np.sqrt(pooled * (1 - pooled) * (1 / n + 1 / m))
    return 2 * float(ndtr(-abs(z))), float(reach), "z-tests of pooled shares"


def fisher_exact(a: int, b: int, c: int, d: int) -> float:
    """The two-sided p-value of a table of four counts: all tables as unlikely as this or more (Fisher 1935).

    Args:
        a: First row, first column.
        b: First row, second column.
        c: Second row, first column.
        d: Second row, second column.
    """
    from scipy.special import gammaln  # noqa: PLC0415 - see `_t_test`

    row, column, whole = a + b, a + c, a + b + c + d
    cells = np.arange(max(0, row + column - whole), min(row, column) + 1)

    def chosen(n: int, k: "np.ndarray[tuple[int], np.dtype[np.int64]]") -> Floats:
        return np.asarray(gammaln(n + 1) - gammaln(k + 1) - gammaln(n - k + 1))

    logs = chosen(column, cells) + chosen(whole - column, row - cells)
    chances = np.exp(logs - logs.max())
    own = chances[a - cells[0]]
    return float(min(chances[chances <= own * (1 + 1e-7)].sum() / chances.sum(), 1.0))


def _letters(
    differences: Sequence[Difference], lines: Sequence[Integers], estimates: Estimated, bound: float
) -> tuple[str, ...]:
    letters = ["" for _ in estimates.estimate]
    for line, cells in enumerate(lines):
        known = [int(cell) for cell in cells if not np.isnan(estimates.error[cell])]
        places = {cell: place for place, cell in enumerate(known)}
        pairs = [
            (places[one.cell], places[one.other])
            for one in differences
            if one.line == line and one.other is not None and one.adjusted < bound
        ]
        for cell, text in zip(known, comparison_letters(len(known), pairs), strict=True):
            letters[cell] = text
    return tuple(letters)
