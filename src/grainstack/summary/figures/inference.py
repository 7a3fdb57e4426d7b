"""The figures of some cells with what can be concluded from them.

Limits, p-values, letters, association, trends, marks and the sentence about the method are read from here alone, so
that they never disagree.
"""

from collections.abc import Sequence
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct

from grainstack.summary.figures.estimates import Estimated, estimated
from grainstack.summary.figures.estimator import Estimator
from grainstack.summary.figures.overlap import Overlap
from grainstack.summary.statistics import Linear
from grainstack.summary.summary_request import Figure
from grainstack.summary.sums.exact import Floats, Mask

if TYPE_CHECKING:
    from grainstack.summary.figures.spread import DesignSpread

_ROUNDING = 1e-12  # of the variances of two figures is what remains by rounding where they never differ
NORMAL = 1e6  # degrees of freedom at which t is normal


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
        """The standard error of the difference; 0 where the figures never differ."""
        both = self.first + self.second
        variance = both - 2 * self.covariance
        return float(variance**0.5) if variance > _ROUNDING * both else 0.0

    @property
    def correlation(self) -> float:
        """Their correlation; 0 where one does not vary."""
        errors = (self.first * self.second) ** 0.5
        return min(max(self.covariance / errors, -1.0), 1.0) if errors > 0 else 0.0


