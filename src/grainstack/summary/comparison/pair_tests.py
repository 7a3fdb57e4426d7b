"""Tests of the differences of two figures, and the limits that say the same."""

from typing import TYPE_CHECKING

from grainstack.language import marked
from grainstack.summary.comparison.shares import limits_of_difference, mover, p_of_difference, p_of_limits
from grainstack.summary.figures.inference import NORMAL, Inference
from grainstack.summary.figures.limits_of_figures import share_limits
from grainstack.summary.special import special

if TYPE_CHECKING:
    from grainstack.summary.figures.spread import Limits

_LEAST_P = 1e-6  # of limits by beta quantiles, whose tails are worked out from a level in percent


class PairTests:
    """Tests of any two of some figures.

    Args:
        figures: Means, shares, rates or totals.
    """

    def __init__(self, figures: Inference) -> None:
        self.figures = figures
        self._limits_by_level: dict[float, Limits] = {}

    def p_value(self, one: int, other: int) -> tuple[float, str]:
        """The two-sided p-value of a difference, and the test it is of."""
        figures = self.figures
        if figures.of_records and not figures.is_complex:
            p = p_of_difference(self._counts(one), self._counts(other), figures.together(one, other).correlation)
            return p, marked("the score limits of their differences (Newcombe)")
        if figures.is_linearised(one, other):
            if figures.of_records and figures.has_no_spread(one, other):
                p = p_of_limits(lambda p: self._limits_by_each(one, other, 100 * (1 - p)), _LEAST_P)
                return p, marked("the limits of the difference where a share is 0 or 100 %")
            test = marked("design-based t-tests") if figures.is_complex else marked("t-tests of linearised differences")
        else:
            test = marked("Welch's t-tests")
        both = figures.together(one, other)
        return t_test(self._difference(one, other), both.error, both.degrees), test

    def limits(self, one: int, other: int, level: float) -> tuple[float, float]:
        """Limits of a difference at a level in percent."""
        figures = self.figures
        both = figures.together(one, other)
        if figures.of_records and not figures.is_complex:
            z = t_quantile(NORMAL, level)
            return limits_of_difference(self._counts(one), self._counts(other), both.correlation, z)
        if figures.of_records and figures.has_no_spread(one, other):
            return self._limits_by_each(one, other, level)
        if both.error == 0:
            return float("nan"), float("nan")
        difference, reach = self._difference(one, other), t_quantile(both.degrees, level) * both.error
        return difference - reach, difference + reach

    def degrees(self, one: int, other: int) -> float:
        """The degrees of freedom of the difference of two figures; NaN where they have none."""
        found = self.figures.together(one, other).degrees
        return found if found < NORMAL else float("nan")

    def _limits_by_each(self, one: int, other: int, level: float) -> tuple[float, float]:
        """Limits of the difference of two shares made of the limits of each."""
        if level not in self._limits_by_level:
            self._limits_by_level[level] = share_limits(self.figures, level=level)
        limits = self._limits_by_level[level]
        parts = (self.figures.estimate, limits.low, limits.high)
        sides = [(float(part[one]), float(part[other])) for part in parts]
        first, second = zip(*sides, strict=True)
        return mover(first, second, self.figures.together(one, other).correlation)

    def _counts(self, cell: int) -> tuple[float, float]:
        """The records with the answer, and all records, of a share."""
        return float(self.figures.records[cell]), float(self.figures.base[cell])

    def _difference(self, one: int, other: int) -> float:
        return float(self.figures.estimate[one] - self.figures.estimate[other])


def t_test(difference: float, error: float, degrees: float) -> float:
    """The two-sided p-value of a difference."""
    if error == 0:  # two shares of 0 % or 100 % each, or all units drawn: nothing is left to test with
        return 1.0
    return 2 * float(special().stdtr(degrees, -abs(difference) / error))


def t_quantile(degrees: float, level: float) -> float:
    """What standard errors are multiplied by for limits at a level in percent."""
    return float(special().stdtrit(degrees, 0.5 + level / 200))
