"""Differences between categories, tested: pairs, each against the rest, or each against one."""

from collections.abc import Hashable, Sequence
from dataclasses import replace
from functools import cached_property
from itertools import combinations

import numpy as np

from grainstack.errors import RequestError
from grainstack.quick import dataclass
from grainstack.summary.comparison.compared_cells import Line
from grainstack.summary.comparison.letters import comparison_letters
from grainstack.summary.comparison.shares import mcnemar, mover, two_shares
from grainstack.summary.comparison.tested import Comparison, Difference
from grainstack.summary.figures.estimates import Estimated, estimated
from grainstack.summary.figures.estimator import Estimator
from grainstack.summary.figures.limits import share_limits
from grainstack.summary.figures.overlap import Overlap
from grainstack.summary.levels.grouping import joined
from grainstack.summary.request import Figure
from grainstack.summary.statistics import Linear


@dataclass(frozen=True, slots=True)
class _Pair:
    """Two cells that are compared.

    Attributes:
        figures: The figures of both.
        first: The place of the first among them.
        second: The place of the second.
        cell: The cell of the table on the left.
        other: The cell on the right; None for all others of its line together.
        line: Which line they belong to.
        test: What is tested; the same for a yes and its no.
        family: Which tests are adjusted together.
    """

    figures: "_Figures"
    first: int
    second: int
    cell: int
    other: int | None
    line: int
    test: Hashable
    family: Hashable


class _Figures:
    """Figures of some cells, with everything a test of two of them needs.

    Args:
        figure: A mean, share or rate.
        estimator: The sums of the cells.
        estimates: Their figures.
    """

    def __init__(self, figure: Figure, estimator: Estimator, estimates: Estimated) -> None:
        self.figure, self.estimator, self.estimates = figure, estimator, estimates
        self.is_share = figure.statistic.linear is Linear.SHARE
        self.is_complex = estimator.request.design.is_complex

    @cached_property
    def overlap(self) -> Overlap | None:
        """What cells have in common where records were drawn one by one; None where clusters or replicates tell."""
        totals = self.estimator.totals
        by_record = totals.design is not None and totals.design.request.draws_records and totals.replicates is None
        return Overlap(self.figure, self.estimator, self.estimates.estimate) if by_record else None

    def p_value(self, one: int, other: int) -> tuple[float, str]:
        """The two-sided p-value of a difference, and the test it is of."""
        estimates = self.estimates
        together = self.overlap is not None and self.overlap.hang_together(one, other)
        if self.is_complex or estimates.spread is not None or together:
            if together and self.is_share and not self.is_complex and (paired := self._paired(one, other)):
                return paired
            error, degrees = self._design_error(one, other)
            test = "design-based t-tests" if self.is_complex else "t-tests of linearised differences"
            return _t_test(self._difference(one, other), error, degrees), test
        if self.is_share:
            hits, base = estimates.records, estimates.base
            return two_shares(int(hits[one]), int(base[one]), int(hits[other]), int(base[other]))
        variance = float(estimates.error[one] ** 2 + estimates.error[other] ** 2)
        return _t_test(self._difference(one, other), variance**0.5, self._satterthwaite(one, other)), "Welch's t-tests"

    def limits(self, one: int, other: int, level: float) -> tuple[float, float]:
        """Limits of a difference at a level in percent."""
        estimates = self.estimates
        together = self.overlap is not None and self.overlap.hang_together(one, other)
        designed = self.is_complex or estimates.spread is not None or together
        error, degrees = self._design_error(one, other) if designed else (0.0, 0.0)
        if self.is_share and self.figure.measure is None:
            correlation = 0.0
            errors = float(estimates.error[one] * estimates.error[other])
            if designed and errors > 0:
                variances = float(estimates.error[one] ** 2 + estimates.error[other] ** 2)
                correlation = min(max((variances - error**2) / 2 / errors, -1.0), 1.0)
            own = share_limits(estimates, self.estimator, level=level)
            sides = [(float(estimates.estimate[at]), float(own.low[at]), float(own.high[at])) for at in (one, other)]
            return mover(sides[0], sides[1], correlation)
        if not designed:
            error = float(estimates.error[one] ** 2 + estimates.error[other] ** 2) ** 0.5
            degrees = self._satterthwaite(one, other)
        difference, reach = self._difference(one, other), _t_quantile(degrees, level) * error
        return (difference - reach, difference + reach) if error > 0 else (float("nan"), float("nan"))

    def _difference(self, one: int, other: int) -> float:
        return float(self.estimates.estimate[one] - self.estimates.estimate[other])

    def _paired(self, one: int, other: int) -> tuple[float, str] | None:
        """McNemar's test where the same records are the base of both shares; None where some are of one only."""
        assert self.overlap is not None
        shared = self.overlap.shared(one, other)
        if self.figure.measure is not None or any(shared.bases != self.estimates.base[at] for at in (one, other)):
            return None
        return mcnemar(round(shared.first - shared.both), round(shared.second - shared.both))

    def _design_error(self, one: int, other: int) -> tuple[float, float]:
        """The standard error of a difference under the design, and its degrees of freedom.

        Those are Satterthwaite's (1946) for the two variances, at most those of both domains together: the larger
        variance says how sure the difference is, and so do the units it rests on.
        """
        spread = self.estimates.spread or self.estimator.spread(self.figure, self.estimates.estimate)
        covariance = spread.covariance(one, other)
        if self.overlap is not None:
            covariance += self.estimator.stages[-1].spread_of(self.overlap.products(one, other))
        variances = [float(spread.variance[at]) for at in (one, other)]
        degrees = [max(float(spread.degrees[at]), 1.0) for at in (one, other)]
        joint = spread.joint_degrees((one, other))
        if self.overlap is not None:
            joint -= self.overlap.records(one, other)  # they are in both, and counted twice
        parts = sum(variance**2 / own for variance, own in zip(variances, degrees, strict=True))
        own = max(min(joint, sum(variances) ** 2 / parts) if parts else joint, 1.0)
        return max(sum(variances) - 2 * covariance, 0.0) ** 0.5, own

    def _satterthwaite(self, one: int, other: int) -> float:
        """Degrees of freedom of the difference of two means with unequal variances (Welch 1938; Satterthwaite 1946)."""
        variances = [float(self.estimates.error[at] ** 2) for at in (one, other)]
        parts = [v**2 / max(int(self.estimates.base[at]) - 1, 1) for v, at in zip(variances, (one, other), strict=True)]
        return float(sum(variances) ** 2 / sum(parts)) if sum(parts) else 1.0


