"""Sums that merge: how many records a cell has, their weight, and the mean and spread of a measure."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct, field

from grainstack.summary.sums.cell_index import Cells
from grainstack.summary.sums.exact import ExactSums, Floats, Integers
from grainstack.summary.sums.factors import Amounts, Column

__all__ = ["Floats", "Integers", "Moments"]


def _none() -> Integers:
    return np.zeros(0, dtype=np.int64)


class Moments(Struct):
    """Per cell: records, weight, and the sums of a measure, all exact until they are read.

    Because Σwx² is exact too, the spread around the mean comes out right even where it is tiny beside the mean.

    Attributes:
        records: n, shape (cells,), records with an answer, never weighted.
        weights: Σw; None while every record weighs 1.
        weight_products: Σw²; None likewise.
        totals: Σwx.
        products: Σwx².
    """

    records: Integers = field(default_factory=_none)
    weights: ExactSums | None = None
    weight_products: ExactSums | None = None
    totals: ExactSums = field(default_factory=ExactSums)
    products: ExactSums = field(default_factory=ExactSums)

    def absorb(self, cells: Cells, count: int, values: Column | None, amounts: Amounts) -> None:
        """Adds records.

        Args:
            cells: The cell of each record, shape (records,); negative ones are passed over.
            count: How many cells there are by now.
            values: The measure, shape (records,), NaN where there is no answer; without it only records are counted.
            amounts: How much each record counts.
        """
        self._grow(count)
        measured = [] if values is None else [values]
        for part, columns in amounts.shared.chunks(cells, [*measured, *amounts.given]):
            self._absorb_chunk(part, columns, amounts, measured=bool(measured))

    def merge(self, other: "Moments", places: Integers) -> None:
        """Adds another set of sums.

        Args:
            other: The sums to add.
            places: Where each of its cells stands here, shape (cells of `other`,); several may share a place.
        """
        count = max(int(places.max(initial=-1)) + 1, len(self.records))
        self._grow(count)
        self.records += np.bincount(places, other.records, count).astype(np.int64)
        self.totals.merge(other.totals, places, count)
        self.products.merge(other.products, places, count)
        for name in ("weights", "weight_products"):
            theirs: ExactSums | None = getattr(other, name)
            if theirs is not None:
                mine = getattr(self, name) or ExactSums()
                mine.merge(theirs, places, count)
                setattr(self, name, mine)

    def regrouped(self, groups: Integers, count: int) -> "Moments":
        """The sums of groups of cells.

        Args:
            groups: The group of each cell, shape (cells,).
            count: How many groups there are; a group without a cell is empty.
        """
        result = Moments()
        result._grow(count)
        result.merge(self, groups)
        return result

    def at(self, places: Integers) -> "Moments":
        """The sums at these places, shape (places,)."""
        weights, squares = (None if one is None else one.at(places) for one in (self.weights, self.weight_products))
        return Moments(self.records[places], weights, squares, self.totals.at(places), self.products.at(places))

    @property
    def weight(self) -> Floats:
        """Σw, shape (cells,)."""
        return self.records.astype(float) if self.weights is None else self.weights.values()

    @property
    def weight_squares(self) -> Floats:
        """Σw², shape (cells,)."""
        return self.records.astype(float) if self.weight_products is None else self.weight_products.values()

    @property
    def sum(self) -> Floats:
        """Σwx, shape (cells,)."""
        return self.totals.values()

    @property
    def mean(self) -> Floats:
        """Σwx / Σw, shape (cells,); NaN in a cell without weight."""
        (totals, unit), (weights, weight_unit) = self.totals.as_ratios(), self._weights_as_ratios()
        pairs = zip(totals, weights, strict=True)
        means = [total * weight_unit / (weight * unit) if weight else np.nan for total, weight in pairs]
        return np.array(means, dtype=np.float64)

    @property
    def squares(self) -> Floats:
        """Σw(x − mean)² = Σwx² − (Σwx)² / Σw, shape (cells,); 0 in a cell without weight."""
        (products, under), (totals, unit) = self.products.as_ratios(), self.totals.as_ratios()
        weights, weight_unit = self._weights_as_ratios()
        whole, part = unit * unit, weight_unit * under
        sums = zip(products, totals, weights, strict=True)
        # all over one denominator, so that nothing is rounded before the division
        squares = [(p * w * whole - t * t * part) / (under * w * whole) if w else 0.0 for p, t, w in sums]
        return np.array(squares, dtype=np.float64)

    def _absorb_chunk(self, cells: Cells, columns: Sequence[Column], amounts: Amounts, *, measured: bool) -> None:
        """Adds records that have all numbers: value, weight and times, as far as they are given."""
        count, shared, weighted = len(self.records), amounts.shared, amounts.weights is not None
        self.records += shared.records(cells, None if amounts.times is None else columns[-1], count)
        if weighted:
            self.weights, self.weight_products = self.weights or ExactSums(), self.weight_products or ExactSums()
        for rows, found in shared.factored(columns) if measured or weighted else ():
            own = cells if rows is None else cells[rows]
            value, rest = found[:measured], found[measured:]
            weight = rest[:weighted]
            if self.weights is not None and self.weight_products is not None:
                shared.ask(self.weights, own, rest, count)
                shared.ask(self.weight_products, own, [*weight, *rest], count)
            if measured:
                shared.ask(self.totals, own, [*value, *rest], count)
                shared.ask(self.products, own, [*value, *value, *rest], count)

    def _weights_as_ratios(self) -> tuple[list[int], int]:
        """Σw as numerators, and the denominator they share."""
        return (self.records.tolist(), 1) if self.weights is None else self.weights.as_ratios()

    def _grow(self, count: int) -> None:
        missing = count - len(self.records)
        if missing > 0:
            self.records = np.concatenate([self.records, np.zeros(missing, dtype=np.int64)])
        for sums in (self.weights, self.weight_products, self.totals, self.products):
            if sums is not None:
                sums.grow(count)
