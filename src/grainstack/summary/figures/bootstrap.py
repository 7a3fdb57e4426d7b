"""Bootstrap limits (Efron & Tibshirani 1993, chapter 13: percentile limits).

Records are never drawn one by one. Records with equal values are alike, so a resample is a draw of how often each
value occurs; and the order statistics of a resample follow from those of uniform numbers. Each cell has random numbers
of its own, so the limits depend on the seed and on nothing else.
"""

import numpy as np

from grainstack.summary.figures.quantiles import Counted
from grainstack.summary.sums.exact import Floats, Integers

_MOST_SQUARES = 2000  # the same for deviations, whose squares are less even within a run
_MOST_VALUES = 256  # runs of neighbouring values are drawn as one where there are more


def percentile_limits(resampled: Floats, level: float) -> tuple[float, float]:
    """The percentile limits of resampled figures, shape (repeats,); NaN where there are none.

    Args:
        resampled: Resampled figures, shape (repeats,).
        level: The level in percent.
    """
    known = resampled[~np.isnan(resampled)]
    if not len(known):
        return np.nan, np.nan
    low, high = np.quantile(known, [0.5 - level / 200, 0.5 + level / 200])
    return float(low), float(high)


def random_numbers(seed: int, cell: int) -> np.random.Generator:
    """The random numbers of one cell.

    Args:
        seed: What was asked for.
        cell: The number of the cell.
    """
    return np.random.Generator(np.random.PCG64(np.random.SeedSequence([seed, cell])))


def resampled_means(cell: Counted, repeats: int, random: np.random.Generator) -> Floats:
    """Means of resamples, shape (repeats,).

    Up to 256 different values are drawn as they are. More are put together into 256 runs of neighbouring values: how
    many records fall into each run is drawn exactly, and what they add up to within their run from a normal
    distribution of the right mean and variance. The first two moments of the resampled mean are exact; what is
    approximated is the shape within a run, whose share of the variance is small.

    Args:
        cell: Values, rising, with their records and weights.
        repeats: How many resamples are drawn.
        random: The random numbers of the cell.
    """
    values, records, _ = cell
    n = int(records.sum())
    if n < 2:
        return np.full(repeats, np.nan)
    run, counts, drawn = _drawn_by_run(records, _MOST_VALUES, repeats, random)
    means = np.bincount(run, values * records) / counts
    variances = np.bincount(run, records * (values - means[run]) ** 2) / counts
    totals = drawn @ means
    if len(values) > _MOST_VALUES:
        totals = totals + np.sqrt(drawn @ variances) * random.standard_normal(repeats)
    return np.asarray(totals / n)


def _drawn_by_run(
    records: Integers, most: int, repeats: int, random: np.random.Generator
) -> tuple[Integers, Floats, Integers]:
    """The run of each value, the records of each run, and how many of them each resample holds, (repeats, runs)."""
    run = runs_of_neighbours(records, most)
    counts = np.bincount(run, records).astype(np.float64)
    n = int(records.sum())
    return run, counts, random.multinomial(n, counts / n, size=repeats)


def runs_of_neighbours(records: Integers, most: int) -> Integers:
    """The run of neighbours each value is drawn with, shape (values,); its own where there are no more than `most`.

    Args:
        records: Records of each value, shape (values,); runs hold about equally many of them.
        most: Runs there may be.
    """
    if len(records) <= most:
        return np.arange(len(records))
    middle = np.cumsum(records) - records / 2
    run = np.minimum((middle * most / records.sum()).astype(np.int64), most - 1)
    return np.asarray(np.unique(run, return_inverse=True)[1].reshape(-1), dtype=np.int64)


def resampled_deviations(cell: Counted, repeats: int, random: np.random.Generator) -> Floats:
    """Standard deviations (n − 1) of resamples, shape (repeats,); beyond 2,000 values neighbours are put together.

    Args:
        cell: Values, rising, with their records and weights.
        repeats: How many resamples are drawn.
        random: The random numbers of the cell.
    """
    values, records, _ = cell
    n = int(records.sum())
    if n < 2:
        return np.full(repeats, np.nan)
    run, counts, drawn = _drawn_by_run(records, _MOST_SQUARES, repeats, random)
    center = float((values * records).sum() / n)
    first = np.bincount(run, (values - center) * records) / counts
    second = np.bincount(run, (values - center) ** 2 * records) / counts
    return np.sqrt(np.maximum(drawn @ second - (drawn @ first) ** 2 / n, 0) / (n - 1))


def resampled_shares(share: float, base: int, repeats: int, random: np.random.Generator) -> Floats:
    """Shares in resamples of the base, shape (repeats,).

    Args:
        share: The share, from 0 to 1.
        base: The records it rests on.
        repeats: How many resamples are drawn.
        random: The random numbers of the cell.
    """
    if base < 1 or np.isnan(share):
        return np.full(repeats, np.nan)
    return np.asarray(random.binomial(base, min(max(share, 0.0), 1.0), repeats) / base)


def resampled_quantiles(cell: Counted, parts: list[float], repeats: int, random: np.random.Generator) -> Floats:
    """Quantiles (definition 7) of resamples, shape (repeats, parts).

    The order statistics of n draws from the records are the records at the order statistics of n uniform numbers, and
    those are drawn directly, each given the one before (David & Nagaraja 2003, section 2.5).

    Args:
        cell: Values, rising, with their records and weights.
        parts: Which quantiles, from 0 to 1.
        repeats: How many resamples are drawn.
        random: The random numbers of the cell.
    """
    values, records, _ = cell
    n = int(records.sum())
    if n < 2:
        return np.full((repeats, len(parts)), np.nan)
    ranks = sorted({rank for part in parts for rank in _ranks(part, n)})
    uniform = np.zeros(repeats)
    drawn: dict[int, Floats] = {}
    before = 0
    reach = np.cumsum(records) / n
    for rank in ranks:
        uniform = uniform + (1 - uniform) * random.beta(rank - before, n - rank + 1, repeats)
        before = rank
        drawn[rank] = values[np.searchsorted(reach, uniform, side="left").clip(0, len(values) - 1)]
    columns = []
    for part in parts:
        low, high = _ranks(part, n)
        place = part * (n - 1) - (low - 1)
        columns.append(drawn[low] + place * (drawn[high] - drawn[low]))
    return np.column_stack(columns)


def _ranks(part: float, n: int) -> tuple[int, int]:
    place = part * (n - 1)
    return int(np.floor(place)) + 1, int(np.ceil(place)) + 1
