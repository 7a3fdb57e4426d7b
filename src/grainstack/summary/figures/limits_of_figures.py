"""The limits of each figure: confidence, standard error, standard deviation, quartiles or range."""

import numpy as np

from grainstack.errors import RequestError
from grainstack.language import phrase
from grainstack.option_names import option
from grainstack.summary.figures.estimates import Estimated, given_shares
from grainstack.summary.figures.estimator import Estimator
from grainstack.summary.figures.interval_formulas import (
    clopper_pearson,
    korn_graubard,
    order_statistic_ranks,
    student,
    wilson,
)
from grainstack.summary.figures.quantiles import order_statistics, quantile
from grainstack.summary.figures.resampled import RESAMPLED, bootstrap_limits
from grainstack.summary.figures.spread import Limits
from grainstack.summary.statistics import Linear
from grainstack.summary.summary_request import Figure
from grainstack.summary.sums.exact import Floats


def limits_of(figure: Figure, estimates: Estimated, estimator: Estimator) -> Limits:
    """The limits a request asks for.

    Args:
        figure: Which figure.
        estimates: Its estimates, shape (cells,) each.
        estimator: The sums of the cells shown.

    Raises:
        RequestError: They make no sense for this figure.
    """
    spread = estimator.request.spread
    kind = spread.error_bars
    if kind == "none" or (estimator.request.is_complete and kind in (None, "confidence", "standard-error")):
        return none(estimates)
    if spread.confident:
        return _confidence(figure, estimates, estimator)
    if kind == "standard-error":
        return _either_side(estimates, estimates.error, phrase("One standard error either side"), "standard error")
    if kind == "standard-deviation":
        return _either_side(
            estimates, estimates.deviation, phrase("One standard deviation of the records either side"), "deviation"
        )
    if figure.measure is None:
        raise RequestError(
            f"A {figure.statistic.name} has no {kind}.", f"Use {option('error_bars')} with a measure, or confidence."
        )
    if kind == "range":
        extremes = estimator.extremes(figure.measure)
        low, high = (np.where(np.isfinite(ends), ends, np.nan) for ends in (extremes.low, extremes.high))
        return Limits(low, high, phrase("From the lowest to the highest value"))
    values = estimator.values(figure.measure)
    cells = [values.of_cell(cell) for cell in range(estimator.grouping.count)]
    low, high = (
        np.array([quantile(cell, part, weighted=estimator.weighted) for cell in cells]) for part in (0.25, 0.75)
    )
    return Limits(low, high, phrase("From the lower to the upper quartile"))


def none(estimates: Estimated) -> Limits:
    """No limits."""
    nothing = np.full(len(estimates.estimate), np.nan)
    return Limits(nothing, nothing, "")


def _either_side(estimates: Estimated, reach: Floats, words: str, what: str) -> Limits:
    if np.isnan(reach).all() and len(reach):
        raise RequestError(f"This figure has no {what}.", f"Use {option('error_bars')} confidence, or leave it out.")
    return Limits(estimates.estimate - reach, estimates.estimate + reach, words)


def _confidence(figure: Figure, estimates: Estimated, estimator: Estimator) -> Limits:
    spread = estimator.request.spread
    if spread.interval == "bootstrap":
        return bootstrap_limits(figure, estimates, estimator)
    statistic = figure.statistic
    if estimator.request.pools_shares and figure.measure == estimator.request.value:
        return _of_given_shares(figure, estimates, estimator)
    if statistic.linear is Linear.SHARE and figure.measure is None:
        return share_limits(estimates, estimator, spread.interval)
    if figure.statistic.quantile is not None:
        return _quantile(figure, estimates, estimator)
    if statistic.linear is not None and (statistic.linear is not Linear.TOTAL or estimates.spread is not None):
        return _by_student(figure, estimates, estimator)
    if spread.interval != "auto" or (spread.error_bars == "confidence" and not statistic.additive):
        which = spread.interval if spread.interval != "auto" else "confidence"
        raise RequestError(
            f"There are no {which} limits of `{statistic.name}`.",
            f"Use {option('interval')} bootstrap."
            if statistic.name in RESAMPLED
            else f"Leave {option('error_bars')} and {option('interval')} out.",
        )
    return none(estimates)


