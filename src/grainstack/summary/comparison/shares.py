"""Tests of two shares, and limits of their difference."""

import numpy as np

from grainstack.language import marked
from grainstack.summary.special import special
from grainstack.summary.sums.exact import Floats, Integers

_LEAST_EXPECTED = 5  # hits and misses that must be expected in both groups for a z-test
_FEW_DISCORDANT = 25  # records that answer two questions differently, below which the exact test is used


def two_shares(hits: int, base: int, other_hits: int, other_base: int) -> tuple[float, str]:
    """The two-sided p-value of two independent shares, and the test it is of.

    Pooled z where at least five hits and misses are expected in both, else Fisher's exact test.

    Args:
        hits: Records with the answer in the first group.
        base: Records of the first group.
        other_hits: The same of the second group.
        other_base: The same of the second group.
    """
    pooled = (hits + other_hits) / (base + other_base)
    if min(pooled, 1 - pooled) * min(base, other_base) < _LEAST_EXPECTED:
        return fisher_exact(hits, base - hits, other_hits, other_base - other_hits), marked("Fisher's exact tests")
    z = (hits / base - other_hits / other_base) / np.sqrt(pooled * (1 - pooled) * (1 / base + 1 / other_base))
    return 2 * float(special().ndtr(-abs(z))), marked("z-tests of pooled shares")


def mcnemar(first_only: int, second_only: int) -> tuple[float, str]:
    """The two-sided p-value of two shares of the same records (McNemar 1947).

    Exact, by the binomial distribution of those who differ, where they are few; else by the normal one.

    Args:
        first_only: Records with the first answer and not the second.
        second_only: Records with the second answer and not the first.
    """
    discordant = first_only + second_only
    if discordant < _FEW_DISCORDANT:
        p = 2 * float(special().bdtr(min(first_only, second_only), discordant, 0.5)) if discordant else 1.0
        return min(p, 1.0), marked("exact McNemar tests")
    return 2 * float(special().ndtr(-abs(first_only - second_only) / np.sqrt(discordant))), marked("McNemar tests")


def fisher_exact(a: int, b: int, c: int, d: int) -> float:
    """The two-sided p-value of a table of four counts: all tables as unlikely as this or more (Fisher 1935).

    Args:
        a: First row, first column.
        b: First row, second column.
        c: Second row, first column.
        d: Second row, second column.
    """
    row, column, whole = a + b, a + c, a + b + c + d
    cells = np.arange(max(0, row + column - whole), min(row, column) + 1)

    def chosen(n: int, k: Integers) -> Floats:
        return np.asarray(special().gammaln(n + 1) - special().gammaln(k + 1) - special().gammaln(n - k + 1))

    logs = chosen(column, cells) + chosen(whole - column, row - cells)
    chances = np.exp(logs - logs.max())
    mine = chances[a - cells[0]]
    return float(min(chances[chances <= mine * (1 + 1e-7)].sum() / chances.sum(), 1.0))


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
