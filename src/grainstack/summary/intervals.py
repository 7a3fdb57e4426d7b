"""Confidence limits of shares and means."""

from statistics import NormalDist

import numpy as np

from grainstack.summary.moments import Floats


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


def student(mean: Floats, standard_error: Floats, degrees: Floats, level: float) -> tuple[Floats, Floats]:
    """Limits of a mean by Student's t.

    Args:
        mean: Means, shape (cells,).
        standard_error: Their standard errors, shape (cells,); NaN where there is none.
        degrees: Degrees of freedom, shape (cells,).
        level: Confidence level in percent.

    Returns:
        Lower and upper limits, shape (cells,); NaN where there is no standard error.
    """
    from scipy.special import stdtrit  # noqa: PLC0415 - half a second that only limits of means should cost

    reach = stdtrit(np.maximum(degrees, 1), 0.5 + level / 200) * standard_error
    return mean - reach, mean + reach
