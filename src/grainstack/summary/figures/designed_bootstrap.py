"""Bootstrap limits of every figure under a survey design."""

from collections.abc import Callable

import numpy as np

from grainstack.errors import RequestError
from grainstack.language import phrase
from grainstack.option_names import option
from grainstack.summary.figures.bootstrap import percentile_limits, random_numbers, runs_of_neighbours
from grainstack.summary.figures.estimator import Estimator, ValuesByUnit
from grainstack.summary.figures.inference import Inference
from grainstack.summary.figures.linear import Matrices
from grainstack.summary.figures.quantiles import Counted
from grainstack.summary.figures.rao_wu import (
    RecordDraws,
    resampled_clusters,
    reweighted_deviations,
    reweighted_means,
    reweighted_quantiles,
    reweighted_totals,
)
from grainstack.summary.figures.spread import Limits
from grainstack.summary.statistics import Linear, Statistic
from grainstack.summary.sums.design import COUNT, Pair
from grainstack.summary.sums.exact import Floats, Integers

Reweighted = Callable[[Counted, Floats], Floats]  # of a cell, and factors of its values in each resample
_MOST_VALUES = 2000  # entries of a cell that are drawn apart; of more, neighbours are drawn as one


def designed_limits(figures: Inference) -> Limits:
    """Percentile limits of resamples drawn as the design drew: clusters or records, within strata.

    Args:
        figures: The figures of the cells shown.

    Raises:
        RequestError: There is no bootstrap of this figure, or of this design.
    """
    estimator, statistic = figures.estimator, figures.figure.statistic
    design, spread, totals = estimator.request.design, estimator.request.spread, estimator.totals
    of_records = not design.cluster
    by_values = _reweighted_by_values(statistic, of_records) if figures.figure.measure else None
    if statistic.linear is None and by_values is None:
        raise RequestError(f"There is no bootstrap of a {statistic.name}.", f"Leave {option('interval')} out.")
    if totals.design is None or (totals.replicates is not None and of_records):
        raise RequestError(
            "There is no bootstrap beside replicate weights.", f"They give the limits: {option('interval', 'auto')}."
        )
    if len(design.population) > 1:
        raise RequestError(
            f"There is no bootstrap of a sample drawn in {len(design.population)} stages.",
            f"Name the population sizes of one stage, or use {option('interval', 'auto')}.",
        )
    facts = {"level": spread.confidence, "repeats": spread.repeats, "seed": str(spread.seed)}
    if of_records:
        resampled = _of_records(figures, by_values)
        words = phrase("{level} % confidence limits (bootstrap of records, {repeats} repeats, seed {seed})", **facts)
    else:
        resampled = _of_clusters(figures, by_values)
        words = phrase("{level} % confidence limits (bootstrap of clusters, {repeats} repeats, seed {seed})", **facts)
    ends = [percentile_limits(one, spread.confidence) for one in resampled.T]
    nothing = ~figures.solid if statistic.linear is not None else figures.records < 2
    low, high = (np.where(nothing, np.nan, side) for side in zip(*ends, strict=True))
    return Limits(low, high, words, level=spread.confidence)


def _reweighted_by_values(statistic: Statistic, of_records: bool) -> Reweighted | None:  # noqa: FBT001 - of two ways
    """How a figure is worked out from values under resamples; None where it is not, or where sums do."""
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
    if of_records:
        ways |= {"mean": reweighted_means, "sum": reweighted_totals}
    return ways.get(statistic.name)


def _of_clusters(figures: Inference, by_values: Reweighted | None) -> Floats:
    """Figures under resampled clusters, shape (repeats, cells)."""
    figure, estimator = figures.figure, figures.estimator
    linear, spread = figure.statistic.linear, estimator.request.spread

    def of_values(factors: Floats) -> Floats:
        assert by_values is not None
        cells = estimator.values_by_unit(str(figure.measure))
        counted = [((one.values, one.records, one.weights), factors[:, one.units]) for one in cells]
        return np.column_stack([by_values(cell, own) for cell, own in counted])

    def of_sums(factors: Floats) -> Floats:
        pair: Pair = (figure.measure, figure.per) if figure.measure else COUNT
        sums = estimator.matrices(pair)
        with np.errstate(invalid="ignore", divide="ignore"):
            if linear is Linear.TOTAL:
                return np.asarray(factors @ sums.x)
            below = estimator.base_matrices(pair).x if linear is Linear.SHARE else sums.y
            return np.asarray((factors @ sums.x) / (factors @ below))

    way = of_sums if by_values is None else of_values
    return resampled_clusters(estimator.stages[0], spread.repeats, spread.seed, way)


