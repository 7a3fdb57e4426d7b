"""Exact sums as fractions, to be held against those of the standard library."""

from fractions import Fraction

from grainstack.summary.sums.exact import ExactSums


def fractions_of(sums: ExactSums) -> list[Fraction]:
    """The sums of all cells."""
    wholes, unit = sums.as_ratios()
    return [Fraction(whole, unit) for whole in wholes]
