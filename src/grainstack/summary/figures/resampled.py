"""Bootstrap limits of every figure that has them."""

from collections.abc import Callable

import numpy as np

from grainstack.errors import RequestError
from grainstack.language import phrase
from grainstack.option_names import option
from grainstack.summary.figures.bootstrap import (
    percentile_limits,
    random_numbers,
    resampled_deviations,
    resampled_means,
    resampled_quantiles,
    resampled_shares,
)
from grainstack.summary.figures.designed_bootstrap import designed_limits
from grainstack.summary.figures.inference import Inference
from grainstack.summary.figures.quantiles import Counted
from grainstack.summary.figures.spread import Limits
from grainstack.summary.statistics import Statistic
from grainstack.summary.sums.exact import Floats

Resampled = Callable[[Counted, int, np.random.Generator], Floats]  # of a cell, repeats and random numbers


def bootstrap_limits(figures: Inference) -> Limits:
    """Percentile limits of resamples (Efron & Tibshirani 1993), drawn as the design drew where there is one.

    Args:
        figures: The figures of the cells shown.

    Raises:
        RequestError: The figure has no bootstrap, or none under this design.
    """
    figure, estimator = figures.figure, figures.estimator
    spread = estimator.request.spread
    if figures.is_complex:
        return designed_limits(figures)
    facts = {"level": spread.confidence, "repeats": spread.repeats, "seed": str(spread.seed)}
    words = phrase("{level} % confidence limits (bootstrap, {repeats} repeats, seed {seed})", **facts)
    statistic, count = figure.statistic, estimator.grouping.count
    by_values = None if figure.measure is None else _resampled_by_values(statistic)
    if by_values is None and not figures.of_records:
        raise RequestError(f"There is no bootstrap of a {statistic.name}.", f"Leave {option('interval')} out.")
    low, high = (np.full(count, np.nan) for _ in range(2))
    values = estimator.values(figure.measure) if figure.measure else None
    for cell in range(count):
        random = random_numbers(spread.seed, cell)
        if values is None or by_values is None:
            resampled = resampled_shares(float(figures.estimate[cell]), int(figures.base[cell]), spread.repeats, random)
        else:
            resampled = by_values(values.of_cell(cell), spread.repeats, random)
        low[cell], high[cell] = percentile_limits(resampled, spread.confidence)
    return Limits(low, high, words, level=spread.confidence)


def _resampled_variances(cell: Counted, repeats: int, random: np.random.Generator) -> Floats:
    return resampled_deviations(cell, repeats, random) ** 2


def _resampled_quartile_ranges(cell: Counted, repeats: int, random: np.random.Generator) -> Floats:
    quartiles = resampled_quantiles(cell, [0.25, 0.75], repeats, random)
    return np.asarray(quartiles[:, 1] - quartiles[:, 0])


# How a figure of the values of a cell is resampled; what is missing here has no bootstrap.
RESAMPLED: dict[str, Resampled] = {
    "mean": resampled_means,
    "sd": resampled_deviations,
    "variance": _resampled_variances,
    "iqr": _resampled_quartile_ranges,
}


def _resampled_by_values(statistic: Statistic) -> Resampled | None:
    part = statistic.quantile
    if part is None:
        return RESAMPLED.get(statistic.name)
    return lambda cell, repeats, random: np.asarray(resampled_quantiles(cell, [part], repeats, random)[:, 0])
