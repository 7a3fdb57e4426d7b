"""Bootstrap limits of every figure that has them."""

import numpy as np

from grainstack.errors import RequestError
from grainstack.speech import option
from grainstack.summary.figures.bootstrap import (
    percentile_limits,
    random_numbers,
    resampled_clusters,
    resampled_deviations,
    resampled_means,
    resampled_quantiles,
    resampled_shares,
)
from grainstack.summary.figures.estimates import Estimated
from grainstack.summary.figures.estimator import Estimator
from grainstack.summary.figures.interval import Limits
from grainstack.summary.request import Figure
from grainstack.summary.sums.design import COUNT, Pair
from grainstack.summary.sums.exact import Floats


def bootstrap_limits(figure: Figure, found: Estimated, estimator: Estimator) -> Limits:
    """Percentile limits of resamples (Efron & Tibshirani 1993); of clusters within strata where there is a design.

    Args:
        figure: Which.
        found: Its estimates.
        estimator: The sums of the cells shown.

    Raises:
        RequestError: The figure has no bootstrap, or none under this design.
    """
    spread = estimator.request.spread
    words = f"{spread.level:g} % confidence limits (bootstrap, {spread.repeats:,} repeats, seed {spread.seed})"
    if estimator.request.design.is_complex:
        return _bootstrap_clusters(figure, found, estimator, words)
    name, count = figure.statistic.name, estimator.grouping.count
    known = ("share", "mean", "sd", "variance", "iqr")
    if (name not in known and figure.statistic.quantile is None) or (name == "share" and figure.measure):
        raise RequestError(f"There is no bootstrap of a {name}.", f"Leave {option('interval')} bootstrap out.")
    low, high = (np.full(count, np.nan) for _ in range(2))
    values = estimator.values(figure.measure) if figure.measure else None
    for cell in range(count):
        random = random_numbers(spread.seed, cell)
        if values is None:
            resampled = resampled_shares(float(found.estimate[cell]), int(found.base[cell]), spread.repeats, random)
        elif name == "mean":
            resampled = resampled_means(values.of_cell(cell), spread.repeats, random)
        elif name in ("sd", "variance"):
            deviations = resampled_deviations(values.of_cell(cell), spread.repeats, random)
            resampled = deviations if name == "sd" else deviations**2
        elif name == "iqr":
            quartiles = resampled_quantiles(values.of_cell(cell), [0.25, 0.75], spread.repeats, random)
            resampled = quartiles[:, 1] - quartiles[:, 0]
        else:
            part = figure.statistic.quantile or 0.5
            resampled = resampled_quantiles(values.of_cell(cell), [part], spread.repeats, random)[:, 0]
        low[cell], high[cell] = percentile_limits(resampled, spread.level)
    return Limits(low, high, words)


def _bootstrap_clusters(figure: Figure, found: Estimated, estimator: Estimator, words: str) -> Limits:
    name, spread, design = figure.statistic.name, estimator.request.spread, estimator.totals.design
    if design is None or not estimator.request.design.cluster or name not in ("mean", "rate", "share", "sum", "count"):
        raise RequestError(
            f"There is no bootstrap of this {name} under this design.",
            f"Name clusters, or use {option('interval')} auto.",
        )
    pair: Pair = (figure.measure, figure.per) if figure.measure else COUNT
    sums = estimator.matrices(pair)
    wholes = estimator.base_matrices(pair) if name == "share" else sums

    def figures(factors: Floats) -> Floats:
        with np.errstate(invalid="ignore", divide="ignore"):
            if name in ("sum", "count"):
                return np.asarray(factors @ sums.x)
            return np.asarray((factors @ sums.x) / (factors @ (wholes.x if name == "share" else sums.y)))

    of_unit = design.units.keys[:, 0]
    resampled = resampled_clusters(estimator.strata, of_unit, spread.repeats, spread.seed, figures)
    ends = [percentile_limits(resampled[:, cell], spread.level) for cell in range(resampled.shape[1])]
    low, high = (np.where(np.isnan(found.estimate), np.nan, side) for side in zip(*ends, strict=True))
    return Limits(low, high, words.replace("bootstrap", "bootstrap of clusters"))
