"""Products of columns, summed up exactly in one compiled pass each; see `factors`."""

import math
from collections.abc import Sequence

import numpy as np

from grainstack.quick import dataclass
from grainstack.summary.sums import kernel, plain_factors
from grainstack.summary.sums.exact import BITS, ExactSums, Floats, Integers
from grainstack.summary.sums.factors import Column
from grainstack.summary.sums.plain_factors import PLACES

tables_of_values = True
CHUNK = 1 << 18  # beyond it, the sums of products of many parts might not fit a level
_FULL = 2.0**60  # sums of multiples of a level have room below it
_LEVEL = 2.0**BITS
_WIDE = 2.0**120  # products below it fit the kernel's whole numbers of 128 bits
_FAR = 900  # exponents of two beyond which a double has no room for its smaller parts
_MANTISSA = 52  # bits of a double behind its first


@dataclass(frozen=True, slots=True)
class Factor:
    """A column of numbers, ready to be multiplied and summed up.

    Attributes:
        numbers: The numbers, shape (rows,), finite.
        whole: The same as whole numbers of 10^-`places`, shape (rows,); None where they are not decimal.
        most: The largest size among these.
        places: How many decimals they have.
    """

    numbers: Floats
    whole: Integers | None = None
    most: float = 0.0
    places: int = PLACES


@dataclass(frozen=True, slots=True)
class Scaled:
    """Numbers as whole ten-thousandths.

    Attributes:
        whole: The whole numbers, shape (rows,).
        most: The largest size among them.
        others: How many numbers have more decimals or are too large.
        missing: How many are missing.
    """

    whole: Integers
    most: float
    others: int
    missing: int


def scaled(numbers: Floats) -> Scaled:
    """Numbers as whole ten-thousandths."""
    return Scaled(*kernel.scaled(np.ascontiguousarray(numbers)))


def has_gaps(column: Column) -> bool:
    """Whether a number is missing."""
    return bool(column.scaled.missing)


def factored(columns: Sequence[Column]) -> list[tuple[Integers | None, list[Factor]]]:
    """Columns as factors, decimal rows apart from others; see `factors.factored`."""
    if not any(column.scaled.others for column in columns):
        return [(None, [_factor(column) for column in columns])]
    decimal = np.logical_and.reduce([column.scaled.whole != kernel.OTHER for column in columns])
    parts: list[tuple[Integers | None, list[Factor]]] = []
    if decimal.any():
        rows = np.flatnonzero(decimal)
        parts.append((rows, [_factor(column.at(rows)) for column in columns]))
    rows = np.flatnonzero(~decimal)
    return [*parts, (rows, [Factor(column.numbers[rows]) for column in columns])]


def whole_factor(numbers: Integers) -> Factor:
    """Whole numbers as a factor."""
    return Factor(numbers.astype(np.float64), numbers, float(np.abs(numbers).max(initial=0)), 0)


def add_products(sums: ExactSums, cells: Integers, factors: Sequence[Factor], count: int) -> None:
    """Adds the products of some columns, row by row; see `factors.add_products`."""
    sums.grow(count)
    columns = [factor.whole for factor in factors if factor.whole is not None]
    if len(columns) < len(factors):
        added = _add_numbers(sums, cells, [factor.numbers for factor in factors], count)
    else:
        most = math.prod(factor.most for factor in factors)
        added = most < _WIDE
        if added:
            sum_ = most * len(cells)
            depth = 1 if sum_ < _FULL else 2 if sum_ / _LEVEL < _FULL else 4
            reach = sum_ if depth == 1 else len(cells) * _LEVEL + (sum_ / _LEVEL if depth == 2 else 0.0)
            tens = sums.tens(sum(factor.places for factor in factors))
            kernel.add_wholes(cells, columns, tens.room(count, range(depth), reach), most < _FULL)
    if not added:
        for start in range(0, len(cells), plain_factors.CHUNK):
            part = slice(start, start + plain_factors.CHUNK)
            plain_factors.add_products(sums, cells[part], [_plain(factor, part) for factor in factors], count)


def _add_numbers(sums: ExactSums, cells: Integers, columns: Sequence[Floats], count: int) -> bool:
    """Adds products of numbers that are not decimal; tells whether that could be done."""
    spans = [kernel.exponents(column) for column in columns]
    if any(least > most for least, most in spans):
        return True  # all products are 0
    lowest = sum(least - _MANTISSA for least, _ in spans)
    highest = sum(most + 1 for _, most in spans)
    if lowest < -_FAR or highest > _FAR:
        return False
    levels = range(lowest // BITS, highest // BITS + 1)
    reach = float(len(cells) << (BITS + len(columns) - 1))
    kernel.add_numbers(cells, columns, sums.room(count, levels, reach), levels.start)
    return True


def _factor(column: Column) -> Factor:
    return Factor(column.numbers, column.scaled.whole, column.scaled.most)


def _plain(factor: Factor, part: slice) -> plain_factors.Factor:
    if factor.places == 0 and factor.whole is not None:
        return plain_factors.whole_factor(factor.whole[part])
    numbers = factor.numbers[part]
    return plain_factors.Factor(numbers, None) if factor.whole is None else plain_factors.factor_of(numbers)
