"""Figures of some cells, with everything a test of two of them needs."""

from collections.abc import Sequence
from functools import cached_property
from typing import TYPE_CHECKING

from msgspec import Struct

from grainstack.language import marked
from grainstack.summary.comparison.shares import limits_of_difference, mover, p_of_difference
from grainstack.summary.figures.estimates import Estimated
from grainstack.summary.figures.estimator import Estimator
from grainstack.summary.figures.limits_of_figures import share_limits
from grainstack.summary.figures.overlap import Overlap
from grainstack.summary.special import special
from grainstack.summary.statistics import Linear
from grainstack.summary.summary_request import Figure
from grainstack.summary.sums.exact import Floats

if TYPE_CHECKING:
    from grainstack.summary.figures.spread import DesignSpread, Limits

_LEAST_P = 1e-6  # below it nobody tells p-values apart
NORMAL = 1e6  # degrees of freedom at which t is normal


class TestableFigures:
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
        self._limits_by_level: dict[float, Limits] = {}

    @cached_property
    def overlap(self) -> Overlap | None:
        """What cells have in common where records were drawn one by one; None where clusters or replicates tell."""
        totals = self.estimator.totals
        by_record = totals.design is not None and totals.design.request.draws_records and totals.replicates is None
        return Overlap(self.figure, self.estimator, self.estimates.estimate) if by_record else None

    def p_value(self, one: int, other: int) -> tuple[float, str]:
        """The two-sided p-value of a difference, and the test it is of."""
        if self._of_records and not self.is_complex:
            p = p_of_difference(self._counts(one), self._counts(other), self._correlation(one, other))
            return p, marked("the score limits of their differences (Newcombe)")
        if self._is_linearised(one, other):
            if self._of_records and self._has_no_spread(one, other):
                return self._p_of_limits(one, other), marked("the limits of the difference where a share is 0 or 100 %")
            test = marked("design-based t-tests") if self.is_complex else marked("t-tests of linearised differences")
        else:
            test = marked("Welch's t-tests")
        both = self.together(one, other)
        return t_test(self._difference(one, other), both.error, both.degrees), test

    def limits(self, one: int, other: int, level: float) -> tuple[float, float]:
        """Limits of a difference at a level in percent."""
        if self._of_records and not self.is_complex:
            z = t_quantile(NORMAL, level)
            return limits_of_difference(self._counts(one), self._counts(other), self._correlation(one, other), z)
        if self._of_records and self._has_no_spread(one, other):
            return self._limits_by_each(one, other, level)
        both = self.together(one, other)
        if both.error == 0:
            return float("nan"), float("nan")
        difference, reach = self._difference(one, other), t_quantile(both.degrees, level) * both.error
        return difference - reach, difference + reach

    def _limits_by_each(self, one: int, other: int, level: float) -> tuple[float, float]:
        """Limits of the difference of two shares made of the limits of each."""
        if level not in self._limits_by_level:
            self._limits_by_level[level] = share_limits(self.estimates, self.estimator, level=level)
        limits = self._limits_by_level[level]
        parts = (self.estimates.estimate, limits.low, limits.high)
        sides = [(float(part[one]), float(part[other])) for part in parts]
        first, second = zip(*sides, strict=True)
        return mover(first, second, self._correlation(one, other))

    @property
    def _of_records(self) -> bool:
        """Whether they are shares of records."""
        return self.is_share and self.figure.measure is None

    def _counts(self, cell: int) -> tuple[float, float]:
        """The records with the answer, and all records, of a share."""
        return float(self.estimates.records[cell]), float(self.estimates.base[cell])

    def _correlation(self, one: int, other: int) -> float:
        """The correlation of two figures; 0 where they rest on different records drawn one by one."""
        both = self.together(one, other)
        errors = (both.first * both.second) ** 0.5
        return min(max(both.covariance / errors, -1.0), 1.0) if errors > 0 else 0.0

    def degrees(self, one: int, other: int) -> float:
        """The degrees of freedom of the difference of two figures; NaN where they have none."""
        found = self.together(one, other).degrees
        return found if found < NORMAL else float("nan")

    def together(self, one: int, other: int) -> "Together":
        """The variances of two figures, their covariance, and the degrees of freedom of their difference.

        Those of a design are Satterthwaite's (1946) for the two variances, at most those of both domains together: the
        larger variance says how sure the difference is, and so do the units it rests on.
        """
        estimates = self.estimates
        if not self._is_linearised(one, other):
            first, second = (float(estimates.error[at] ** 2) for at in (one, other))
            many = NORMAL if self.is_share else None
            degrees = [many or max(float(estimates.base[at]) - 1, 1.0) for at in (one, other)]
            return Together(first, second, 0.0, satterthwaite([first, second], degrees) or 1.0)
        first, second = (float(self._variances[at]) for at in (one, other))
        joint = self._spread.joint_degrees((one, other))
        if self.overlap is not None:
            joint -= self.overlap.records(one, other)  # they are in both, and counted twice
        degrees = [max(float(self._degrees[at]), 1.0) for at in (one, other)]
        separate = satterthwaite([first, second], degrees)
        return Together(first, second, self.covariance(one, other), max(min(joint, separate or joint), 1.0))

    def covariance(self, one: int, other: int) -> float:
        """The covariance of two figures; 0 where they rest on different records drawn one by one."""
        if not self._is_linearised(one, other):
            return 0.0
        covariance = self._spread.covariance(one, other)
        if self.overlap is not None:
            covariance += self.estimator.stages[-1].spread_of(self.overlap.products(one, other))
        return covariance

    def joint_degrees(self, cells: Sequence[int]) -> float:
        """Degrees of freedom of some figures together; without end where records were drawn one by one."""
        by_unit = self.is_complex and self.overlap is None
        return self._spread.joint_degrees(cells) if by_unit else NORMAL

    def variance(self, cell: int) -> float:
        """The variance of a figure."""
        return float(self.estimates.error[cell] ** 2)

    def _is_linearised(self, one: int, other: int) -> bool:
        """Whether two figures are tested by the linearised values of their records, and not as independent ones."""
        if self.is_complex or self.estimates.spread is not None:
            return True
        return self.overlap is not None and self.overlap.hang_together(one, other)

    @cached_property
    def _spread(self) -> "DesignSpread":
        return self.estimates.spread or self.estimator.spread(self.figure, self.estimates.estimate)

    @cached_property
    def _variances(self) -> Floats:
        return self._spread.variance

    @cached_property
    def _degrees(self) -> Floats:
        return self._spread.degrees

    def _difference(self, one: int, other: int) -> float:
        return float(self.estimates.estimate[one] - self.estimates.estimate[other])

    def _has_no_spread(self, one: int, other: int) -> bool:
        """Whether a share of records does not vary between what was drawn: that is no sign of how sure it is."""
        return bool(min(self._variances[one], self._variances[other]) == 0)

    def _p_of_limits(self, one: int, other: int) -> float:
        """The level at which the limits of a difference begin to leave 0 out, by halving."""

        def holds(p: float) -> bool:
            low, high = self.limits(one, other, 100 * (1 - p))
            return not (low > 0 or high < 0)

        least, most = _LEAST_P, 1.0
        if not holds(least):
            return least
        while most - least > _LEAST_P:
            middle = (least + most) / 2
            least, most = (middle, most) if holds(middle) else (least, middle)
        return most


