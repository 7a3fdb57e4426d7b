"""Which values occur how often in each cell: exact, mergeable, and as small as the number of different values."""

import numpy as np
from msgspec import Struct, field

from grainstack.summary.sums import factors
from grainstack.summary.sums.cell_index import Cells
from grainstack.summary.sums.exact import ExactSums, Floats, Integers
from grainstack.summary.sums.factors import Column
from grainstack.summary.sums.value_table import ValueTable, add_weights

_WHOLE_TABLE = 1 << 22


def _no_floats() -> Floats:
    return np.zeros(0)


def _no_integers() -> Integers:
    return np.zeros(0, dtype=np.int64)


class Values(Struct):
    """Different values of a measure per cell, with their records and weight.

    All arrays have one entry per (cell, value) that occurs, sorted by cell, then value, shape (pairs,). Weights are
    summed exactly, so that they do not depend on the order in which records came.

    Attributes:
        cells: The cell.
        values: The value.
        records: How many records hold it, never weighted.
        weight_sums: Σw; None while every record weighs 1.
        square_sums: Σw²; None likewise.
        most: Beyond this many pairs everything is dropped: for uses that can do without.
        complete: Whether nothing was dropped.

    What was absorbed last may still be in a table of all values in all cells, which is faster to add to; see `settle`.
    """

    cells: Integers = field(default_factory=_no_integers)
    values: Floats = field(default_factory=_no_floats)
    records: Integers = field(default_factory=_no_integers)
    weight_sums: ExactSums | None = None
    square_sums: ExactSums | None = None
    most: int | None = None
    complete: bool = True
    _table: "ValueTable | None" = None

    @property
    def weights(self) -> Floats:
        """Σw of each pair, shape (pairs,)."""
        return self.records.astype(float) if self.weight_sums is None else self.weight_sums.values()

    @property
    def squares(self) -> Floats:
        """Σw² of each pair, shape (pairs,)."""
        return self.records.astype(float) if self.square_sums is None else self.square_sums.values()

    def absorb(self, cells: Cells, values: Column, weights: Column | None, times: Column | None = None) -> None:
        """Adds records; negative cells and missing values are passed over."""
        if not self.complete:
            return
        if times is None and factors.way.tables_of_values:
            if self._table is None or not self._table.absorb(cells, values, weights):
                self._table = self._new_table(cells, values, weights)
            if self._table is not None:
                self._check_count()
                return
        keep = (cells >= 0) & ~np.isnan(values.numbers)
        places = self._places(cells[keep], values.numbers[keep])
        if places is None:
            return
        mine, count = places
        repeats = None if times is None else times.numbers[keep]
        self.records += np.bincount(mine, repeats, count).astype(np.int64)
        if weights is not None:
            self.weight_sums, self.square_sums = self.weight_sums or ExactSums(), self.square_sums or ExactSums()
            repeated = [] if times is None else [times.at(keep)]
            add_weights(self.weight_sums, self.square_sums, mine, [weights.at(keep), *repeated], count)
        self._check_count()

    def _new_table(self, cells: Cells, values: Column, weights: Column | None) -> "ValueTable | None":
        """Puts away what the table of values holds, and starts one that also has room for some records.

        Returns:
            The new one, with these records; None where it would be too large.
        """
        old = self._table
        self.settle()
        table = ValueTable.with_room(cells, values, old, weighted=weights is not None)
        return table if table is not None and table.absorb(cells, values, weights) else None

    def settle(self) -> None:
        """Puts what the table of values holds among the other pairs; to be called before these are read."""
        table, self._table = self._table, None
        if table is not None:
            pairs = Values(*table.pairs())
            self._add(pairs, pairs.cells, np.arange(len(pairs.cells)))

    def merge(self, other: "Values", places: Integers) -> None:
        """Adds another set; `places` says where each of its cells stands here."""
        self.settle()
        other.settle()
        if not other.complete:
            self._drop()
        if self.complete:
            self._add(other, places[other.cells], np.arange(len(other.cells)))

    def regrouped(self, inside: Integers, places: Integers) -> "Values":
        """The values of groups of cells: the cells `inside` go to these `places`, shape (inside,) both."""
        order = np.argsort(inside, kind="stable")
        starts = np.searchsorted(inside[order], self.cells, side="left")
        counts = np.searchsorted(inside[order], self.cells, side="right") - starts
        entries = np.repeat(np.arange(len(self.cells)), counts)
        within = np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)
        targets = places[order][np.repeat(starts, counts) + within]
        result = Values(complete=self.complete)
        result._add(self, targets, entries)
        return result

    def of_cell(self, cell: int) -> tuple[Floats, Integers, Floats]:
        """The different values of one cell, rising, with their records and weights."""
        part = slice(*np.searchsorted(self.cells, [cell, cell + 1]))
        weights = None if self.weight_sums is None else self.weight_sums.at(np.arange(part.start, part.stop))
        records = self.records[part]
        return self.values[part], records, records.astype(float) if weights is None else weights.values()

    def _add(self, other: "Values", cells: Integers, entries: Integers) -> None:
        """Adds these entries of another set, each to a cell."""
        places = self._places(cells, other.values[entries])
        if places is None:
            return
        mine, count = places
        self.records += np.bincount(mine, other.records[entries], count).astype(np.int64)
        for name in ("weight_sums", "square_sums"):
            theirs: ExactSums | None = getattr(other, name)
            if theirs is not None:
                sums = getattr(self, name) or ExactSums()
                sums.merge(theirs.at(entries), mine, count)
                setattr(self, name, sums)
        self._check_count()

    def _places(self, cells: Integers, values: Floats) -> tuple[Integers, int] | None:
        """Makes room for pairs: the place of each, and how many pairs there are then; None when they are too many."""
        before = len(self.cells)
        cells, values = np.concatenate([self.cells, cells]), np.concatenate([self.values, values])
        different, back = np.unique(values + 0.0, return_inverse=True)
        back = back.reshape(-1)
        if self.most is not None and len(different) > self.most:
            self._drop()
            return None
        number = max(len(different), 1)
        key = cells * number + back
        size = (int(cells.max(initial=-1)) + 1) * number
        if size <= _WHOLE_TABLE:
            met = np.zeros(size, dtype=bool)
            met[key] = True
            kept = np.flatnonzero(met)
            places = (np.cumsum(met) - 1)[key]
        else:
            kept, places = np.unique(key, return_inverse=True)
            places = places.reshape(-1)
        own, count = places[:before], len(kept)
        self.cells, self.values = kept // number, different[kept % number]
        if not (count == before and (own == np.arange(before)).all()):
            self._moved(own, count)
        return np.asarray(places[before:], dtype=np.int64), count

    def _moved(self, places: Integers, count: int) -> None:
        """Every amount to its new place, so that pairs stay sorted."""
        records = np.zeros(count, dtype=np.int64)
        records[places] = self.records
        self.records = records
        for name in ("weight_sums", "square_sums"):
            sums: ExactSums | None = getattr(self, name)
            if sums is not None:
                setattr(self, name, sums.regrouped(places, count))

    def _check_count(self) -> None:
        if self.most is not None and len(self.cells) + (self._table.count if self._table else 0) > self.most:
            self.settle()
            if len(self.cells) > self.most:
                self._drop()

    def _drop(self) -> None:
        self.complete, self._table = False, None
        self.cells, self.records, self.values = _no_integers(), _no_integers(), _no_floats()
        self.weight_sums = self.square_sums = None
