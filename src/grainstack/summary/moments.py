"""Sums that merge: how many records a cell has, their weight, and the mean and spread of a measure."""

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from grainstack.summary.cells import Cells

Floats = npt.NDArray[np.float64]
Integers = npt.NDArray[np.int64]


def _zeros() -> Floats:
    return np.zeros(0)


def _no_integers() -> Integers:
    return np.zeros(0, dtype=np.int64)


@dataclass(slots=True)
class Moments:
    """Per cell: records, weight, mean, centred sum of squares, and sum of a measure.

    The mean and the squares around it are kept rather than Σx², so that a small spread on a large value survives
    (Chan, Golub & LeVeque 1983, formula 2.1, extended to weights). Sums are compensated (Neumaier 1974).

    Attributes:
        records: n, shape (cells,), records with an answer, never weighted.
        weight: Σw, shape (cells,).
        weight_squares: Σw², shape (cells,).
        mean: Σwx / Σw, shape (cells,); 0 in an empty cell.
        squares: Σw(x − mean)², shape (cells,).
        total: Σwx, shape (cells,).
        correction: What rounding has kept out of `total`, shape (cells,).
    """

    records: Integers = field(default_factory=_no_integers)
    weight: Floats = field(default_factory=_zeros)
    weight_squares: Floats = field(default_factory=_zeros)
    mean: Floats = field(default_factory=_zeros)
    squares: Floats = field(default_factory=_zeros)
    total: Floats = field(default_factory=_zeros)
    correction: Floats = field(default_factory=_zeros)

    def absorb(
        self,
        cells: Cells,
        count: int,
        values: Floats | None = None,
        weights: Floats | None = None,
        times: Integers | None = None,
    ) -> None:
        """Adds records.

        Args:
            cells: The cell of each record, shape (records,); negative ones are passed over.
            count: How many cells there are by now.
            values: The measure, shape (records,), NaN where there is no answer; without it only records are counted.
            weights: Record weights, shape (records,); without them every record weighs 1.
            times: How many records each one stands for, shape (records,); without them 1.
        """
        keep = cells >= 0
        if values is not None:
            keep &= ~np.isnan(values)
        if not keep.all():
            cells = cells[keep]
            values = None if values is None else values[keep]
            weights = None if weights is None else weights[keep]
            times = None if times is None else times[keep]
        batch = (
            _of_batch(cells, count, values, weights)
            if times is None
            else _repeated(cells, count, values, weights, times)
        )
        self.merge(batch, np.arange(count))

    def merge(self, other: "Moments", places: Integers) -> None:
        """Adds another set of sums.

        Args:
            other: The sums to add.
            places: Where each of its cells stands here, shape (cells of `other`,); several may share a place.
        """
        count = max(int(places.max(initial=-1)) + 1, len(self.records))
        self._grow(count)
        if len(np.unique(places)) < len(places):
            other, places = other.regrouped(places, count), np.arange(count)
        here, there = self.weight[places], other.weight
        weight = here + there
        with np.errstate(invalid="ignore", divide="ignore"):
            part = np.where(weight > 0, there / weight, 0.0)
        gap = other.mean - self.mean[places]
        self.squares[places] += other.squares + gap * gap * here * part
        self.mean[places] += gap * part
        self.weight[places] = weight
        self.weight_squares[places] += other.weight_squares
        self.records[places] += other.records
        self._add_to_total(other.total, places)
        self.correction[places] += other.correction

    def regrouped(self, groups: Integers, count: int) -> "Moments":
        """The sums of groups of cells.

        Args:
            groups: The group of each cell, shape (cells,).
            count: How many groups there are; a group without a cell is empty.
        """

        def added(amounts: Floats) -> Floats:
            return _summed(groups, amounts, count)

        weight = added(self.weight)
        around = np.zeros(count)
        filled = self.weight > 0
        around[groups[filled]] = self.mean[filled]
        drift = added(self.weight * (self.mean - around[groups]))
        mean = around + np.divide(drift, weight, out=np.zeros(count), where=weight > 0)
        gaps = self.mean - mean[groups]
        return Moments(
            np.bincount(groups, self.records, count).astype(np.int64),
            weight,
            added(self.weight_squares),
            mean,
            added(self.squares) + added(self.weight * gaps * gaps),
            added(self.total),
            added(self.correction),
        )

    def at(self, places: Integers) -> "Moments":
        """The sums at these places, shape (places,)."""
        return Moments(*(getattr(self, name)[places] for name in self.__slots__))

    @property
    def sum(self) -> Floats:
        """Σwx, shape (cells,)."""
        return self.total + self.correction

    def _add_to_total(self, amount: Floats, places: Integers) -> None:
        before = self.total[places]
        after = before + amount
        large, small = np.where(np.abs(before) >= np.abs(amount), (before, amount), (amount, before))
        self.correction[places] += (large - after) + small
        self.total[places] = after

    def _grow(self, count: int) -> None:
        missing = count - len(self.records)
        if missing > 0:
            for name in self.__slots__:
                old = getattr(self, name)
                setattr(self, name, np.concatenate([old, np.zeros(missing, dtype=old.dtype)]))


def _repeated(cells: Cells, count: int, values: Floats | None, weights: Floats | None, times: Integers) -> Moments:
    """The sums of one batch whose rows stand for several records each: their weight counts as often."""
    own = np.ones(len(cells)) if weights is None else weights
    sums = _of_batch(cells, count, values, own * times)
    sums.records = np.bincount(cells, times, count).astype(np.int64)
    sums.weight_squares = _summed(cells, own * own * times, count)
    return sums


def _summed(groups: Integers, amounts: Floats, count: int) -> Floats:
    return np.asarray(np.bincount(groups, amounts, count), dtype=np.float64)


def _of_batch(cells: Cells, count: int, values: Floats | None, weights: Floats | None) -> Moments:
    """The sums of one batch, by two passes so that the squares are centred from the start."""
    records = np.bincount(cells, minlength=count)
    weight = records.astype(float) if weights is None else _summed(cells, weights, count)
    weight_squares = records.astype(float) if weights is None else _summed(cells, weights * weights, count)
    if values is None:
        nothing = np.zeros(count)
        return Moments(records, weight, weight_squares, nothing, nothing.copy(), nothing.copy(), nothing.copy())
    weighted = values if weights is None else values * weights
    total = _summed(cells, weighted, count)
    divisor = np.where(weight > 0, weight, 1.0)
    mean = total / divisor
    gaps = values - mean[cells]
    weighted_gaps = gaps if weights is None else gaps * weights
    drift = _summed(cells, weighted_gaps, count)
    squares = _summed(cells, weighted_gaps * gaps, count) - drift * drift / divisor
    return Moments(records, weight, weight_squares, mean + drift / divisor, squares, total, np.zeros(count))