def compared(figure: Figure, estimator: Estimator, estimates: Estimated, lines: Sequence[Line]) -> Comparison:
    """Compares the cells of each line as the request asks.

    Args:
        figure: A mean, share or rate.
        estimator: The sums of the cells.
        estimates: Their figures.
        lines: The cells compared with each other.

    Raises:
        RequestError: There are fewer than two cells to compare.
    """
    request = estimator.request
    figures = _Figures(figure, estimator, estimates)
    pairs = [pair for number, line in enumerate(lines) for pair in _pairs(figures, line, number)]
    if not pairs:
        raise RequestError("There are no two figures to compare.", "At least two categories need a standard error.")
    if request.comparison.family == "table":
        pairs = [replace(pair, family="table") for pair in pairs]
    tests: dict[Hashable, dict[Hashable, float]] = {}
    for pair in pairs:
        tests.setdefault(pair.family, {}).setdefault(pair.test, pair.figures.p_value(pair.first, pair.second)[0])
    adjusted = {family: dict(zip(own, holm(list(own.values())), strict=True)) for family, own in tests.items()}
    differences = tuple(
        _difference(pair, adjusted[pair.family][pair.test], len(tests[pair.family]), request.spread.level)
        for pair in pairs
    )
    letters = tuple("" for _ in estimates.estimate)
    if request.comparison.letters:
        letters = _letters(differences, lines, estimates, 1 - request.spread.level / 100)
    words = _words(differences, {len(own) for own in tests.values()}, len(tests), estimator)
    return Comparison(differences, letters, request.spread.level, words, listed=request.comparison.compare is not None)


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


