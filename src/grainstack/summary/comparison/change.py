"""Change instead of level: each figure beside that of the level before, of the first one, or of one that is named.

A difference has the limits of a tested difference. A ratio a/b, a percent change and an index have theirs on the
logarithmic scale, where v(log a/b) = v(a)/a² + v(b)/b² − 2 c(a, b)/(ab) by linearisation (Wolter 2007, section 6.2).
"""

from collections.abc import Callable, Sequence
from math import exp, isnan, log, nan

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from grainstack.errors import RequestError
from grainstack.language import phrase
from grainstack.option_names import option
from grainstack.summary.comparison.compared_cells import Line
from grainstack.summary.comparison.pair_tests import PairTests, t_quantile, t_test
from grainstack.summary.comparison.tested import Trend
from grainstack.summary.figures.inference import NORMAL, Inference, satterthwaite
from grainstack.summary.figures.small import few_degrees, flagged
from grainstack.summary.options import SpreadRequest
from grainstack.summary.statistics import Linear
from grainstack.summary.table import Change, ChangeKind, Column, Flag

_LEAST_STEPS = 3  # levels that make a trend


def changed(column: Column, figures: Inference, lines: Sequence[Line], change: Change) -> Column:
    """A column of changes.

    Args:
        column: The figures.
        figures: The same, as tests need them.
        lines: The cells along which change is seen, each with the cell it starts from, in order.
        change: Which change.

    Raises:
        RequestError: Limits that a change has not.
    """
    spread = figures.estimator.request.spread
    if spread.error_bars not in (None, "none", "confidence", "standard-error"):
        raise RequestError(
            f"A change has no {spread.error_bars}.", f"Use {option('error_bars', 'confidence')} or standard-error."
        )
    if spread.interval == "bootstrap":
        raise RequestError("There is no bootstrap of a change.", f"Leave {option('interval')} out.")
    tests = PairTests(figures)
    pairs = [(int(cell), other) for line in lines for cell, other in _steps(line, change.by_step)]
    nothing = np.full(len(column.estimate), nan)
    estimate, low, high, error, degrees = (nothing.copy() for _ in range(5))
    flags, unlimited = column.flags.copy(), np.zeros(len(nothing), dtype=bool)
    asked = bool(column.interval) and spread.error_bars != "none"
    limited = asked and column.figure.statistic.linear is not None
    without = phrase("No limits: there is no method for the change of such figures") if asked and not limited else ""
    for cell, other in pairs:
        flags[cell] |= column.flags[other]
        made = _Made(tests, cell, other, change.kind)
        estimate[cell] = made.estimate
        if limited and cell != other:
            low[cell], high[cell] = made.limits(spread)
            error[cell], degrees[cell] = made.error, made.degrees
            unlimited[cell] = not isnan(made.estimate) and isnan(low[cell]) and isnan(high[cell])
    statistic = replace(column.figure.statistic, additive=False, linear=None)
    flags = flags & ~np.uint8(Flag.WIDE_INTERVAL | Flag.FEW_DEGREES | Flag.NO_INTERVAL)
    if figures.is_complex:
        flags |= few_degrees(degrees)
    flags |= flagged(unlimited, Flag.NO_INTERVAL)
    return replace(
        column,
        figure=replace(column.figure, statistic=statistic),
        flags=flags,
        interval=_interval(spread, change.kind) if limited else "",
        without_limits=without,
        level=spread.confidence if limited and spread.error_bars != "standard-error" else None,
        change=replace(change, of_share=column.is_share),
        effective_base=nothing,
        design_effect=nothing,
        estimate=estimate,
        low=low,
        high=high,
        standard_error=error,
        degrees=degrees,
    )


