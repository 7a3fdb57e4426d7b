"""From sums to figures: the estimate of each cell and its standard error, one function per statistic."""

from collections.abc import Callable

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from grainstack.errors import RequestError
from grainstack.option_names import option
from grainstack.summary.figures.estimator import Estimator
from grainstack.summary.figures.quantiles import Counted, quantile
from grainstack.summary.summary_request import Figure, Purpose
from grainstack.summary.sums.exact import Floats, Integers, Mask


class Estimated(Struct, frozen=True):
    """Estimates before their limits; all arrays have shape (cells,).

    Attributes:
        estimate: The figures; NaN where there is none.
        base: Records a figure rests on, never weighted; of a share, those of its whole.
        records: Records in the cell itself.
        error: Standard errors; NaN where there is none.
        deviation: Standard deviations of the records; NaN where there is none.
        degrees: Degrees of freedom of the standard error; NaN where it has none.
        plain_variance: The variance the figure would have if as many records had been drawn one by one with equal
            chances; NaN where that is not defined.
    """

    estimate: Floats
    base: Integers
    records: Integers
    error: Floats
    deviation: Floats
    plain_variance: Floats
    degrees: Floats

    def vanishes(self, error: Floats) -> Mask:
        """Where an error tells nothing, shape (cells,): all values are equal, or all was drawn, up to rounding."""
        return np.asarray(error <= 1e-9 * np.abs(self.estimate))


def estimated(figure: Figure, estimator: Estimator) -> Estimated:
    """The estimates of one figure.

    Args:
        figure: Which.
        estimator: The sums of the cells wanted.
    """
    statistic = figure.statistic
    return (_quantile if statistic.quantile is not None else ESTIMATES[statistic.name])(figure, estimator)


def _count(figure: Figure, estimator: Estimator) -> Estimated:
    moments = estimator.moments(figure.measure)
    return _plain(moments.weight, moments.records)


def _sum(figure: Figure, estimator: Estimator) -> Estimated:
    moments = estimator.moments(figure.measure)
    return _plain(moments.sum, moments.records)


def _value(figure: Figure, estimator: Estimator) -> Estimated:
    moments = estimator.moments(figure.measure)
    return _plain(np.where(moments.records > 0, moments.sum, np.nan), moments.records)


def _plain(estimate: Floats, records: Integers, base: Integers | None = None) -> Estimated:
    """A figure without a sampling error of its own, such as a count: a census of what was recorded.

    Args:
        estimate: The figures, shape (cells,).
        records: Records in each cell.
        base: Records it is taken of; the same without it.
    """
    nothing = np.full(len(estimate), np.nan)
    return Estimated(estimate, records if base is None else base, records, nothing, nothing, nothing, nothing)


def _share(figure: Figure, estimator: Estimator) -> Estimated:
    """Σwδ / Σw over the base, or of a measure Σwxδ / Σwx over the base."""
    if figure.measure is not None and estimator.totals.several:
        raise RequestError(
            f"A record with several answers would count its `{figure.measure}` several times: no share of the sum.",
            f"Use {option('stat', 'sum')}, or shares of records without {option('measure')}.",
        )
    if estimator.request.base == "measures":
        return _share_among_measures(figure, estimator)
    cells, whole = estimator.moments(figure.measure), estimator.whole(figure.measure)
    above, below = (cells.weight, whole.weight) if figure.measure is None else (cells.sum, whole.sum)
    if figure.measure is not None and (cells.sum < 0).any() and figure.purpose is not Purpose.SHOWN:
        return _plain(np.full(len(above), np.nan), cells.records)
    if figure.measure is not None and (cells.sum < 0).any():
        raise RequestError(
            f"Some sums of `{figure.measure}` are negative, so they have no share of a whole.",
            "Show the sums themselves.",
        )
    nothing = np.full(len(above), np.nan)
    with np.errstate(invalid="ignore", divide="ignore"):
        estimate = above / below
        variance = estimate * (1 - estimate) / whole.records
    if figure.measure is not None:
        return _plain(estimate, cells.records, whole.records)
    return Estimated(estimate, whole.records, cells.records, np.sqrt(variance), nothing, variance, nothing)


def _share_among_measures(figure: Figure, estimator: Estimator) -> Estimated:
    """Σwx over the sums of all measures of the cell."""
    measures = {name: estimator.moments(name) for name in estimator.request.measure}
    if any((moments.sum < 0).any() for moments in measures.values()):
        raise RequestError("Some sums are negative, so they are no parts of a whole.", "Show the sums themselves.")
    whole = np.sum([moments.sum for moments in measures.values()], axis=0)
    with np.errstate(invalid="ignore", divide="ignore"):
        estimate = measures[str(figure.measure)].sum / whole
    return _plain(estimate, measures[str(figure.measure)].records)


