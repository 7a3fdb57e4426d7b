"""Sums without rounding: the same records give the same sum, whatever the order, the batches or the threads.

Decimal numbers are summed up as whole numbers of a power of ten; see `factors`, which adds them. Any other number is
cut into whole multiples of 2^36, 1, 2^-36, … (levels 1, 0, −1, …). Multiples of one level are whole numbers and add up
without rounding; only the finished sum is rounded, once. This is the long accumulator of Kulisch (2013, Computer
Arithmetic and Validity, chapter 8) with levels wide enough for numpy to do the adding.
"""

from collections.abc import Iterable

import numpy as np
import numpy.typing as npt
from msgspec import Struct, field

Floats = npt.NDArray[np.float64]
Mask = npt.NDArray[np.bool_]
Integers = npt.NDArray[np.int64]

BITS = 36  # of one level: 27 more are left in 63 for adding up many numbers before carrying
_RADIX = 1 << BITS
_FULL = 2.0**62  # no sum of multiples may pass it before carrying
_TINY = 2.0**-500  # below it the units of the levels would vanish, so numbers are first made larger by some levels
_LIFT = 15  # levels of 2⁵⁴⁰: past the smallest double precision number
CHUNK = 1 << 16
_EXACT = 2.0**53  # whole numbers below it are exact as doubles
_EXACT_POWER = 22  # powers of ten up to this one are exact as doubles: 5²² is less than 2⁵³


