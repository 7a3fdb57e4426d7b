"""Products of columns, summed up exactly in one compiled pass each; see `factors`."""

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct

from grainstack.compiled import compiled
from grainstack.summary.sums import plain_factors
from grainstack.summary.sums.exact import BITS, ExactSums, Floats, Integers
from grainstack.summary.sums.number_column import NumberColumn, Product
from grainstack.summary.sums.plain_factors import PLACES

if TYPE_CHECKING:
    from grainstack.summary.sums import kernel
else:
    kernel = compiled("grainstack.summary.sums.kernel")  # None where it was not built: then nothing here is called

tables_of_values = True
CHUNK = 1 << 18  # beyond it, the sums of products of many parts might not fit a level
_FULL = 2.0**60  # sums of multiples of a level have room below it
_LEVEL = 2.0**BITS
_WIDE = 2.0**120  # products below it fit the kernel's whole numbers of 128 bits
_FAR = 900  # exponents of two beyond which a double has no room for its smaller parts
_MANTISSA = 52  # bits of a double behind its first


class Factor(Struct, frozen=True):
    """A column of numbers, ready to be multiplied and summed up.

    Attributes:
        numbers: The numbers, shape (rows,).
        whole: The same as whole ten-thousandths, shape (rows,); None where they are not decimal.
        most: The largest size among these.
        others: How many numbers have more decimals or are too large.
        missing: How many are missing.
    """

    numbers: Floats
    whole: Integers | None = None
    most: float = 0.0
    others: int = 0
    missing: int = 0


def scaled(numbers: Floats) -> Factor:
    """Numbers as whole ten-thousandths."""
    return Factor(numbers, *kernel.scaled(np.ascontiguousarray(numbers)))


def has_gaps(column: NumberColumn) -> bool:
    """Whether a number is missing."""
    return bool(column.scaled.missing)


def factored(columns: Sequence[NumberColumn]) -> list[tuple[Integers | None, list[Factor]]]:
    """Columns as factors, decimal rows apart from others; see `factors.factored`."""
    if not any(column.scaled.others for column in columns):
        return [(None, [column.scaled for column in columns])]
    decimal = np.logical_and.reduce([column.scaled.whole != kernel.OTHER for column in columns])
    parts: list[tuple[Integers | None, list[Factor]]] = []
    if decimal.any():
        rows = np.flatnonzero(decimal)
        parts.append((rows, [column.at(rows).scaled for column in columns]))
    rows = np.flatnonzero(~decimal)
    return [*parts, (rows, [Factor(column.numbers[rows]) for column in columns])]


def count(cells: Integers, counts: Integers) -> None:
    """Counts how often each cell occurs; see `factors.Way.count`."""
    kernel.count_places(cells, counts)


def add_products(cells: Integers, products: Sequence[Product], count: int) -> None:
    """Adds the products of some columns, row by row; see `factors.Way.add_products`."""
    steps = _Steps(cells, count)
    for factors, every in products:
        whole = not any(factor.whole is None for factor in factors)
        for sums in every:
            sums.grow(count)
        if not whole or not steps.take(factors, every):
            for sums in every:
                _add_alone(cells, factors, sums, count, whole=whole)
    steps.add()


class _Steps:
    """Products of whole numbers to be summed up in one pass, each made of one before it."""

    def __init__(self, cells: Integers, count: int) -> None:
        self._cells, self._count = cells, count
        self._columns: list[Integers] = []
        self._column_of: dict[int, int] = {}
        self._steps: list[tuple[int, int, bool]] = []
        self._step_of: dict[tuple[int, ...], int] = {}
        self._targets: list[tuple[int, list[Integers]]] = []
        self._added: list[tuple[list[list[Integers]], list[Integers]]] = []

    def take(self, factors: Sequence[Factor], every: Sequence[ExactSums]) -> bool:
        """Takes a product and what it is to be added to; tells whether it fits the kernel's numbers."""
        rows, most = len(self._cells), math.prod(max(factor.most, 1.0) for factor in factors)
        if most >= _WIDE:
            return False
        sum_ = most * rows
        depth = 1 if sum_ < _FULL else 2 if sum_ / _LEVEL < _FULL else 4
        reach = sum_ if depth == 1 else rows * _LEVEL + (sum_ / _LEVEL if depth == 2 else 0.0)
        step = self._made_of(tuple(sorted(factors, key=id)))
        tens = [sums.tens(PLACES * len(factors)) for sums in every]
        wanted = [sums.room(self._count, range(depth), reach) for sums in tens]
        if len(wanted) > 1 and self._count <= rows:  # summed up apart once, and added to each
            added = [np.zeros(self._count, dtype=np.int64) for _ in range(depth)]
            self._added.append((wanted, added))
            wanted = [added]
        self._targets += [(step, levels) for levels in wanted]
        return True

    def add(self) -> None:
        """Adds all that was taken."""
        if self._targets:
            kernel.add_wholes(self._cells, self._columns, self._steps, self._targets)
        for every, added in self._added:
            for levels in every:
                for kept, more in zip(levels, added, strict=True):
                    np.add(kept, more, out=kept)

    def _made_of(self, factors: tuple[Factor, ...]) -> int:
        """The step that makes a product, with those before it where they are new."""
        key = tuple(map(id, factors))
        if key not in self._step_of:
            before = self._made_of(factors[:-1]) if len(factors) > 1 else -1
            wide = math.prod(max(factor.most, 1.0) for factor in factors) >= _FULL
            self._steps.append((before, self._place(factors[-1]) if factors else -1, wide))
            self._step_of[key] = len(self._steps) - 1
        return self._step_of[key]

    def _place(self, factor: Factor) -> int:
        if id(factor) not in self._column_of:
            self._column_of[id(factor)] = len(self._columns)
            self._columns.append(np.asarray(factor.whole))
        return self._column_of[id(factor)]


def _add_alone(cells: Integers, factors: Sequence[Factor], sums: ExactSums, count: int, *, whole: bool) -> None:
    """Adds products that do not fit whole numbers."""
    if not whole and _add_numbers(sums, cells, [factor.numbers for factor in factors], count):
        return
    for start in range(0, len(cells), plain_factors.CHUNK):
        part = slice(start, start + plain_factors.CHUNK)
        plain = [_plain(factor, part) for factor in factors]
        plain_factors.add_products(cells[part], [(plain, [sums])], count)


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


def _plain(factor: Factor, part: slice) -> plain_factors.Factor:
    numbers = factor.numbers[part]
    return plain_factors.Factor(numbers, None) if factor.whole is None else plain_factors.factor_of(numbers)
