"""Limits of the difference of two shares, and the test that these limits make."""

from math import sqrt

from grainstack.summary.special import special

_WIDEST = 40.0  # standard deviations: beyond, no p-value is told from 0
_NEAR = 1e-9  # of a standard deviation


def limits_of_difference(
    first: tuple[float, float], second: tuple[float, float], correlation: float, z: float
) -> tuple[float, float]:
    """Hybrid score limits of the difference of two shares (Newcombe 1998, method 10; correlated Zou & Donner 2008).

    Args:
        first: Records with the answer, and all records, of the one.
        second: The same of the share taken off.
        correlation: The correlation of both shares: 0 where they rest on different records.
        z: The normal quantile of the level: 1.96 for 95 %.
    """
    return mover(_wilson(*first, z), _wilson(*second, z), correlation)


def p_of_difference(first: tuple[float, float], second: tuple[float, float], correlation: float) -> float:
    """The two-sided p-value of two shares: the level at which the limits of their difference begin to leave 0 out.

    Args:
        first: Records with the answer, and all records, of the one.
        second: The same of the other share.
        correlation: The correlation of both shares.
    """
    least, most = 0.0, _WIDEST
    while most - least > _NEAR:
        middle = (least + most) / 2
        low, high = limits_of_difference(first, second, correlation, middle)
        least, most = (least, middle) if low <= 0 <= high else (middle, most)
    return 2 * float(special().ndtr(-least))


def _wilson(hits: float, base: float, z: float) -> tuple[float, float, float]:
    """A share with its score limits (Wilson 1927)."""
    share = hits / base
    middle = (hits + z * z / 2) / (base + z * z)
    reach = z * sqrt(max(share * (1 - share) * base + z * z / 4, 0.0)) / (base + z * z)
    return share, max(middle - reach, 0.0), min(middle + reach, 1.0)


def mover(
    first: tuple[float, float, float], second: tuple[float, float, float], correlation: float = 0.0
) -> tuple[float, float]:
    """Limits of a difference made of the limits of both figures (Zou & Donner 2008).

    Without correlation and with Wilson's limits this is Newcombe's hybrid score interval (Newcombe 1998, method 10).

    Args:
        first: A figure and its lower and upper limit.
        second: The same of the figure taken off.
        correlation: The correlation of both figures.
    """
    (p, low, high), (q, other_low, other_high) = first, second
    below, above = p - low, high - p
    other_below, other_above = q - other_low, other_high - q
    reach_down = below**2 - 2 * correlation * below * other_above + other_above**2
    reach_up = above**2 - 2 * correlation * above * other_below + other_below**2
    return p - q - max(reach_down, 0.0) ** 0.5, p - q + max(reach_up, 0.0) ** 0.5
