"""Sums without rounding: the same records give the same sum, whatever the order, the batches or the threads.

Most columns hold decimal numbers: money, minutes, weights of a few decimals. A number that is the nearest double to one
with at most four decimals is taken for that decimal number, and so are products of such numbers: they are summed up as
whole numbers of a power of ten (`Whole`), which is exact and takes one pass.

Any other number is cut into whole multiples of 2^36, 1, 2^-36, … (levels 1, 0, −1, …). Multiples of one level are whole
numbers and add up without rounding; only the finished sum is rounded, once. This is the long accumulator of Kulisch
(2013, Computer Arithmetic and Validity, chapter 8) with levels wide enough for numpy to do the adding.
"""

import functools
from collections.abc import Iterator, Sequence
from dataclasses import field
from fractions import Fraction

import numpy as np
import numpy.typing as npt

from grainstack.quick import dataclass

Floats = npt.NDArray[np.float64]
Integers = npt.NDArray[np.int64]

_BITS = 36  # of one level: 27 more are left in 63 for adding up 2²⁷ numbers before carrying
_RADIX = 1 << _BITS
_TINY = 2.0**-500  # below it the units of the levels would vanish, so numbers are first made larger by some levels
_LIFT = 15  # levels of 2⁵⁴⁰: past the smallest double precision number
CHUNK = 1 << 16
_PLACES = 4  # decimals of money, minutes, and weights as they are delivered
_LARGEST = 1e10  # with four decimals still far within the whole numbers a double holds
_EXACT = 2.0**53  # whole numbers below it are exact as doubles
_EXACT_POWER = 22  # powers of ten up to this one are exact as doubles: 5²² is less than 2⁵³
_FIRST = 200  # numbers that most likely have as many decimals as all of them
_HALF = 26  # bits of half such a number


@dataclass(slots=True)
class ExactSums:
    """The exact sums of numbers per cell.

    Attributes:
        levels: For each level the multiples of its unit, shape (cells,); below 2^36 in size after every addition.
        count: How many cells there are.
        decimals: The sums of decimal numbers, as whole numbers of 10^-`places`; None while there are none.
        places: How many decimals these have.
    """

    levels: dict[int, Integers] = field(default_factory=dict)
    count: int = 0
    decimals: "ExactSums | None" = None
    places: int = 0

    def add_products(self, cells: Integers, factors: "Sequence[Factor]", count: int) -> None:
        """Adds the products of some columns, row by row.

        Args:
            cells: The cell of each row, shape (rows,), from 0; at most `CHUNK` of them.
            factors: The columns, shape (rows,) each, at least one; all of them decimal or none.
            count: How many cells there are by now.
        """
        if all(factor.whole is not None for factor in factors):
            whole = functools.reduce(Whole.times, (factor.whole for factor in factors if factor.whole is not None))
            self._add_whole(cells, whole, count)
            return
        parts: tuple[Floats, ...] = (factors[0].numbers,)
        for factor in factors[1:]:
            parts = tuple(piece for part in parts for piece in product(part, factor.numbers))
        for part in parts:
            self.add(cells, part, count)

    def _add_whole(self, cells: Integers, whole: "Whole", count: int) -> None:
        self.grow(count)
        if self.decimals is None:
            self.decimals, self.places = ExactSums(), whole.places
        every = np.arange(count)
        scale = 10.0 ** (whole.places - whole.digits)
        for shift, sums in whole.sums(cells, count):
            for exact in product(sums, np.full(count, scale)) if scale > 1 else (sums,):
                self.decimals.add(every, exact * 2.0**shift, count)

    def add(self, cells: Integers, amounts: Floats, count: int) -> None:
        """Adds numbers.

        Args:
            cells: The cell of each number, shape (numbers,), from 0.
            amounts: The numbers, shape (numbers,), finite.
            count: How many cells there are by now.
        """
        self.grow(count)
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
        self.grow(count)
        for level, multiples in other.levels.items():
            self._at(level)[:] += np.bincount(places, multiples.astype(float), self.count).astype(np.int64)
        self._carry()
        if other.decimals is not None:
            self.decimals, self.places = self.decimals or ExactSums(), other.places
            self.decimals.merge(other.decimals, places, count)

    def regrouped(self, groups: Integers, count: int) -> "ExactSums":
        """The sums of groups of cells; see `merge`."""
        result = ExactSums(count=count)
        result.merge(self, groups, count)
        return result

    def at(self, places: Integers) -> "ExactSums":
        """The sums at these places, shape (places,)."""
        chosen = {level: multiples[places] for level, multiples in self.levels.items()}
        return ExactSums(chosen, len(places), self.decimals and self.decimals.at(places), self.places)

    def values(self) -> Floats:
        """The sums, each rounded once, shape (cells,)."""
        if self.decimals is not None:
            tens = self.decimals.values()
            only = not any(multiples.any() for multiples in self.levels.values())
            if only and self.places <= _EXACT_POWER and np.abs(tens).max(initial=0.0) < _EXACT:
                return np.asarray(tens / 10.0**self.places, dtype=np.float64)  # both exact: the division rounds once
            return np.array([float(one) for one in self.fractions()], dtype=np.float64)
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
        sums = [Fraction(whole, unit) for whole in wholes]
        if self.decimals is None:
            return sums
        scale = 10**self.places
        return [one + part / scale for one, part in zip(sums, self.decimals.fractions(), strict=True)]

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

    def grow(self, count: int) -> None:
        """Makes room for cells that have come, with sums of 0."""
        missing = count - self.count
        if missing > 0:
            self.count = count
            for level, multiples in self.levels.items():
                self.levels[level] = np.concatenate([multiples, np.zeros(missing, dtype=np.int64)])
        if self.decimals is not None:
            self.decimals.grow(count)