class Together(Struct, frozen=True):
    """Two figures side by side.

    Attributes:
        first: The variance of the first.
        second: That of the second.
        covariance: Their covariance.
        degrees: Degrees of freedom of their difference.
    """

    first: float
    second: float
    covariance: float
    degrees: float

    @property
    def error(self) -> float:
        """The standard error of the difference."""
        return float(max(self.first + self.second - 2 * self.covariance, 0.0) ** 0.5)


def satterthwaite(variances: Sequence[float], degrees: Sequence[float]) -> float:
    """Degrees of freedom of a sum of variances (Welch 1938; Satterthwaite 1946); 0 where all variances are.

    Args:
        variances: The variances.
        degrees: The degrees of freedom of each.
    """
    parts = sum(variance * variance / each for variance, each in zip(variances, degrees, strict=True))
    total = sum(variances)
    return total * total / parts if parts else 0.0


def t_test(difference: float, error: float, degrees: float) -> float:
    """The two-sided p-value of a difference."""
    if error == 0:  # two shares of 0 % or 100 % each, or all units drawn: nothing is left to test with
        return 1.0
    return 2 * float(special().stdtr(degrees, -abs(difference) / error))


def t_quantile(degrees: float, level: float) -> float:
    """What standard errors are multiplied by for limits at a level in percent."""
    return float(special().stdtrit(degrees, 0.5 + level / 200))
