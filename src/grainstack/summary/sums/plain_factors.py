"""Products of columns, summed up exactly with numpy alone; see `factors`."""

import functools
from collections.abc import Iterator, Sequence

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from grainstack.summary.sums.exact import ExactSums, Floats, Integers
from grainstack.summary.sums.number_column import NumberColumn, Product

tables_of_values = False
CHUNK = 1 << 16  # few enough to stay in the processor's cache through all the steps
PLACES = 4  # decimals of money, minutes, and weights as they are delivered
LARGEST = 1e10  # with four decimals still far within the whole numbers a double holds
_EXACT = 2.0**53  # whole numbers below it are exact as doubles
_FIRST = 200  # numbers that most likely have as many decimals as all of them
_HALF = 26  # bits of half such a number


class Whole(Struct, frozen=True):
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


class Factor(Struct, frozen=True):
    """A column of numbers, ready to be multiplied and summed up.

    Attributes:
        numbers: The numbers, shape (rows,), finite.
        whole: The same as whole numbers of a power of ten; None where they are not decimal.
    """

    numbers: Floats
    whole: Whole | None


def count(cells: Integers, counts: Integers) -> None:
    """Counts how often each cell occurs; see `factors.Way.count`."""
    counts += np.bincount(cells, minlength=len(counts)).astype(np.int64)


def add_products(cells: Integers, products: Sequence[Product], count: int) -> None:
    """Adds the products of some columns, row by row; see `factors.Way.add_products`."""
    for factors, every in products:
        first, *others = every
        added = first if not others else ExactSums()
        _add(added, cells, factors, count)
        for sums in every if others else ():
            sums.merge(added, np.arange(count), count)


def _add(sums: ExactSums, cells: Integers, factors: Sequence[Factor], count: int) -> None:
    if all(factor.whole is not None for factor in factors):
        one = Whole(((0, np.ones(len(cells)), 1.0),), 0, 0)
        wholes = [factor.whole for factor in factors if factor.whole is not None]
        whole = functools.reduce(Whole.times, wholes) if wholes else one
        tens, every = sums.tens(whole.places), np.arange(count)
        scale = 10.0 ** (whole.places - whole.digits)
        for shift, summed in whole.sums(cells, count):
            for exact in product(summed, np.full(count, scale)) if scale > 1 else (summed,):
                tens.add(every, exact * 2.0**shift, count)
    else:
        parts: tuple[Floats, ...] = (factors[0].numbers,)
        for factor in factors[1:]:
            parts = tuple(piece for part in parts for piece in product(part, factor.numbers))
        for part in parts:
            sums.add(cells, part, count)
    sums.grow(count)


def scaled(numbers: Floats) -> Factor:
    """Numbers as whole numbers of a power of ten, as far as all are decimal."""
    return factor_of(numbers)


def has_gaps(column: NumberColumn) -> bool:
    """Whether a number is missing."""
    return bool(np.isnan(column.numbers).any())


def factored(columns: Sequence[NumberColumn]) -> list[tuple[Integers | None, list[Factor]]]:
    """Columns as factors, decimal rows apart from others; see `factors.factored`."""
    if all(column.scaled.whole is not None for column in columns):
        return [(None, [column.scaled for column in columns])]
    decimal = np.logical_and.reduce([_is_decimal(column.numbers) for column in columns])
    found: list[tuple[Integers | None, list[Factor]]] = []
    if decimal.any():
        rows = np.flatnonzero(decimal)
        found.append((rows, [factor_of(column.numbers[rows]) for column in columns]))
    rows = np.flatnonzero(~decimal)
    return [*found, (rows, [Factor(column.numbers[rows], None) for column in columns])]


def factor_of(numbers: Floats) -> Factor:
    """A column as a factor, decimal if all of it is."""
    most = max(float(numbers.max(initial=0.0)), -float(numbers.min(initial=0.0)))
    if most > LARGEST:
        return Factor(numbers, None)
    first = _digits(numbers[:_FIRST], 0)
    digits = None if first is None else _digits(numbers, first)
    if digits is None:
        return Factor(numbers, None)
    whole = np.rint(numbers * 10.0**digits)
    return Factor(numbers, Whole(((0, whole, round(most * 10.0**digits) + 1.0),), digits, PLACES))


def _digits(numbers: Floats, least: int) -> int | None:
    """How many decimals some numbers have, from `least` on; None where they have more than are looked for."""
    for digits in range(least, PLACES + 1):
        scale = 10.0**digits
        if (np.rint(numbers * scale) / scale == numbers).all():
            return digits
    return None


def _is_decimal(numbers: Floats) -> npt.NDArray[np.bool_]:
    """Which numbers have at most four decimals, shape (rows,)."""
    scale = 10.0**PLACES
    small = np.abs(numbers) <= LARGEST
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