def share_limits(estimates: Estimated, estimator: Estimator, how: str = "auto", level: float | None = None) -> Limits:
    """Confidence limits of a share: Wilson's, or Korn and Graubard's under a design.

    Args:
        estimates: Shares from 0 to 1 with their bases, shape (cells,) each.
        estimator: The sums of the cells shown.
        how: The interval asked for.
        level: Confidence level in percent; the one asked for without it.
    """
    request, level = estimator.request, level or estimator.request.spread.level
    if request.design.is_complex:
        _check_interval(how, ("auto", "design", "exact"), "a weighted share")
        variance = estimates.error**2
        low, high = korn_graubard(estimates.estimate, variance, estimates.base, estimates.degrees, level)
        return Limits(low, high, _words("Korn–Graubard", level), level=level)
    _check_interval(how, ("auto", "wilson", "exact", "t"), "a share without weights")
    hits, base = estimates.records.astype(float), estimates.base.astype(float)
    if how == "exact":
        return Limits(*clopper_pearson(hits, base, level), _words(phrase("Clopper–Pearson, exact"), level), level=level)
    if how == "t":
        low, high = student(estimates.estimate, estimates.error, base - 1, level)
        return Limits(np.maximum(low, 0), np.minimum(high, 1), _words(phrase("Student's t"), level), level=level)
    return Limits(*wilson(hits, base, level), _words(phrase("Wilson score"), level), level=level)


def _of_given_shares(figure: Figure, estimates: Estimated, estimator: Estimator) -> Limits:
    """Wilson's limits of shares that are given with the number of records each is of."""
    spread = estimator.request.spread
    _check_interval(spread.interval, ("auto", "wilson"), "a given share")
    shares, scale = given_shares(estimates.estimate, str(figure.measure))
    base = estimates.base.astype(float)
    low, high = wilson(shares * base, base, spread.level)
    return Limits(scale * low, scale * high, _words(phrase("Wilson score"), spread.level), level=spread.level)


def _by_student(figure: Figure, estimates: Estimated, estimator: Estimator) -> Limits:
    level, how = estimator.request.spread.level, estimator.request.spread.interval
    designed = estimates.spread is not None
    _check_interval(how, ("auto", "t", "design") if designed else ("auto", "t"), f"a {figure.statistic.name}")
    method = phrase("design-based Student's t") if estimator.request.design.is_complex else phrase("Student's t")
    low, high = student(estimates.estimate, estimates.error, estimates.degrees, level)
    return Limits(low, high, _words(method, level), level=level, by_student=True)


def _quantile(figure: Figure, estimates: Estimated, estimator: Estimator) -> Limits:
    request, level = estimator.request, estimator.request.spread.level
    part, measure = figure.statistic.quantile or 0.5, str(figure.measure)
    values = estimator.values(measure)
    cells = [values.of_cell(cell) for cell in range(estimator.grouping.count)]
    low, high = (np.full(len(cells), np.nan) for _ in range(2))
    if request.design.is_complex:
        _check_interval(request.spread.interval, ("auto", "woodruff", "design"), "a weighted quantile")
        spread_below = estimator.quantile_spread(measure, estimates.estimate)
        error, degrees = np.sqrt(spread_below.variance), spread_below.degrees
        ends = student(np.full(len(cells), part), error, degrees, level)
        for place, cell in enumerate(cells):
            if estimates.records[place] >= 2 and error[place] > 0 and degrees[place] >= 1:
                low[place], high[place] = (
                    quantile(cell, float(min(max(end[place], 1e-9), 1 - 1e-9)), weighted=True) for end in ends
                )
        return Limits(low, high, _words("Woodruff", level), degrees, level)
    _check_interval(request.spread.interval, ("auto", "order-statistics"), "a quantile without weights")
    for place, cell in enumerate(cells):
        ranks = order_statistic_ranks(int(cell[1].sum()), part, level)
        if ranks is not None:
            low[place], high[place] = order_statistics(cell[0], cell[1], np.array(ranks) - 1.0)
    return Limits(low, high, phrase("At least {level} % confidence limits (order statistics)", level=level))


def _words(method: str, level: float) -> str:
    """What confidence limits are."""
    return phrase("{level} % confidence limits ({method})", level=level, method=method)


def _check_interval(how: str, known: tuple[str, ...], what: str) -> None:
    if how not in known:
        raise RequestError(f"{option('interval')} {how} is not for {what}.", f"Use {', '.join(known)} or bootstrap.")