class ExactSums(Struct):
    """The exact sums of numbers per cell.

    Attributes:
        levels: For each level the multiples of its unit, shape (cells,).
        count: How many cells there are.
        decimals: The sums of decimal numbers, as whole numbers of 10^-`places`; None while there are none.
        places: How many decimals these have.
        reach: The multiples of each level are at most so large.
    """

    levels: dict[int, Integers] = field(default_factory=dict)
    count: int = 0
    decimals: "ExactSums | None" = None
    places: int = 0
    reach: float = 0.0

    def add(self, cells: Integers, amounts: Floats, count: int) -> None:
        """Adds numbers.

        Args:
            cells: The cell of each number, shape (numbers,), from 0.
            amounts: The numbers, shape (numbers,), finite.
            count: How many cells there are by now.
        """
        for start in range(0, len(cells), CHUNK):
            part = slice(start, start + CHUNK)
            self.room(count, (), float(CHUNK * _RADIX))
            self._add_chunk(cells[part], amounts[part])
        self.grow(count)

    def tens(self, places: int) -> "ExactSums":
        """The sums of decimal numbers, to be added to as whole numbers of 10^-`places`."""
        if self.decimals is None:
            self.decimals, self.places = ExactSums(count=self.count), places
        return self.decimals

    def room(self, count: int, levels: Iterable[int], reach: float) -> list[Integers]:
        """The multiples of some levels, to be added to in place.

        Args:
            count: How many cells there are by now.
            levels: Which levels.
            reach: How large the sum of what is added may be at most, less than 2^62.

        Returns:
            An array of shape (cells,) per level.
        """
        self.grow(count)
        if self.reach + reach > _FULL:
            self.carry()
        self.reach += reach
        return [self._at(level) for level in levels]

    def merge(self, other: "ExactSums", places: Integers, count: int) -> None:
        """Adds other sums.

        Args:
            other: The sums to add.
            places: Where each of its cells stands here, shape (cells of `other`,); several may share a place.
            count: How many cells there are by now.
        """
        other.carry()
        for level, sums in zip(other.levels, self.room(count, other.levels, float(len(places) * _RADIX)), strict=True):
            np.add.at(sums, places, other.levels[level])
        if other.decimals is not None:
            self.tens(other.places).merge(other.decimals, places, count)

    def regrouped(self, groups: Integers, count: int) -> "ExactSums":
        """The sums of groups of cells; see `merge`."""
        result = ExactSums(count=count)
        result.merge(self, groups, count)
        return result

    def less(self, other: "ExactSums") -> "ExactSums":
        """The sums without others of the same cells."""
        if not other.count:
            return self
        result = self.regrouped(np.arange(self.count), max(self.count, other.count))
        result.merge(other.negated(), np.arange(other.count), result.count)
        return result

    def negated(self) -> "ExactSums":
        """The sums with the other sign."""
        levels = {level: -multiples for level, multiples in self.levels.items()}
        return ExactSums(levels, self.count, self.decimals and self.decimals.negated(), self.places, self.reach)

    def at(self, places: Integers) -> "ExactSums":
        """The sums at these places, shape (places,)."""
        chosen = {level: multiples[places] for level, multiples in self.levels.items()}
        return ExactSums(chosen, len(places), self.decimals and self.decimals.at(places), self.places, self.reach)

    def values(self) -> Floats:
        """The sums, each rounded once, shape (cells,)."""
        self.carry()
        if self.decimals is not None:
            tens = self.decimals.values()
            only = not any(multiples.any() for multiples in self.levels.values())
            if only and self.places <= _EXACT_POWER and np.abs(tens).max(initial=0.0) < _EXACT:
                return np.asarray(tens / 10.0**self.places, dtype=np.float64)  # both exact: the division rounds once
            numerators, denominator = self.as_ratios()
            return np.array([one / denominator for one in numerators], dtype=np.float64)
        filled = sorted(level for level, multiples in self.levels.items() if multiples.any())
        if not filled:
            return np.zeros(self.count)
        if len(filled) <= 2 and filled[0] > -_LIFT and filled[-1] < _LIFT:  # both exact: one addition rounds once
            parts = (self.levels[level] * 2.0 ** (BITS * level) for level in filled)
            return np.asarray(sum(parts), dtype=np.float64)
        wholes, unit = self._wholes(filled)
        return np.array([whole / unit for whole in wholes], dtype=np.float64)

    def as_ratios(self) -> tuple[list[int], int]:
        """The exact sums as numerators, and the one denominator they share."""
        self.carry()
        wholes, unit = self._wholes(sorted(level for level, multiples in self.levels.items() if multiples.any()))
        if self.decimals is None:
            return wholes, unit
        tens, under = self.decimals.as_ratios()
        under *= 10**self.places
        if not any(wholes):
            return tens, under
        return [whole * under + part * unit for whole, part in zip(wholes, tens, strict=True)], unit * under

    def _wholes(self, filled: list[int]) -> tuple[list[int], int]:
        """The sums of these levels as whole numbers over one common denominator."""
        if not filled:
            return [0] * self.count, 1
        lowest = min(filled[0], 0)
        wholes = [0] * self.count
        for level in filled:
            shift = BITS * (level - lowest)
            pairs = zip(wholes, self.levels[level].tolist(), strict=True)
            wholes = [whole + (multiple << shift) for whole, multiple in pairs]
        return wholes, 1 << (-BITS * lowest)

    def _add_chunk(self, cells: Integers, amounts: Floats) -> None:
        rest, lifted = amounts, 0
        while rest.any():
            if float(np.abs(rest).max()) < _TINY and not lifted:
                rest, lifted = rest * 2.0 ** (BITS * _LIFT), _LIFT
            level = (int(np.frexp(np.abs(rest).max())[1]) - 1) // BITS
            unit = 2.0 ** (BITS * level)
            multiples = np.trunc(rest / unit)
            self._at(level - lifted)[:] += np.bincount(cells, multiples, self.count).astype(np.int64)
            rest = rest - multiples * unit

    def carry(self) -> None:
        """Passes on what has outgrown a level, so that multiples are below 2^36 in size."""
        if self.reach <= _RADIX:
            return
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
        self.reach = float(_RADIX)

    def _at(self, level: int) -> Integers:
        if level not in self.levels:
            self.levels[level] = np.zeros(self.count, dtype=np.int64)
        return self.levels[level]

    def grow(self, count: int) -> None:
        """Makes room for cells that have come, with sums of 0."""
        missing = count - self.count
        if missing > 0:
            self.count = count
            for level, multiples in self.levels.items():
                self.levels[level] = np.concatenate([multiples, np.zeros(missing, dtype=np.int64)])
        if self.decimals is not None:
            self.decimals.grow(count)
