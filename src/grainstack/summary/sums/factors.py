"""Columns that are multiplied row by row and summed up exactly, per cell.

Most columns hold decimal numbers: money, minutes, weights of a few decimals. A number that is the nearest double to one
with at most four decimals is taken for that decimal number, and so are products of such numbers: they are summed up as
whole numbers of a power of ten, which is exact and takes one pass. Products of other numbers are cut into parts that
are exact (Dekker 1971).

There are two ways to the same sums: compiled (`compiled_factors`), and with numpy alone (`plain_factors`) where nothing
was compiled.
"""

from collections.abc import Callable, Iterator, Sequence
from typing import Any, Protocol, Self, TypeVar

import numpy as np
from msgspec import Struct

from grainstack.compiled import compiled
from grainstack.summary.sums import compiled_factors, plain_factors
from grainstack.summary.sums.exact import ExactSums, Floats, Integers
from grainstack.summary.sums.number_column import Factor, NumberColumn, Product

Cached = TypeVar("Cached")
_Made = dict[tuple[int, ...], tuple[Sequence[Any], Cached]]  # by the number of cells, and the objects it was made of


class Column(NumberColumn):
    """Numbers of some rows, in the way chosen.

    Args:
        numbers: Shape (rows,); NaN where there is none.
    """

    __slots__ = ("_scaled",)

    def __init__(self, numbers: Floats) -> None:
        super().__init__(numbers)
        self._scaled: Any = None

    @property
    def scaled(self) -> Any:  # noqa: ANN401 - as the way chosen keeps it
        """The numbers as whole numbers of a power of ten, as the way chosen keeps them."""
        if self._scaled is None:
            self._scaled = way.scaled(self.numbers)
        return self._scaled

    @property
    def has_gaps(self) -> bool:
        """Whether a number is missing."""
        return way.has_gaps(self)


def chunks(
    cells: Integers, columns: Sequence[Column], *, all_inside: bool = False
) -> Iterator[tuple[Integers, list[Column]]]:
    """Rows that are in a cell and have all numbers, as many at once as the way chosen can take.

    Args:
        cells: The cell of each row, shape (rows,); a negative one is none.
        columns: Their numbers, shape (rows,) each.
        all_inside: Whether it is known that every row is in a cell.
    """
    for start in range(0, len(cells), way.CHUNK):
        part, parts = cells, list(columns)
        if len(cells) > way.CHUNK:
            chunk = slice(start, start + way.CHUNK)
            part, parts = cells[chunk], [column.at(chunk) for column in columns]
        gaps = [column.numbers for column in parts if column.has_gaps]
        if gaps or not (all_inside or part.min() >= 0):
            keep = np.logical_and.reduce([part >= 0, *(~np.isnan(numbers) for numbers in gaps)])
            part, parts = part[keep], [column.at(keep) for column in parts]
        yield part, parts


