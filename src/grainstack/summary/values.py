"""Which values occur how often in each cell: exact, mergeable, and as small as the number of different values."""

from dataclasses import dataclass, field

import numpy as np

from grainstack.summary.cells import Cells
from grainstack.summary.exact import Floats, Integers

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
        weights: Σw.
        squares: Σw².
        most: Beyond this many pairs everything is dropped: for uses that can do without.
        complete: Whether nothing was dropped.
    """

    cells: Integers = field(default_factory=_no_integers)
    values: Floats = field(default_factory=_no_floats)
    records: Integers = field(default_factory=_no_integers)
    weights: Floats = field(default_factory=_no_floats)
    squares: Floats = field(default_factory=_no_floats)
    most: int | None = None
    complete: bool = True

    def absorb(self, cells: Cells, values: Floats, weights: Floats | None, times: Integers | None = None) -> None:
        """Adds records; negative cells and NaN are passed over."""
        if not self.complete:
            return
        keep = (cells >= 0) & ~np.isnan(values)
        cells, values = cells[keep], values[keep]
        records = np.ones(len(cells), dtype=np.int64) if times is None else times[keep]
        if weights is None:
            self._add(cells, values, records, records.astype(float), records.astype(float))
        else:
            weight = weights[keep]
            self._add(cells, values, records, weight * records, weight * weight * records)

    def merge(self, other: "Values", places: Integers) -> None:
        """Adds another set; `places` says where each of its cells stands here."""
        if not other.complete:
            self._drop()
        if self.complete:
            self._add(places[other.cells], other.values, other.records, other.weights, other.squares)

    def regrouped(self, inside: Integers, places: Integers) -> "Values":
        """The values of groups of cells: the cells `inside` go to these `places`, shape (inside,) both."""
        order = np.argsort(inside, kind="stable")
        starts = np.searchsorted(inside[order], self.cells, side="left")
        counts = np.searchsorted(inside[order], self.cells, side="right") - starts
        entries = np.repeat(np.arange(len(self.cells)), counts)
        within = np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)
        targets = places[order][np.repeat(starts, counts) + within]
        result = Values(complete=self.complete)
        columns = (self.values, self.records, self.weights, self.squares)
        result._add(targets, *(column[entries] for column in columns))  # type: ignore[arg-type]
        return result

    def of_cell(self, cell: int) -> tuple[Floats, Integers, Floats]:
        """The different values of one cell, rising, with their records and weights."""
        part = slice(*np.searchsorted(self.cells, [cell, cell + 1]))
        return self.values[part], self.records[part], self.weights[part]

    def _add(self, cells: Integers, values: Floats, records: Integers, weights: Floats, squares: Floats) -> None:
        cells, values = np.concatenate([self.cells, cells]), np.concatenate([self.values, values])
        added = ((self.records, records), (self.weights, weights), (self.squares, squares))
        amounts = [np.concatenate([mine, theirs]) for mine, theirs in added]
        different, back = np.unique(values + 0.0, return_inverse=True)
        count = max(len(different), 1)
        if self.most is not None and len(different) > self.most:
            self._drop()
            return
        key = cells * count + back
        size = (int(cells.max(initial=-1)) + 1) * count
        if size <= _WHOLE_TABLE:
            summed = [np.bincount(key, amount, size) for amount in amounts]
            kept = np.flatnonzero(summed[0])
            summed = [one[kept] for one in summed]
        else:
            kept, back = np.unique(key, return_inverse=True)
            summed = [np.bincount(back, amount, len(kept)) for amount in amounts]
        self.records = summed[0].astype(np.int64)
        self.weights, self.squares = np.asarray(summed[1]), np.asarray(summed[2])
        self.cells, self.values = kept // count, different[kept % count]
        if self.most is not None and len(kept) > self.most:
            self._drop()

    def _drop(self) -> None:
        self.complete = False
        self.cells, self.records = _no_integers(), _no_integers()
        self.values, self.weights, self.squares = _no_floats(), _no_floats(), _no_floats()