def _mean(figure: Figure, estimator: Estimator) -> Estimated:
    moments = estimator.moments(figure.measure)
    deviation = _standard_deviation(estimator, figure.measure)
    with np.errstate(invalid="ignore", divide="ignore"):
        variance = deviation**2 / moments.records
    records, degrees = moments.records, np.maximum(moments.records - 1.0, 0)
    estimates = Estimated(moments.mean, records, records, np.sqrt(variance), deviation, variance, degrees)
    return replace(estimates, error=np.where(estimates.vanishes(estimates.error), np.nan, estimates.error))


def _rate(figure: Figure, estimator: Estimator) -> Estimated:
    """Σwx / Σwy over the records that have both."""
    above, below = estimator.rate(str(figure.measure))
    with np.errstate(invalid="ignore", divide="ignore"):
        estimate = np.where(below.sum == 0, np.nan, above.sum / below.sum)
    return _plain(estimate, above.records)


def _deviation(figure: Figure, estimator: Estimator) -> Estimated:
    records = estimator.moments(figure.measure).records
    deviation = _standard_deviation(estimator, figure.measure)
    estimate = deviation if figure.statistic.name == "sd" else deviation**2
    return replace(_plain(estimate, records), deviation=deviation)


def _standard_deviation(estimator: Estimator, measure: str | None) -> Floats:
    """√(Σw(x − x̄)² / Σw · n/(n − 1)), which without weights is the usual one with n − 1; NaN below two records."""
    moments = estimator.moments(measure)
    n = moments.records.astype(float)
    if estimator.request.pools_shares and measure == estimator.request.value:
        shares, scale = given_shares(moments.mean, str(measure))
        with np.errstate(invalid="ignore", divide="ignore"):
            return np.where(n < 2, np.nan, scale * np.sqrt(shares * (1 - shares) * n / (n - 1)))
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.where(n < 2, np.nan, np.sqrt(moments.squares / moments.weight * n / (n - 1)))


def given_shares(figures: Floats, column: str) -> tuple[Floats, float]:
    """Given shares from 0 to 1, and what the figures are multiplied by: 100 where some are above 1.

    Args:
        figures: The shares as they are given, of 1 or of 100; shape (cells,).
        column: Where they are given.

    Raises:
        RequestError: Some are no shares.
    """
    known = figures[~np.isnan(figures)]
    scale = 100.0 if (known > 1).any() else 1.0
    if ((known < 0) | (known > scale)).any():
        raise RequestError(
            f"`{column}` holds {known[(known < 0) | (known > scale)][0]:g}, which is no share.",
            f"Shares run from 0 to 1, or to 100; other figures are {option('value_is', 'mean')} or other.",
        )
    return figures / scale, scale


def _extreme(figure: Figure, estimator: Estimator) -> Estimated:
    extremes = estimator.extremes(str(figure.measure))
    estimates = extremes.low if figure.statistic.name == "min" else extremes.high
    return _plain(np.where(np.isfinite(estimates), estimates, np.nan), estimator.moments(figure.measure).records)


def _quantile(figure: Figure, estimator: Estimator) -> Estimated:
    part = figure.statistic.quantile or 0.5
    return _by_values(figure, estimator, lambda cell: quantile(cell, part, weighted=estimator.weighted))


def _quartile_range(figure: Figure, estimator: Estimator) -> Estimated:
    def between(cell: Counted) -> float:
        low, high = (quantile(cell, part, weighted=estimator.weighted) for part in (0.25, 0.75))
        return high - low

    return _by_values(figure, estimator, between)


def _distinct(figure: Figure, estimator: Estimator) -> Estimated:
    return _by_values(figure, estimator, lambda cell: float(len(cell[0])))


def _by_values(figure: Figure, estimator: Estimator, of: Callable[[Counted], float]) -> Estimated:
    """A figure worked out from the different values of each cell."""
    values = estimator.values(str(figure.measure))
    estimate = [of(values.of_cell(cell)) for cell in range(estimator.grouping.count)]
    return _plain(np.array(estimate, dtype=np.float64), estimator.moments(figure.measure).records)


# How each statistic with a name of its own is estimated.
ESTIMATES: dict[str, Callable[[Figure, Estimator], Estimated]] = {
    "count": _count,
    "share": _share,
    "sum": _sum,
    "mean": _mean,
    "value": _value,
    "rate": _rate,
    "sd": _deviation,
    "variance": _deviation,
    "iqr": _quartile_range,
    "distinct": _distinct,
    "min": _extreme,
    "max": _extreme,
}