class _Made(Struct, frozen=True):
    """One change on its way: of the figure of a cell from that of another."""

    tests: PairTests
    cell: int
    other: int
    kind: ChangeKind

    @property
    def estimate(self) -> float:
        """The change; NaN where a ratio cannot be."""
        a, b = (float(self.tests.figures.estimate[at]) for at in (self.cell, self.other))
        if self.kind is ChangeKind.DIFFERENCE:
            return (a - b) * self._scale
        return self._of_ratio(a / b) if b > 0 and a >= 0 else nan

    def limits(self, spread: SpreadRequest) -> tuple[float, float]:
        """Lower and upper limit; NaN where there are none."""
        error = self.error
        if isnan(error) or isnan(self.estimate):
            return nan, nan
        whole = spread.error_bars != "standard-error"
        if self.kind is ChangeKind.DIFFERENCE:
            if whole:
                low, high = self.tests.limits(self.cell, self.other, spread.confidence)
                return low * self._scale, high * self._scale
            return self.estimate - error, self.estimate + error
        many = self.tests.figures.together(self.cell, self.other).degrees
        middle, reach = log(self._ratio), (t_quantile(many, spread.confidence) if whole else 1.0) * self._log_error
        return self._of_ratio(exp(middle - reach)), self._of_ratio(exp(middle + reach))

    @property
    def error(self) -> float:
        """The standard error; NaN where there is none."""
        solid = self.tests.figures.solid
        if not (solid[self.cell] and solid[self.other]):
            return nan
        if self.kind is ChangeKind.DIFFERENCE:
            return self.tests.figures.together(self.cell, self.other).error * self._scale or nan
        slope = self._of_ratio(1.0) - self._of_ratio(0.0)  # of what is told, per unit of the ratio
        return slope * self._ratio * self._log_error or nan if self._ratio > 0 else nan

    @property
    def degrees(self) -> float:
        """Degrees of freedom of the standard error; NaN where there are none."""
        many = self.tests.figures.together(self.cell, self.other).degrees
        return nan if isnan(self.error) or many >= NORMAL else many

    @property
    def _ratio(self) -> float:
        a, b = (float(self.tests.figures.estimate[at]) for at in (self.cell, self.other))
        return a / b if b > 0 else nan

    @property
    def _log_error(self) -> float:
        """√v(log a/b)."""
        a, b = (float(self.tests.figures.estimate[at]) for at in (self.cell, self.other))
        both = self.tests.figures.together(self.cell, self.other)
        return float(max(both.first / a**2 + both.second / b**2 - 2 * both.covariance / (a * b), 0.0) ** 0.5)

    @property
    def _scale(self) -> float:
        """Differences of shares are written in points."""
        return 100.0 if self.tests.figures.is_share else 1.0

    def _of_ratio(self, ratio: float) -> float:
        if self.kind is ChangeKind.PERCENT:
            return 100 * (ratio - 1)
        return 100 * ratio if self.kind is ChangeKind.INDEX else ratio


def trends(
    figures: Inference, lines: Sequence[Line], place_of: Callable[[int, int], float], unit: str
) -> tuple[Trend, ...]:
    """Whether figures rise or fall along each line: the slope per step or unit, by a linear contrast.

    With scores c_k = x_k − mean of the places x_k, the slope is Σ c_k θ_k / Σ c_k², and its variance
    Σ Σ c_j c_k cov(θ_j, θ_k) over the square of Σ c_k².

    Args:
        figures: A mean, share, rate, or total with standard errors.
        lines: The cells along which it goes, in order.
        place_of: Where a cell stands along its line: its distance, or the number of its step.
        unit: What these places are counted in: `year`; `step` where levels have an order only.
    """
    if figures.figure.statistic.linear not in (Linear.RATIO, Linear.SHARE, Linear.TOTAL):
        return ()
    found = []
    for line in lines:
        steps = [
            (place_of(number, int(cell)), int(cell)) for number, cell in enumerate(line.cells) if figures.solid[cell]
        ]
        if len(steps) >= _LEAST_STEPS:
            found.append(replace(_trend(figures, steps), cell=int(line.cells[-1]), unit=unit))
    return tuple(found)


def _trend(figures: Inference, steps: Sequence[tuple[float, int]]) -> Trend:
    level = figures.estimator.request.spread.confidence
    scores = np.array([place for place, _ in steps], dtype=np.float64)
    scores = (scores - scores.mean()) / ((scores - scores.mean()) ** 2).sum()
    cells = [cell for _, cell in steps]
    slope = float(scores @ figures.estimate[cells])
    covariances = figures.covariances(cells)
    variances = (scores**2 * np.diag(covariances)).tolist()
    degrees = [float(figures.degrees[cell]) if figures.degrees[cell] >= 1 else NORMAL for cell in cells]
    freedom = max(min(satterthwaite(variances, degrees), figures.joint_degrees(cells)), 1.0)
    error = max(float(scores @ covariances @ scores), 0.0) ** 0.5
    reach = t_quantile(freedom, level) * error
    scale = 100.0 if figures.is_share else 1.0
    limits = (scale * (slope - reach), scale * (slope + reach))
    return Trend(cells[-1], scale * slope, *limits, t_test(slope, error, freedom), len(steps))


def _steps(line: Line, by_step: bool) -> list[tuple[int, int]]:  # noqa: FBT001 - as `Change` has it
    """Each cell of a line with the cell it is compared with."""
    cells = [int(cell) for cell in line.cells]
    if by_step:
        return list(zip(cells[1:], cells[:-1], strict=True))
    return [(cell, line.reference) for cell in cells] if line.reference is not None else []


def _interval(spread: SpreadRequest, kind: ChangeKind) -> str:
    if spread.error_bars == "standard-error":
        return phrase("One standard error of the change either side")
    if kind is ChangeKind.DIFFERENCE:
        return phrase("{level} % confidence limits of the change", level=spread.confidence)
    return phrase("{level} % confidence limits of the change, on the logarithmic scale", level=spread.confidence)
