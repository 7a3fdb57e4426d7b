"""A table of all values in all cells: where these are few, counting is one step for each record."""

from typing import Self

import numpy as np
from msgspec import Struct

from grainstack.compiled import compiled
from grainstack.summary.sums import factors
from grainstack.summary.sums.cell_index import Cells
from grainstack.summary.sums.exact import ExactSums, Floats, Integers
from grainstack.summary.sums.factors import Column, chunks

kernel = compiled("grainstack.summary.sums.kernel")
_MOST = 1 << 22  # places, of eight bytes
_MOST_WEIGHTED = 1 << 19  # places that also keep some sums of weights each


class ValueTable(Struct):
    """How often each value occurs in each cell, and its weight.

    Attributes:
        least: The lowest value, in ten-thousandths.
        unit: What all values are multiples of.
        reach: How many values there is room for in each cell.
        cells: How many cells there is room for.
        records: How many records each place has, shape (cells · reach,).
        weight_sums: Σw of each place; None without weights. Likewise `square_sums`.
    """

    least: int
    unit: int
    reach: int
    cells: int
    records: Integers
    weight_sums: ExactSums | None = None
    square_sums: ExactSums | None = None

    @classmethod
    def with_room(cls, cells: Cells, values: Column, old: "Self | None", *, weighted: bool) -> "Self | None":
        """An empty table that has room for some records, and for what an older one had room for.

        Returns:
            The table; None where it would be too large, or the values are not decimal.
        """
        if values.scaled.others or not len(cells):
            return None
        least, most, unit = kernel.span(values.scaled.whole)
        if least > most:
            return None
        count = int(cells.max()) + 1
        if old is not None:
            unit, least = min(unit, old.unit), min(least, old.least)
            most, count = max(most, old.least + (old.reach - 1) * old.unit), max(count, old.cells)
        reach = (most - least) // unit + 1
        if reach * count > (_MOST_WEIGHTED if weighted else _MOST):
            return None
        return cls(least, unit, reach, count, np.zeros(reach * count, dtype=np.int64))

    @property
    def count(self) -> int:
        """How many places have a record."""
        return int(np.count_nonzero(self.records))

    def absorb(self, cells: Cells, values: Column, weights: Column | None) -> bool:
        """Adds records; tells whether there was room for all of them, otherwise nothing was added."""
        if values.scaled.others:
            return False
        least, most, unit = kernel.span(values.scaled.whole)
        if least <= most and (
            least < self.least
            or most > self.least + (self.reach - 1) * self.unit
            or unit % self.unit
            or (least - self.least) % self.unit
            or int(cells.max(initial=-1)) >= self.cells
        ):
            return False
        places = np.empty(len(cells), dtype=np.int64)
        kernel.value_places(cells, values.scaled.whole, self.least, self.unit, self.reach, places)
        kernel.count_places(places, self.records)
        if weights is not None:
            self.weight_sums, self.square_sums = self.weight_sums or ExactSums(), self.square_sums or ExactSums()
            add_weights(self.weight_sums, self.square_sums, places, [weights], len(self.records))
        return True

    def pairs(self) -> tuple[Integers, Floats, Integers, ExactSums | None, ExactSums | None]:
        """What it holds, as cells, values, how many records each pair has, and the sums of their weights."""
        held = np.flatnonzero(self.records)
        weights, squares = (None if one is None else one.at(held) for one in (self.weight_sums, self.square_sums))
        values = (self.least + held % self.reach * self.unit) / 1e4
        return held // self.reach, values, self.records[held], weights, squares


def add_weights(weights: ExactSums, squares: ExactSums, places: Integers, columns: list[Column], count: int) -> None:
    """Adds weights, and their squares.

    Args:
        weights: Sums of weights.
        squares: Sums of their squares.
        places: Where each row goes, shape (rows,); negative ones are passed over.
        columns: The weights and, where there are such, how many records each row stands for.
        count: How many places there are by now.
    """
    for part, chunk in chunks(places, columns):
        for rows, found in factors.way.factored(chunk):
            own = part if rows is None else part[rows]
            factors.way.add_products(own, [(found, [weights]), ([found[0], *found], [squares])], count)