class Inference:
    """The figures of some cells, finished; all arrays have shape (cells,).

    Args:
        figure: Which figure.
        estimator: The sums of the cells.
        estimates: The estimates, with the errors they have where records were drawn one by one.
        spread: The spread a design gives; None without a design.

    Attributes:
        estimate: The figures; NaN where there is none.
        base: Records a figure rests on, never weighted; of a share, those of its whole.
        records: Records in the cell itself.
        deviation: Standard deviations of the records; NaN where there is none.
        error: Standard errors; NaN where there is none.
        degrees: Degrees of freedom of the standard error; NaN where it has none.
        by_design: Whether the errors are those a design gives.
    """

    def __init__(
        self, figure: Figure, estimator: Estimator, estimates: Estimated, spread: "DesignSpread | None" = None
    ) -> None:
        self.figure, self.estimator = figure, estimator
        self.estimate, self.base, self.records = estimates.estimate, estimates.base, estimates.records
        self.deviation, self._plain_variance = estimates.deviation, estimates.plain_variance
        self.error, self.degrees = estimates.error, estimates.degrees
        self.by_design = spread is not None
        self._pairs: dict[tuple[int, int], Together] = {}
        if spread is not None:
            self._spread = spread
            error, degrees = np.sqrt(spread.variance), spread.degrees
            nothing = np.isnan(self.estimate) | (degrees < 1)
            if self.is_share:
                nothing |= spread.settled
            else:
                nothing |= (self.records < 2) | estimates.vanishes(error)
            self.error = np.where(nothing, np.nan, error)
            self.degrees = np.where(np.isnan(self.estimate), np.nan, degrees)

    @property
    def is_share(self) -> bool:
        """Whether they are shares, of records or of a sum."""
        return self.figure.statistic.linear is Linear.SHARE

    @property
    def of_records(self) -> bool:
        """Whether they are shares of records."""
        return self.is_share and self.figure.measure is None

    @property
    def is_complex(self) -> bool:
        """Whether records were not drawn one by one with equal chances."""
        return self.estimator.request.design.is_complex

    @property
    def solid(self) -> Mask:
        """Which figures have a standard error."""
        return ~np.isnan(self.error)

    @property
    def settled(self) -> Mask:
        """Which figures leave nothing to chance, as all there is was drawn."""
        return self._spread.settled if self.by_design else np.zeros(len(self.estimate), dtype=bool)

    @cached_property
    def design_effect(self) -> Floats:
        """What the design multiplies the variance of each figure by (Kish 1965); NaN where that is not known."""
        if not self.by_design:
            return np.full(len(self.base), np.nan)
        with np.errstate(invalid="ignore", divide="ignore"):
            effect = self.error**2 / self._plain_variance
        return np.where(np.isfinite(effect) & (effect > 0), effect, np.nan)

    @cached_property
    def effective_base(self) -> Floats:
        """How many records drawn one by one would tell as much: the base divided by the design effect of the figure.

        Where the design has no effect that could be told (a share of 0 %, a count), NaN under a design.
        """
        return np.asarray(self.base / self.design_effect) if self.is_complex else self.base.astype(float)

    @cached_property
    def weighting_effect(self) -> Floats:
        """What unequal weights alone multiply the variance by: n Σw² / (Σw)² (Kish 1965); NaN without weights."""
        if not self.estimator.weighted:
            return np.full(len(self.base), np.nan)
        estimator = self.estimator
        moments = estimator.whole(None) if self.is_share else estimator.moments(self.figure.measure)
        with np.errstate(invalid="ignore", divide="ignore"):
            return np.asarray(moments.records * moments.weight_squares / moments.weight**2)

    @cached_property
    def weighted_base(self) -> Floats:
        """What the weights of the records of a base add up to; NaN without weights."""
        if not self.estimator.weighted:
            return np.full(len(self.base), np.nan)
        estimator = self.estimator
        return np.asarray((estimator.whole(None) if self.is_share else estimator.moments(self.figure.measure)).weight)

    def together(self, one: int, other: int) -> Together:
        """The variances of two figures, their covariance, and the degrees of freedom of their difference.

        Those of a design are Satterthwaite's (1946) for the two variances, at most those of both domains together: the
        larger variance says how sure the difference is, and so do the units it rests on.
        """
        if (one, other) not in self._pairs:  # its test, its limits and its degrees all ask for it
            self._pairs[one, other] = self._together(one, other)
        return self._pairs[one, other]

    def covariances(self, cells: Sequence[int]) -> Floats:
        """The variances of some figures and their covariances, shape (cells wanted, cells wanted).

        The covariances of figures that rest on different records drawn one by one are 0.
        """
        chosen = list(cells)
        by_design = self.is_complex or self.by_design
        variances = (self._variances if by_design else self.error**2)[chosen]
        pairs = ((one, other) for place, one in enumerate(chosen) for other in chosen[:place])
        if not (by_design or any(self.is_linearised(*pair) for pair in pairs)):
            return np.diag(variances)
        found = self._covariances(chosen)
        np.fill_diagonal(found, variances)
        return found

    def joint_degrees(self, cells: Sequence[int]) -> float:
        """Degrees of freedom of some figures together; without end where records were drawn one by one."""
        by_unit = self.is_complex and self._overlap is None
        return self._spread.joint_degrees(cells) if by_unit else NORMAL

    def is_linearised(self, one: int, other: int) -> bool:
        """Whether two figures are tested by the linearised values of their records, and not as independent ones."""
        if self.is_complex or self.by_design:
            return True
        return self._overlap is not None and self._overlap.hang_together(one, other)

    def has_no_spread(self, one: int, other: int) -> bool:
        """Whether a figure does not vary between what was drawn: of a share that is no sign of how sure it is."""
        return bool(min(self._variances[one], self._variances[other]) == 0)

    def _together(self, one: int, other: int) -> Together:
        if not self.is_linearised(one, other):
            first, second = (float(self.error[at] ** 2) for at in (one, other))
            many = NORMAL if self.is_share else None
            degrees = [many or max(float(self.base[at]) - 1, 1.0) for at in (one, other)]
            return Together(first, second, 0.0, satterthwaite([first, second], degrees) or 1.0)
        first, second = (float(self._variances[at]) for at in (one, other))
        joint = self._spread.joint_degrees((one, other))
        if self._overlap is not None:
            joint -= self._overlap.records(one, other)  # they are in both, and counted twice
        degrees = [max(float(self._degrees[at]), 1.0) for at in (one, other)]
        separate = satterthwaite([first, second], degrees)
        covariance = float(self._covariances((one, other))[0, 1])
        return Together(first, second, covariance, max(min(joint, separate or joint), 1.0))

    def _covariances(self, cells: Sequence[int]) -> Floats:
        covariances = self._spread.covariances(cells)
        if self._overlap is not None:
            covariances = covariances + self._overlap.covariances(cells, self.estimator.stages[-1])
        return covariances

    @cached_property
    def _overlap(self) -> Overlap | None:
        """What cells have in common where records were drawn one by one; None where clusters or replicates tell."""
        totals = self.estimator.totals
        by_record = totals.design is not None and totals.design.request.draws_records and totals.replicates is None
        return Overlap(self.figure, self.estimator, self.estimate) if by_record else None

    @cached_property
    def _spread(self) -> "DesignSpread":
        return self.estimator.spread(self.figure, self.estimate)

    @cached_property
    def _variances(self) -> Floats:
        return self._spread.variance

    @cached_property
    def _degrees(self) -> Floats:
        return self._spread.degrees


def inferred(figure: Figure, estimator: Estimator, *, with_error: bool = True) -> Inference:
    """The figures of some cells, finished.

    Args:
        figure: Which.
        estimator: The sums of the cells wanted.
        with_error: Whether standard errors are wanted too.
    """
    statistic, totals = figure.statistic, estimator.totals
    estimates = estimated(figure, estimator)
    always = figure.per is not None or (statistic.linear is Linear.SHARE and figure.measure is not None)
    spreads = statistic.linear is not None and (always or estimator.request.design.is_complex)
    known = totals.design is not None or totals.replicates is not None
    if not (with_error and spreads and known) or estimator.request.is_complete:
        return Inference(figure, estimator, estimates)
    return Inference(figure, estimator, estimates, estimator.spread(figure, estimates.estimate))


def satterthwaite(variances: Sequence[float], degrees: Sequence[float]) -> float:
    """Degrees of freedom of a sum of variances (Welch 1938; Satterthwaite 1946); 0 where all variances are.

    Args:
        variances: The variances.
        degrees: The degrees of freedom of each.
    """
    parts = sum(variance * variance / each for variance, each in zip(variances, degrees, strict=True))
    total = sum(variances)
    return total * total / parts if parts else 0.0
