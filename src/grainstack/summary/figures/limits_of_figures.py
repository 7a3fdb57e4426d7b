"""The limits of each figure: confidence, standard error, standard deviation, quartiles or range."""

import numpy as np

from grainstack.errors import RequestError
from grainstack.language import phrase
from grainstack.option_names import option
from grainstack.summary.figures.estimates import given_shares
from grainstack.summary.figures.inference import Inference
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
from grainstack.summary.sums.exact import Floats


def limits_of(figures: Inference) -> Limits:
    """The limits a request asks for.

    Args:
        figures: The figures of the cells shown.

    Raises:
        RequestError: They make no sense for this figure.
    """
    figure, estimator = figures.figure, figures.estimator
    spread = estimator.request.spread
    kind = spread.error_bars
    if kind == "none" or (estimator.request.is_complete and kind in (None, "confidence", "standard-error")):
        return none(figures)
    if spread.confident:
        return _confidence(figures)
    if kind == "standard-error":
        return _either_side(figures, figures.error, phrase("One standard error either side"), "standard error")
    if kind == "standard-deviation":
        return _either_side(
            figures, figures.deviation, phrase("One standard deviation of the records either side"), "deviation"
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


def none(figures: Inference) -> Limits:
    """No limits."""
    nothing = np.full(len(figures.estimate), np.nan)
    return Limits(nothing, nothing, "")


def _either_side(figures: Inference, reach: Floats, words: str, what: str) -> Limits:
    if np.isnan(reach).all() and len(reach):
        raise RequestError(f"This figure has no {what}.", f"Use {option('error_bars', 'confidence')}, or leave it out.")
    return Limits(figures.estimate - reach, figures.estimate + reach, words)


def _confidence(figures: Inference) -> Limits:
    request, statistic = figures.estimator.request, figures.figure.statistic
    spread = request.spread
    if spread.interval == "bootstrap":
        return bootstrap_limits(figures)
    if request.pools_shares and figures.figure.measure == request.value:
        return _of_given_shares(figures)
    if figures.of_records:
        return share_limits(figures, spread.interval)
    if statistic.quantile is not None:
        return _quantile(figures)
    if statistic.linear is not None and (statistic.linear is not Linear.TOTAL or figures.by_design):
        return _by_student(figures)
    if spread.interval != "auto" or (spread.error_bars == "confidence" and not statistic.additive):
        which = spread.interval if spread.interval != "auto" else "confidence"
        raise RequestError(
            f"There are no {which} limits of `{statistic.name}`.",
            f"Use {option('interval', 'bootstrap')}."
            if statistic.name in RESAMPLED
            else f"Leave {option('error_bars')} and {option('interval')} out.",
        )
    return none(figures)


def share_limits(figures: Inference, how: str = "auto", level: float | None = None) -> Limits:
    """Confidence limits of a share: Wilson's, or Korn and Graubard's under a design.

    Args:
        figures: Shares of records.
        how: The interval asked for.
        level: Confidence level in percent; the one asked for without it.
    """
    level = level or figures.estimator.request.spread.confidence
    if figures.is_complex:
        _check_interval(how, ("auto", "design", "exact"), "a weighted share")
        low, high = korn_graubard(figures.estimate, figures.error**2, figures.base, figures.degrees, level)
        return Limits(low, high, _words("Korn–Graubard", level), level=level)
    _check_interval(how, ("auto", "wilson", "exact", "t"), "a share without weights")
    hits, base = figures.records.astype(float), figures.base.astype(float)
    if how == "exact":
        return Limits(*clopper_pearson(hits, base, level), _words(phrase("Clopper–Pearson, exact"), level), level=level)
    if how == "t":
        low, high = student(figures.estimate, figures.error, base - 1, level)
        return Limits(np.maximum(low, 0), np.minimum(high, 1), _words(phrase("Student's t"), level), level=level)
    return Limits(*wilson(hits, base, level), _words(phrase("Wilson score"), level), level=level)


def _of_given_shares(figures: Inference) -> Limits:
    """Wilson's limits of shares that are given with the number of records each is of."""
    spread = figures.estimator.request.spread
    _check_interval(spread.interval, ("auto", "wilson"), "a given share")
    shares, scale = given_shares(figures.estimate, str(figures.figure.measure))
    base = figures.base.astype(float)
    low, high = wilson(shares * base, base, spread.confidence)
    return Limits(scale * low, scale * high, _words(phrase("Wilson score"), spread.confidence), level=spread.confidence)


def _by_student(figures: Inference) -> Limits:
    spread = figures.estimator.request.spread
    known = ("auto", "t", "design") if figures.by_design else ("auto", "t")
    _check_interval(spread.interval, known, f"a {figures.figure.statistic.name}")
    level = spread.confidence
    method = phrase("design-based Student's t") if figures.is_complex else phrase("Student's t")
    low, high = student(figures.estimate, figures.error, figures.degrees, level)
    return Limits(low, high, _words(method, level), level=level, by_student=True)


def _quantile(figures: Inference) -> Limits:
    figure, estimator = figures.figure, figures.estimator
    request, level = estimator.request, estimator.request.spread.confidence
    part, measure = figure.statistic.quantile or 0.5, str(figure.measure)
    values = estimator.values(measure)
    cells = [values.of_cell(cell) for cell in range(estimator.grouping.count)]
    low, high = (np.full(len(cells), np.nan) for _ in range(2))
    if request.design.is_complex:
        _check_interval(request.spread.interval, ("auto", "woodruff", "design"), "a weighted quantile")
        spread_below = estimator.quantile_spread(measure, figures.estimate)
        error, degrees = np.sqrt(spread_below.variance), spread_below.degrees
        ends = student(np.full(len(cells), part), error, degrees, level)
        for place, cell in enumerate(cells):
            if figures.records[place] >= 2 and error[place] > 0 and degrees[place] >= 1:
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