def _pairs(figures: _Figures, line: Line, number: int) -> list[_Pair]:
    """What is compared in a line."""
    known = [int(cell) for cell in line.cells if figures.estimates.solid[cell]]
    wanted = figures.estimator.request.comparison.wanted

    def pair(one: int, other: int) -> _Pair:
        test = (line.twin, line.place(one), line.place(other))
        return _Pair(figures, one, other, one, other, number, test, line.twin)

    if wanted == "rest":
        return _against_rest(figures, line, number, known)
    if wanted == "pairs":
        return [pair(one, other) for one, other in combinations(known, 2)]
    one = line.reference
    return [] if one is None or one not in known else [pair(cell, one) for cell in known if cell != one]


def _against_rest(figures: _Figures, line: Line, number: int, known: Sequence[int]) -> list[_Pair]:
    """Each cell against all other cells of its line together."""
    if len(known) < 2:
        return []
    members = [np.array([cell]) for cell in known]
    members += [np.array([other for other in known if other != cell]) for cell in known]
    both = figures.estimator.regrouped(joined(figures.estimator.grouping, members))
    sides = _Figures(figures.figure, both, estimated(figures.figure, both))
    return [
        _Pair(sides, at, len(known) + at, cell, None, number, (line.twin, line.place(cell)), line.twin)
        for at, cell in enumerate(known)
    ]


def _difference(pair: _Pair, adjusted: float, tests: int, level: float) -> Difference:
    p, test = pair.figures.p_value(pair.first, pair.second)
    estimates = pair.figures.estimates.estimate
    low, high = pair.figures.limits(pair.first, pair.second, 100 - (100 - level) / tests)
    estimate = float(estimates[pair.first] - estimates[pair.second])
    return Difference(pair.cell, pair.other, pair.line, estimate, low, high, p, adjusted, test, tests)


def _t_test(difference: float, error: float, degrees: float) -> float:
    """The two-sided p-value of a difference."""
    from scipy.special import stdtr  # noqa: PLC0415 - half a second that only tests should cost

    if error == 0:  # two shares of 0 % or 100 % each, or all units drawn: nothing is left to test with
        return 1.0
    return 2 * float(stdtr(degrees, -abs(difference) / error))


def _t_quantile(degrees: float, level: float) -> float:
    from scipy.special import stdtrit  # noqa: PLC0415 - see `_t_test`

    return float(stdtrit(degrees, 0.5 + level / 200))


def _words(differences: Sequence[Difference], sizes: set[int], families: int, estimator: Estimator) -> str:
    """What was compared and how it was adjusted."""
    comparison, level = estimator.request.comparison, estimator.request.spread.level
    tests = " and ".join(dict.fromkeys(difference.test for difference in differences))
    least, most = min(sizes), max(sizes)
    if most == 1:
        many = "one comparison" if families == 1 else "one comparison in each line"
    else:
        number = f"{least:,}" if least == most else f"{least:,} to {most:,}"
        within = "" if families == 1 else " in each line"
        many = f"{number} comparisons{within} adjusted by Holm's method"
        many += ", with simultaneous limits (Bonferroni)" if comparison.compare else ""
    bound = f"{(100 - level) / 100:g}"
    shared = f"; no difference was found at {bound} between categories that share a letter"
    return f"Compared by {tests}, {many}{shared if comparison.letters else ''}"


def _letters(
    differences: Sequence[Difference], lines: Sequence[Line], estimates: Estimated, bound: float
) -> tuple[str, ...]:
    letters = ["" for _ in estimates.estimate]
    for number, line in enumerate(lines):
        known = [int(cell) for cell in line.cells if estimates.solid[cell]]
        places = {cell: place for place, cell in enumerate(known)}
        pairs = [
            (places[one.cell], places[one.other])
            for one in differences
            if one.line == number and one.other is not None and one.adjusted < bound
        ]
        for cell, text in zip(known, comparison_letters(len(known), pairs), strict=True):
            letters[cell] = text
    return tuple(letters)