@dataclass(frozen=True, slots=True)
class Whole:
    """Whole numbers of a power of ten, kept as doubles that hold them exactly.

    Attributes:
        parts: Arrays of shape (rows,) with a power of two each: the number is the sum of part · 2^power. The third is
            the largest size of the part.
        digits: How many decimals the numbers have here: they stand for whole numbers of 10^-`digits`.
        places: How many decimals they have wherever they are summed up.
    """

    parts: tuple[tuple[int, Floats, float], ...]
    digits: int
    places: int

    def times(self, other: "Whole") -> "Whole":
        """The products, row by row, exactly."""
        parts = [
            (first + second + shift, piece, most)
            for first, one, most_one in self.parts
            for second, two, most_two in other.parts
            for shift, piece, most in _multiplied(one, most_one, two, most_two)
        ]
        return Whole(tuple(parts), self.digits + other.digits, self.places + other.places)

    def sums(self, cells: Integers, count: int) -> Iterator[tuple[int, Floats]]:
        """The sums per cell, shape (count,), each with its power of two.

        Exact for up to `CHUNK` rows: halves of parts below 2⁵³ are below 2²⁷, and so many of them stay below 2⁵³.
        """
        for shift, part, most in self.parts:
            if most * len(part) < _EXACT:
                yield shift, _summed(cells, part, count)
                continue
            high, low = _halves(part)
            yield shift + _HALF, _summed(cells, high, count)
            yield shift, _summed(cells, low, count)


@dataclass(frozen=True, slots=True)
class Factor:
    """A column of numbers, ready to be multiplied and summed up.

    Attributes:
        numbers: The numbers, shape (rows,), finite.
        whole: The same as whole numbers of a power of ten; None where they are not decimal.
    """

    numbers: Floats
    whole: Whole | None


def factored(columns: Sequence[Floats]) -> list[tuple[Integers | None, list[Factor]]]:
    """Columns as factors: rows in which all are decimal apart from the others, whichever rows come together.

    Args:
        columns: Numbers, shape (rows,) each, finite.

    Returns:
        For each kind of rows that occurs which they are, None for all, and the columns there.
    """
    factors = [_factor(column) for column in columns]
    if all(factor.whole is not None for factor in factors):
        return [(None, factors)]
    decimal = np.logical_and.reduce([_is_decimal(column) for column in columns])
    found: list[tuple[Integers | None, list[Factor]]] = []
    if decimal.any():
        rows = np.flatnonzero(decimal)
        found.append((rows, [_factor(column[rows]) for column in columns]))
    rows = np.flatnonzero(~decimal)
    return [*found, (rows, [Factor(column[rows], None) for column in columns])]


def whole_factor(numbers: Integers) -> Factor:
    """Whole numbers as a factor."""
    plain = numbers.astype(np.float64)
    return Factor(plain, Whole(((0, plain, float(np.abs(plain).max(initial=0.0))),), 0, 0))


def _factor(numbers: Floats) -> Factor:
    most = max(float(numbers.max(initial=0.0)), -float(numbers.min(initial=0.0)))
    if most > _LARGEST:
        return Factor(numbers, None)
    first = _digits(numbers[:_FIRST], 0)
    digits = None if first is None else _digits(numbers, first)
    if digits is None:
        return Factor(numbers, None)
    whole = np.rint(numbers * 10.0**digits)
    return Factor(numbers, Whole(((0, whole, round(most * 10.0**digits) + 1.0),), digits, _PLACES))


def _digits(numbers: Floats, least: int) -> int | None:
    """How many decimals some numbers have, from `least` on; None where they have more than are looked for."""
    for digits in range(least, _PLACES + 1):
        scale = 10.0**digits
        if (np.rint(numbers * scale) / scale == numbers).all():
            return digits
    return None


def _is_decimal(numbers: Floats) -> npt.NDArray[np.bool_]:
    """Which numbers have at most four decimals, shape (rows,)."""
    scale = 10.0**_PLACES
    small = np.abs(numbers) <= _LARGEST
    return np.asarray(small & (np.rint(np.where(small, numbers, 0.0) * scale) / scale == numbers), dtype=bool)


def _multiplied(one: Floats, most_one: float, two: Floats, most_two: float) -> list[tuple[int, Floats, float]]:
    """The products of whole numbers, in parts small enough to be exact."""
    most = most_one * most_two
    if most < _EXACT:
        return [(0, one * two, most)]
    if most_one < most_two:
        one, most_one, two, most_two = two, most_two, one, most_one
    high, low = _halves(one)
    parts = []
    for shift, part, size in ((_HALF, high, most_one / 2**_HALF + 1), (0, low, 2.0**_HALF)):
        parts += [(shift + more, piece, reach) for more, piece, reach in _multiplied(part, size, two, most_two)]
    return parts


def _summed(cells: Integers, numbers: Floats, count: int) -> Floats:
    return np.asarray(np.bincount(cells, numbers, count), dtype=np.float64)


def _halves(numbers: Floats) -> tuple[Floats, Floats]:
    """Whole numbers as multiples of 2^26 and what is left of each, from 0."""
    high = np.floor(numbers * 2.0**-_HALF)
    return high, numbers - high * 2.0**_HALF


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


def _high(numbers: Floats) -> Floats:
    """The upper half of each mantissa (Veltkamp 1968)."""
    scaled = numbers * 134217729.0
    return np.asarray(scaled - (scaled - numbers))
