"""Which values occur how often in each cell: exact, mergeable, and as small as the number of different values."""

from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from grainstack.summary.cells import Cells
from grainstack.summary.moments import Floats, Integers

_WHOLE_TABLE = 1 << 22


def _no_floats() -> Floats:
    return np.zeros(0)


def _no_integers() -> Integers:
    return np.zeros(0, dtype=np.int64)


@dataclass(slots=True)
class Values:
    """Different values of a measure per cell, with their records and weight.

    All arrays have one entry per (cell, value) that occurs, sorted by cell, then value, shape (pairs,).

    Attributes:
        cells: The cell.
        values: The value.
        records: How many records hold it, never weighted.
        weights: Their weight.
        most: Beyond this many pairs everything is dropped: for uses that can do without.
        complete: Whether nothing was dropped.
    """

    cells: Integers = field(default_factory=_no_integers)
    values: Floats = field(default_factory=_no_floats)
    records: Integers = field(default_factory=_no_integers)
    weights: Floats = field(default_factory=_no_floats)
    most: int | None = None
    complete: bool = True

    def absorb(self, cells: Cells, values: Floats, weights: Floats | None, times: Integers | None = None) -> None:
        """Adds records; negative cells and NaN are passed over."""
        if not self.complete:
            return
        keep = (cells >= 0) & ~np.isnan(values)
        cells, values = cells[keep], values[keep]
        records = np.ones(len(cells), dtype=np.int64) if times is None else times[keep]
        weight = records.astype(float) if weights is None else weights[keep] * records
        self._add(cells, values, records, weight)

    def merge(self, other: "Values", places: Integers) -> None:
        """Adds another set; `places` says where each of its cells stands here."""
        if not other.complete:
            self._drop()
        if self.complete:
            self._add(places[other.cells], other.values, other.records, other.weights)

    def regrouped(self, groups: Integers) -> "Values":
        """The values of groups of cells; cells with a negative group are left out."""
        result = Values(most=None, complete=self.complete)
        keep = groups[self.cells] >= 0
        result._add(groups[self.cells[keep]], self.values[keep], self.records[keep], self.weights[keep])
        return result

    def of_cell(self, cell: int) -> tuple[Floats, Integers, Floats]:
        """The different values of one cell, rising, with their records and weights."""
        part = slice(*np.searchsorted(self.cells, [cell, cell + 1]))
        return self.values[part], self.records[part], self.weights[part]

    def by_cell(self, count: int) -> Iterator[tuple[Floats, Integers, Floats]]:
        """The same for cells 0 to `count` − 1 in turn."""
        for cell in range(count):
            yield self.of_cell(cell)

    def _add(self, cells: Integers, values: Floats, records: Integers, weights: Floats) -> None:
        cells, values = np.concatenate([self.cells, cells]), np.concatenate([self.values, values])
        records, weights = np.concatenate([self.records, records]), np.concatenate([self.weights, weights])
        different, back = np.unique(values + 0.0, return_inverse=True)
        count = len(different)
        if self.most is not None and count > self.most:
            self._drop()
            return
        key = cells * count + back
        size = (int(cells.max(initial=-1)) + 1) * count
        if size <= _WHOLE_TABLE:
            summed = np.bincount(key, records, size)
            kept = np.flatnonzero(summed)
            self.records = summed[kept].astype(np.int64)
            self.weights = np.asarray(np.bincount(key, weights, size)[kept], dtype=np.float64)
        else:
            kept, back = np.unique(key, return_inverse=True)
            self.records = np.bincount(back, records).astype(np.int64)
            self.weights = np.asarray(np.bincount(back, weights), dtype=np.float64)
        self.cells, self.values = kept // max(count, 1), different[kept % max(count, 1)]
        if self.most is not None and len(kept) > self.most:
            self._drop()

    def _drop(self) -> None:
        self.complete = False
        self.cells, self.values = _no_integers(), _no_floats()
        self.records, self.weights = _no_integers(), _no_floats()
