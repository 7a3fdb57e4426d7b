"""Limits of the difference of two shares, and the test that these limits make."""

from collections.abc import Callable
from math import sqrt

from grainstack.summary.special import special

_NO_P = 1e-300  # no p-value below it is told from 0
_NEAR = 1e-9  # of a p-value, at which halving ends


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

    def limits(p: float) -> tuple[float, float]:
        return limits_of_difference(first, second, correlation, -float(special().ndtri(p / 2)))

    return p_of_limits(limits, _NO_P)


def p_of_limits(limits: Callable[[float], tuple[float, float]], least: float) -> float:
    """The p-value at which the limits of a difference begin to leave 0 out, by halving its order of magnitude.

    Args:
        limits: The limits of the difference at 1 less a p-value.
        least: What is given where even the limits of this p-value leave 0 out.
    """
    below, above = least, 1.0
    while above - below > _NEAR * above:
        middle = (below * above) ** 0.5 if above > 2 * below else (below + above) / 2
        low, high = limits(middle)
        below, above = (middle, above) if low <= 0 <= high else (below, middle)
    return above


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
