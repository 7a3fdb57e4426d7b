"""Bootstrap limits of every figure that has them."""

from collections.abc import Callable, Mapping

import numpy as np

from grainstack.errors import RequestError
from grainstack.language import phrase
from grainstack.option_names import option
from grainstack.summary.figures.bootstrap import (
    percentile_limits,
    random_numbers,
    resampled_clusters,
    resampled_deviations,
    resampled_means,
    resampled_quantiles,
    resampled_shares,
    reweighted_deviations,
    reweighted_quantiles,
)
from grainstack.summary.figures.inference import Inference
from grainstack.summary.figures.quantiles import Counted
from grainstack.summary.figures.spread import Limits
from grainstack.summary.statistics import Linear, Statistic
from grainstack.summary.sums.design import COUNT, Pair
from grainstack.summary.sums.exact import Floats

Resampled = Callable[[Counted, int, np.random.Generator], Floats]  # of a cell, repeats and random numbers
Reweighted = Callable[[Counted, Floats], Floats]  # of a cell, and factors of its values in each resample


def bootstrap_limits(figures: Inference) -> Limits:
    """Percentile limits of resamples (Efron & Tibshirani 1993); of clusters within strata where there is a design.

    Args:
        figures: The figures of the cells shown.

    Raises:
        RequestError: The figure has no bootstrap, or none under this design.
    """
    figure, estimator = figures.figure, figures.estimator
    spread = estimator.request.spread
    facts = {"level": spread.level, "repeats": spread.repeats, "seed": str(spread.seed)}
    if figures.is_complex:
        return _bootstrap_clusters(figures, facts)
    words = phrase("{level} % confidence limits (bootstrap, {repeats} repeats, seed {seed})", **facts)
    statistic, count = figure.statistic, estimator.grouping.count
    by_values = None if figure.measure is None else _resampled_by_values(statistic)
    if by_values is None and not figures.of_records:
        raise RequestError(
            f"There is no bootstrap of a {statistic.name}.", f"Leave {option('interval')} bootstrap out."
        )
    low, high = (np.full(count, np.nan) for _ in range(2))
    values = estimator.values(figure.measure) if figure.measure else None
    for cell in range(count):
        random = random_numbers(spread.seed, cell)
        if values is None or by_values is None:
            resampled = resampled_shares(float(figures.estimate[cell]), int(figures.base[cell]), spread.repeats, random)
        else:
            resampled = by_values(values.of_cell(cell), spread.repeats, random)
        low[cell], high[cell] = percentile_limits(resampled, spread.level)
    return Limits(low, high, words, level=spread.level)


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


def _bootstrap_clusters(figures: Inference, facts: Mapping[str, object]) -> Limits:
    figure, estimator = figures.figure, figures.estimator
    linear, spread, design = figure.statistic.linear, estimator.request.spread, estimator.totals.design
    request = estimator.request.design
    by_values = _reweighted_by_values(figure.statistic) if linear is None and figure.measure else None
    if design is None or not request.cluster or len(request.population) > 1 or (linear is None and by_values is None):
        raise RequestError(
            f"There is no bootstrap of this {figure.statistic.name} under this design.",
            f"Name the clusters of one stage, or use {option('interval')} auto.",
        )

    def of_values(factors: Floats) -> Floats:
        assert by_values is not None
        cells = estimator.values_by_unit(str(figure.measure))
        return np.column_stack(
            [by_values((values, records, weights), factors[:, units]) for values, records, weights, units in cells]
        )

    def of_sums(factors: Floats) -> Floats:
        pair: Pair = (figure.measure, figure.per) if figure.measure else COUNT
        sums = estimator.matrices(pair)
        with np.errstate(invalid="ignore", divide="ignore"):
            if linear is Linear.TOTAL:
                return np.asarray(factors @ sums.x)
            below = estimator.base_matrices(pair).x if linear is Linear.SHARE else sums.y
            return np.asarray((factors @ sums.x) / (factors @ below))

    way = of_sums if by_values is None else of_values
    resampled = resampled_clusters(estimator.stages[0], spread.repeats, spread.seed, way)
    ends = [percentile_limits(resampled[:, cell], spread.level) for cell in range(resampled.shape[1])]
    nothing = np.isnan(figures.error) if by_values is None else figures.records < 2
    low, high = (np.where(nothing, np.nan, side) for side in zip(*ends, strict=True))
    words = phrase("{level} % confidence limits (bootstrap of clusters, {repeats} repeats, seed {seed})", **facts)
    return Limits(low, high, words, level=spread.level)


def _reweighted_by_values(statistic: Statistic) -> Reweighted | None:
    """How a figure of values is worked out under resampled clusters; None where it is not."""
    part = statistic.quantile
    if part is not None:
        return lambda values, factors: reweighted_quantiles(values, factors, part)
    ways: dict[str, Reweighted] = {
        "sd": reweighted_deviations,
        "variance": lambda values, factors: reweighted_deviations(values, factors) ** 2,
        "iqr": lambda values, factors: (
            reweighted_quantiles(values, factors, 0.75) - reweighted_quantiles(values, factors, 0.25)
        ),
    }
    return ways.get(statistic.name)
