"""Confidence limits of shares, means and quantiles.

Everything here takes and gives arrays with one entry per cell; limits are NaN where there is none.
"""

from statistics import NormalDist

import numpy as np

from grainstack.summary.figures.student_t import t_quantile
from grainstack.summary.special import special
from grainstack.summary.sums.exact import Floats, Integers


def wilson(hits: Floats, base: Floats, level: float) -> tuple[Floats, Floats]:
    """Score limits of a share (Wilson 1927; recommended by Newcombe 1998, method 3, and Brown, Cai & DasGupta 2001).

    Args:
        hits: Records in the cell, shape (cells,).
        base: Records the share is taken of, shape (cells,).
        level: Confidence level in percent.

    Returns:
        Lower and upper limits between 0 and 1, shape (cells,); NaN where the base is 0.
    """
    z = NormalDist().inv_cdf(0.5 + level / 200)
    with np.errstate(invalid="ignore", divide="ignore"):
        share = hits / base
        middle = share + z * z / (2 * base)
        half = z * np.sqrt(share * (1 - share) / base + z * z / (4 * base * base))
        scale = 1 + z * z / base
        low, high = (middle - half) / scale, (middle + half) / scale
    low = np.where((hits == 0) & (base > 0), 0.0, np.maximum(low, 0))
    high = np.where((hits == base) & (base > 0), 1.0, np.minimum(high, 1))
    return low, high


def clopper_pearson(hits: Floats, base: Floats, level: float) -> tuple[Floats, Floats]:
    """Exact limits of a share by beta quantiles (Clopper & Pearson 1934).

    Args:
        hits: Records in the cell, shape (cells,); need not be whole.
        base: Records the share is taken of, shape (cells,); need not be whole.
        level: Confidence level in percent.
    """
    tail, quantile = 0.5 - level / 200, special().betaincinv
    with np.errstate(invalid="ignore"):
        lower = quantile(np.maximum(hits, 1e-300), np.maximum(base - hits + 1, 1e-300), tail)
        upper = quantile(hits + 1, np.maximum(base - hits, 1e-300), 1 - tail)
        low, high = np.where(hits <= 0, 0.0, lower), np.where(hits >= base, 1.0, upper)
    empty = ~(base > 0)
    return np.where(empty, np.nan, low), np.where(empty, np.nan, high)


def korn_graubard(
    share: Floats, variance: Floats, records: Integers, degrees: Floats, level: float
) -> tuple[Floats, Floats]:
    """Limits of a share under a survey design: exact limits on the effective base (Korn & Graubard 1998).

    The effective base p(1 − p)/v is adjusted by (t of n − 1 / t of the design's degrees of freedom)². It may be larger
    than n where strata or a finite population leave little to chance; of a share of 0 or 1 it is n.

    Args:
        share: Shares, shape (cells,).
        variance: Their design-based variances, shape (cells,); NaN where nothing is left to chance.
        records: Records the share is taken of, shape (cells,).
        degrees: Degrees of freedom of each cell, shape (cells,); without any there are no limits.
        level: Confidence level in percent.

    Returns:
        Lower and upper limits, shape (cells,) each.
    """
    n = records.astype(float)
    part, quantile = 0.5 + level / 200, special().stdtrit
    with np.errstate(invalid="ignore", divide="ignore"):
        ratio = quantile(np.maximum(n - 1, 1), part) / quantile(np.maximum(np.nan_to_num(degrees, nan=1.0), 1), part)
        effective = share * (1 - share) / variance * ratio**2
    effective = np.where(np.isfinite(effective) & (effective > 0), effective, n)
    low, high = clopper_pearson(share * effective, effective, level)
    missing = np.isnan(share) | np.isnan(variance) | ~(degrees >= 1)
    return np.where(missing, np.nan, low), np.where(missing, np.nan, high)


def student(estimate: Floats, standard_error: Floats, degrees: Floats, level: float) -> tuple[Floats, Floats]:
    """Limits by Student's t.

    Args:
        estimate: Estimates, shape (cells,).
        standard_error: Their standard errors, shape (cells,); NaN where there is none.
        degrees: Degrees of freedom, shape (cells,) or a single number.
        level: Confidence level in percent.
    """
    reach = t_quantile(0.5 + level / 200, np.maximum(np.nan_to_num(degrees, nan=1.0), 1.0)) * standard_error
    return estimate - reach, estimate + reach


def order_statistic_ranks(records: int, part: float, level: float) -> tuple[int, int] | None:
    """Ranks (from 1) of the order statistics that enclose a quantile (binomial limits; Conover 1999, section 3.2).

    The lower rank is the largest and the upper one the smallest that leave at most half the error each outside.

    Args:
        records: Records in the cell.
        part: Which quantile, from 0 to 1.
        level: Confidence level in percent.

    Returns:
        The ranks, or None when there are too few records to enclose it with such confidence.
    """
    if records < 2:
        return None
    tail = 0.5 - level / 200
    reached = special().bdtr(np.arange(records), records, part)
    lower = int(np.searchsorted(reached, tail, side="right"))
    upper = int(np.searchsorted(reached, 1 - tail, side="left")) + 1
    return (lower, upper) if lower >= 1 and upper <= records else None