class Shared:
    """What several sums of the same rows have in common, worked out once: rows chosen, factors, products summed up.

    Answers in cells are counted, summed up and squared for means, for their limits, and for what they are shares of;
    most of these are the same products of the same columns, and all products of the same rows are summed up in one
    pass. So they are asked for first and added at the end of a `with` block, before which no sum may be read. One of
    these belongs to one batch: it tells columns and cells apart by what they are, not by what they hold.
    """

    def __init__(self) -> None:
        self._chosen: _Made[list[tuple[Integers, list[Column]]]] = {}
        self._factored: _Made[list[tuple[Integers | None, list[Factor]]]] = {}
        self._records: _Made[Integers] = {}
        self._inside: _Made[bool] = {}
        self._computed: dict[tuple[int, int], tuple[Integers, int, dict[tuple[int, ...], Product]]] = {}

    def __enter__(self) -> Self:
        return self

    def __exit__(self, kind: type[BaseException] | None, *_: object) -> None:
        if kind is None:
            for cells, count, products in self._computed.values():
                way.add_products(cells, list(products.values()), count)
            self._computed.clear()

    def chunks(self, cells: Integers, columns: Sequence[Column]) -> list[tuple[Integers, list[Column]]]:
        """Rows that are in a cell and have all numbers; see `chunks`."""
        inside = self._is_inside(cells)
        return _once(self._chosen, (cells, *columns), lambda: list(chunks(cells, columns, all_inside=inside)))

    def stand_alike(self, pairs: Integers, cells: Integers) -> None:
        """Takes note that a row has a pair where it has a cell, so that nobody has to look."""
        _once(self._inside, (pairs,), lambda: self._is_inside(cells))

    def _is_inside(self, cells: Integers) -> bool:
        return _once(self._inside, (cells,), lambda: bool(cells.min(initial=0) >= 0))

    def factored(self, columns: Sequence[Column]) -> list[tuple[Integers | None, list[Factor]]]:
        """Columns as factors; see `Way.factored`."""
        return _once(self._factored, tuple(columns), lambda: way.factored(columns))

    def records(self, cells: Integers, times: Column | None, count: int) -> Integers:
        """How many records each cell has, shape (cells,).

        Args:
            cells: The cell of each row, shape (rows,), from 0.
            times: How many records each row stands for; without them 1.
            count: How many cells there are by now.
        """

        def counted() -> Integers:
            if times is not None:
                return np.bincount(cells, times.numbers, count).astype(np.int64)
            counts = np.zeros(count, dtype=np.int64)
            way.count(cells, counts)
            return counts

        return _once(self._records, (cells, times), counted, count)

    def ask(self, sums: ExactSums, cells: Integers, factors: Sequence[Factor], count: int) -> None:
        """Asks for the products of some columns, row by row, to be added at the end.

        Args:
            sums: What they are added to.
            cells: The cell of each row, shape (rows,), from 0; at most `CHUNK` of them.
            factors: The columns, shape (rows,) each, at most six; without any, each row counts 1. They are multiplied
                in the order of the first who asks: where parts of a product are too small for a double, it matters.
            count: How many cells there are by now.
        """
        *_, products = self._computed.setdefault((id(cells), count), (cells, count, {}))
        products.setdefault(tuple(sorted(map(id, factors))), (list(factors), []))[1].append(sums)


class Amounts(Struct, frozen=True):
    """How much each row counts.

    Attributes:
        shared: What other sums of the same rows have worked out.
        weights: Its weight, shape (rows,); without them every row weighs 1.
        times: How many records it stands for, shape (rows,); without them 1.
    """

    shared: Shared
    weights: Column | None = None
    times: Column | None = None

    @property
    def given(self) -> list[Column]:
        """The columns that there are."""
        return [column for column in (self.weights, self.times) if column is not None]


def _once(made: _Made[Cached], of: Sequence[Any], make: Callable[[], Cached], count: int = 0) -> Cached:
    """What was made of some objects, made the first time; they are kept, so that none gets the number of another."""
    key = (count, *map(id, of))
    if key not in made:
        made[key] = (of, make())
    return made[key][1]


class Way(Protocol):
    """How products are summed up."""

    CHUNK: int  # rows that may be summed up at once
    tables_of_values: bool  # whether a `ValueTable` can be kept

    def scaled(self, numbers: Floats) -> Any:  # noqa: ANN401 - as it likes
        """Numbers as whole numbers of a power of ten."""

    def has_gaps(self, column: Column) -> bool:
        """Whether a number is missing."""

    def factored(self, columns: Sequence[Column]) -> list[tuple[Integers | None, list[Factor]]]:
        """Columns as factors: rows in which all are decimal apart from the others, whichever rows come together.

        Args:
            columns: Their numbers, shape (rows,) each, none missing.

        Returns:
            For each kind of rows that occurs which they are, None for all, and the columns there.
        """

    def count(self, cells: Integers, counts: Integers) -> None:
        """Counts how often each cell occurs; added to `counts`, shape (cells,). Cells are from 0."""

    def add_products(self, cells: Integers, products: Sequence[Product], count: int) -> None:
        """Adds the products of some columns, row by row.

        Args:
            cells: The cell of each row, shape (rows,), from 0; at most `CHUNK` of them.
            products: Columns, shape (rows,) each, at most six, all of them decimal or none; and what their product is
                added to.
            count: How many cells there are by now.
        """


def _fastest() -> Way:
    if compiled("grainstack.summary.sums.kernel") is not None:
        return compiled_factors

    return plain_factors


way = _fastest()
