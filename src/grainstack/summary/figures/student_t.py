"""Quantiles of Student's t, without the half second that loading a library of distributions takes."""

import math
from statistics import NormalDist

import numpy as np

from grainstack.summary.sums.exact import Floats

_MANY = 1000.0  # degrees of freedom from which the expansion is exact to the last digits
_STEPS = 60
_TINY = 1e-300


def t_quantile(part: float, degrees: Floats) -> Floats:
    """The quantile of Student's t.

    With many degrees of freedom by the expansion around the normal quantile (Abramowitz & Stegun 1964, 26.7.5); else
    by Newton's method on the distribution function, an incomplete beta function (26.7.1, 26.5.8).

    Args:
        part: Which quantile, from above 0.5 to below 1.
        degrees: Degrees of freedom, shape (cells,), 1 at least; need not be whole.
    """
    different, back = np.unique(degrees, return_inverse=True)
    found = [_quantile(part, one) if math.isfinite(one) else math.nan for one in different.tolist()]
    return np.asarray(np.array(found, dtype=np.float64)[back.reshape(np.shape(degrees))])


def _quantile(part: float, degrees: float) -> float:

    if degrees == 1:
        return math.tan(math.pi * (part - 0.5))
    if degrees == 2:
        spread = 2 * part - 1
        return spread * math.sqrt(2 / (1 - spread * spread))
    start = _expanded(NormalDist().inv_cdf(part), degrees)
    if degrees >= _MANY:
        return start
    tail, found = 1 - part, max(start, 1e-6)
    for _ in range(_STEPS):
        step = (_upper_tail(found, degrees) - tail) / _density(found, degrees)
        step = max(min(step, found), -found / 2)  # never beyond double or half of it
        found += step
        if abs(step) <= 1e-15 * found:
            break
    return found


def _expanded(z: float, degrees: float) -> float:
    """The quantile as a power series in 1/degrees around the normal quantile z."""
    terms = (
        (z**3 + z) / 4,
        (5 * z**5 + 16 * z**3 + 3 * z) / 96,
        (3 * z**7 + 19 * z**5 + 17 * z**3 - 15 * z) / 384,
        (79 * z**9 + 776 * z**7 + 1482 * z**5 - 1920 * z**3 - 945 * z) / 92160,
    )
    return z + sum(term / degrees**power for power, term in enumerate(terms, 1))


def _density(t: float, degrees: float) -> float:
    whole = math.lgamma((degrees + 1) / 2) - math.lgamma(degrees / 2) - 0.5 * math.log(degrees * math.pi)
    return math.exp(whole - (degrees + 1) / 2 * math.log1p(t * t / degrees))


def _upper_tail(t: float, degrees: float) -> float:
    """The probability of more than t, for t above 0."""
    x = degrees / (degrees + t * t)
    a, b = degrees / 2, 0.5
    log_front = math.lgamma(a + b) - math.lgamma(a) - math.lgamma(b) + a * math.log(x) + b * math.log1p(-x)
    front = math.exp(log_front)
    if x < (a + 1) / (a + b + 2):
        return 0.5 * front * _fraction(x, a, b) / a
    return 0.5 * (1 - front * _fraction(1 - x, b, a) / b)


def _fraction(x: float, a: float, b: float) -> float:
    """The continued fraction of the incomplete beta function, by Lentz's method (Thompson & Barnett 1986)."""
    ratio, inverse = 1.0, 1 / _away(1 - (a + b) * x / (a + 1))
    found = inverse
    for step in range(1, 500):
        even = step * (b - step) * x / ((a + 2 * step - 1) * (a + 2 * step))
        odd = -(a + step) * (a + b + step) * x / ((a + 2 * step) * (a + 2 * step + 1))
        for part in (even, odd):
            inverse = 1 / _away(1 + part * inverse)
            ratio = _away(1 + part / ratio)
            found *= inverse * ratio
        if abs(inverse * ratio - 1) < 1e-16:
            break
    return found


def _away(number: float) -> float:
    """A number, or one hardly above 0 in its place."""
    return number if abs(number) > _TINY else _TINY