def _of_records(figures: Inference, by_values: Reweighted | None) -> Floats:
    """Figures under resampled records, shape (repeats, cells)."""
    figure, estimator = figures.figure, figures.estimator
    seed = estimator.request.spread.seed
    if by_values is not None:
        cells = [_in_runs(one) for one in estimator.values_by_unit(str(figure.measure))]
        return np.column_stack(
            [_of_values(one, by_values, estimator, random_numbers(seed, cell)) for cell, one in enumerate(cells)]
        )
    pair: Pair = (figure.measure, figure.per) if figure.measure else COUNT
    sums = estimator.matrices(pair)
    whole = estimator.base_matrices(pair) if figures.is_share else None
    return np.column_stack(
        [_of_sums(figures, sums, whole, cell, random_numbers(seed, cell)) for cell in range(estimator.grouping.count)]
    )


def _of_values(cell: ValuesByUnit, by_values: Reweighted, estimator: Estimator, random: np.random.Generator) -> Floats:
    """A figure of values under resampled records, shape (repeats,)."""
    _check_once(cell.units, cell.records, estimator)
    draws = RecordDraws(estimator.stages[0], cell.units, cell.records, estimator.request.spread.repeats, random)
    weights = draws.sums(cell.weights, cell.squares)
    return by_values((cell.values, cell.records, np.ones(len(cell.values))), weights)


def _of_sums(
    figures: Inference, sums: Matrices, whole: Matrices | None, cell: int, random: np.random.Generator
) -> Floats:
    """A share, total or rate of a cell under resampled records, shape (repeats,)."""
    estimator, widest = figures.estimator, sums if whole is None else whole
    repeats = estimator.request.spread.repeats
    strata = np.flatnonzero(widest.records[:, cell] > 0)
    _check_once(strata, widest.records[strata, cell], estimator)
    records, x, xx = sums.records[strata, cell], sums.x[strata, cell], _given(sums.xx)[strata, cell]
    if whole is not None:
        others = whole.records[strata, cell] - records
        x, xx = (
            np.concatenate([one, base[strata, cell] - one]) for one, base in ((x, whole.x), (xx, _given(whole.xx)))
        )
        both = np.concatenate([records, others])
        drawn = RecordDraws(estimator.stages[0], np.tile(strata, 2), both, repeats, random).sums(x, xx)
        with np.errstate(invalid="ignore", divide="ignore"):
            return np.asarray(drawn[:, : len(strata)].sum(axis=1) / drawn.sum(axis=1))
    draws = RecordDraws(estimator.stages[0], strata, records, repeats, random)
    if figures.figure.statistic.linear is Linear.TOTAL:
        return np.asarray(draws.sums(x, xx).sum(axis=1))
    below = sums.y[strata, cell], _given(sums.yy)[strata, cell]
    return draws.ratios((x, xx), below, _given(sums.xy)[strata, cell])


def _given(squares: Floats | None) -> Floats:
    """Sums of squares, which there are where single records were drawn."""
    assert squares is not None
    return squares


def _check_once(strata: Integers, records: Integers, estimator: Estimator) -> None:
    """Refuses cells in which a record stands several times: these were not drawn one by one.

    Raises:
        RequestError: Names what to do.
    """
    drawn = estimator.stages[0].drawn
    if (np.bincount(strata, records, len(drawn)) > drawn).any():
        raise RequestError(
            "There is no bootstrap of a figure in which records stand several times.",
            f"Name the column they are numbered in: {option('cluster', 'COLUMN')}; or leave the total out.",
        )


def _in_runs(cell: ValuesByUnit) -> ValuesByUnit:
    """A cell whose values are put together with their neighbours of the same stratum where there are very many."""
    if len(cell.values) <= _MOST_VALUES:
        return cell
    strata, of_stratum = np.unique(cell.units, return_inverse=True)
    most = max(_MOST_VALUES // len(strata), 1)
    run = np.zeros(len(cell.values), dtype=np.int64)
    for number in range(len(strata)):
        mine = np.flatnonzero(of_stratum == number)
        run[mine] = number * most + runs_of_neighbours(cell.records[mine], most)
    _, first, run = np.unique(run, return_index=True, return_inverse=True)
    weights, squares, sums = (
        np.bincount(run, amounts).astype(np.float64)
        for amounts in (cell.weights, cell.squares, cell.weights * cell.values)
    )
    records = np.bincount(run, cell.records).astype(np.int64)
    values = np.divide(sums, weights, out=cell.values[first].copy(), where=weights > 0)
    joined = ValuesByUnit(values, records, weights, squares, cell.units[first])
    return joined.at(np.argsort(values, kind="stable"))
