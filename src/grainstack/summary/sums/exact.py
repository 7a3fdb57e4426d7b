"""Sums without rounding: the same records give the same sum, whatever the order, the batches or the threads.

Every number is cut into whole multiples of 2^36, 1, 2^-36, … (levels 1, 0, −1, …). Multiples of one level are whole
numbers and add up without rounding; only the finished sum is rounded, once. This is the long accumulator of Kulisch
(2013, Computer Arithmetic and Validity, chapter 8) with levels wide enough for numpy to do the adding.
"""

from dataclasses import dataclass, field
from fractions import Fraction

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
Integers = npt.NDArray[np.int64]

_BITS = 36  # of one level: 27 more are left in 63 for adding up 2²⁷ numbers before carrying
_RADIX = 1 << _BITS
_TINY = 2.0**-500  # below it the units of the levels would vanish, so numbers are first made larger by some levels
_LIFT = 15  # levels of 2⁵⁴⁰: past the smallest double precision number
CHUNK = 1 << 16


@dataclass(slots=True)
class ExactSums:
    """The exact sums of numbers per cell.

    Attributes:
        levels: For each level the multiples of its unit, shape (cells,); below 2^36 in size after every addition.
        count: How many cells there are.
    """

    levels: dict[int, Integers] = field(default_factory=dict)
    count: int = 0

    def add(self, cells: Integers, amounts: Floats, count: int) -> None:
        """Adds numbers.

        Args:
            cells: The cell of each number, shape (numbers,), from 0.
            amounts: The numbers, shape (numbers,), finite.
            count: How many cells there are by now.
        """
        self._grow(count)
        for start in range(0, len(cells), CHUNK):
            part = slice(start, start + CHUNK)
            self._add_chunk(cells[part], amounts[part])
        self._carry()

    def merge(self, other: "ExactSums", places: Integers, count: int) -> None:
        """Adds other sums.

        Args:
            other: The sums to add.
            places: Where each of its cells stands here, shape (cells of `other`,); several may share a place.
            count: How many cells there are by now.
        """
        self._grow(count)
        for level, multiples in other.levels.items():
            self._at(level)[:] += np.bincount(places, multiples.astype(float), self.count).astype(np.int64)
        self._carry()

    def regrouped(self, groups: Integers, count: int) -> "ExactSums":
        """The sums of groups of cells; see `merge`."""
        result = ExactSums(count=count)
        result.merge(self, groups, count)
        return result

    def at(self, places: Integers) -> "ExactSums":
        """The sums at these places, shape (places,)."""
        return ExactSums({level: multiples[places] for level, multiples in self.levels.items()}, len(places))

    def values(self) -> Floats:
        """The sums, each rounded once, shape (cells,)."""
        filled = sorted(level for level, multiples in self.levels.items() if multiples.any())
        if not filled:
            return np.zeros(self.count)
        if len(filled) <= 2 and filled[0] > -_LIFT and filled[-1] < _LIFT:  # both exact: one addition rounds once
            parts = (self.levels[level] * 2.0 ** (_BITS * level) for level in filled)
            return np.asarray(sum(parts), dtype=np.float64)
        wholes, unit = self._wholes(filled)
        return np.array([whole / unit for whole in wholes], dtype=np.float64)

    def fractions(self) -> list[Fraction]:
        """The sums as exact fractions."""
        filled = sorted(level for level, multiples in self.levels.items() if multiples.any())
        wholes, unit = self._wholes(filled)
        return [Fraction(whole, unit) for whole in wholes]

    def _wholes(self, filled: list[int]) -> tuple[list[int], int]:
        """The sums as whole numbers over one common denominator."""
        if not filled:
            return [0] * self.count, 1
        lowest = min(filled[0], 0)
        wholes = [0] * self.count
        for level in filled:
            shift = _BITS * (level - lowest)
            pairs = zip(wholes, self.levels[level].tolist(), strict=True)
            wholes = [whole + (multiple << shift) for whole, multiple in pairs]
        return wholes, 1 << (-_BITS * lowest)

    def _add_chunk(self, cells: Integers, amounts: Floats) -> None:
        rest, lifted = amounts, 0
        while rest.any():
            if float(np.abs(rest).max()) < _TINY and not lifted:
                rest, lifted = rest * 2.0 ** (_BITS * _LIFT), _LIFT
            level = (int(np.frexp(np.abs(rest).max())[1]) - 1) // _BITS
            unit = 2.0 ** (_BITS * level)
            multiples = np.trunc(rest / unit)
            self._at(level - lifted)[:] += np.bincount(cells, multiples, self.count).astype(np.int64)
            rest = rest - multiples * unit

    def _carry(self) -> None:
        """Passes on what has outgrown a level, so that no multiple ever overflows."""
        for level in sorted(self.levels):
            over = np.trunc(self.levels[level] / _RADIX).astype(np.int64)
            if over.any():
                self.levels[level] -= over * _RADIX
                self._at(level + 1)[:] += over
        while self.levels and (top := self.levels[max(self.levels)]).size and np.abs(top).max() >= _RADIX:
            level = max(self.levels)
            over = np.trunc(top / _RADIX).astype(np.int64)
            self.levels[level] -= over * _RADIX
            self._at(level + 1)[:] += over

    def _at(self, level: int) -> Integers:
        if level not in self.levels:
            self.levels[level] = np.zeros(self.count, dtype=np.int64)
        return self.levels[level]

    def _grow(self, count: int) -> None:
        missing = count - self.count
        if missing > 0:
            self.count = count
            for level, multiples in self.levels.items():
                self.levels[level] = np.concatenate([multiples, np.zeros(missing, dtype=np.int64)])


def product(one: Floats, other: Floats) -> tuple[Floats, Floats]:
    """A product and what rounding kept out of it: `one · other` is exactly the sum of both (Dekker 1971).

    Args:
        one: Numbers, shape (numbers,).
        other: Numbers, shape (numbers,).
    """
    rounded = one * other
    one_high, other_high = _high(one), _high(other)
    one_low, other_low = one - one_high, other - other_high
    error = one_low * other_low - (((rounded - one_high * other_high) - one_low * other_high) - one_high * other_low)
    return rounded, error


def square(numbers: Floats) -> tuple[Floats, ...]:
    """Numbers times themselves, exactly, as the sum of the parts given: a single one for moderate whole numbers."""
    if np.abs(numbers).max(initial=0.0) < 2**26 and (numbers == np.trunc(numbers)).all():
        return (numbers * numbers,)
    return product(numbers, numbers)


def _high(numbers: Floats) -> Floats:
    """The upper half of each mantissa (Veltkamp 1968)."""
    scaled = numbers * 134217729.0
    return np.asarray(scaled - (scaled - numbers))
