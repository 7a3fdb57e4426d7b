"""The sums a survey design needs: per stratum, per drawn unit and per cell.

Where records are drawn in clusters, each cluster's totals are kept. Where each record was drawn by itself, the sums of
squares per stratum are enough. Units without a record in a cell count all the same: they are seen because the design
columns of every record read reach this accumulator, filtered away or not.
"""

import dataclasses
from collections.abc import Mapping, Sequence

import numpy as np
from msgspec import Struct, field

from grainstack.records.arrow import Codes
from grainstack.records.batch import Batch
from grainstack.summary.options import DesignRequest
from grainstack.summary.sums import factors
from grainstack.summary.sums.cell_index import CellIndex, Cells, in_order
from grainstack.summary.sums.exact import ExactSums, Floats, Integers
from grainstack.summary.sums.factors import Amounts, Column
from grainstack.summary.sums.values import Values

Pair = tuple[str | None, str | None]
COUNT: Pair = (None, None)
Ratios = Mapping[Pair, tuple[Column | None, Column | None]]  # numerator and denominator, each None where it is 1


class PairSums(Struct):
    """Sums of one ratio per (unit, cell): its numerator x, its denominator y, and for single records their products.

    A count has x = y = 1; a mean has y = 1; a rate has both from the records.

    Attributes:
        records: How many records have both, never weighted, shape (pairs,).
        x: Σwx.
        y: Σwy.
        xx: Σw²x²; empty where clusters were drawn. Likewise `xy` and `yy`.
    """

    records: Integers = field(default_factory=lambda: np.zeros(0, dtype=np.int64))
    x: ExactSums = field(default_factory=ExactSums)
    y: ExactSums = field(default_factory=ExactSums)
    xx: ExactSums = field(default_factory=ExactSums)
    xy: ExactSums = field(default_factory=ExactSums)
    yy: ExactSums = field(default_factory=ExactSums)

    @classmethod
    def of_counts(cls) -> "PairSums":
        """Sums for a ratio whose numerator is its denominator: kept and added to once."""
        single, squared = ExactSums(), ExactSums()
        return cls(x=single, y=single, xx=squared, xy=squared, yy=squared)

    def absorb(
        self, pairs: Integers, count: int, both: Sequence[Column | None], amounts: Amounts, *, squares: bool
    ) -> None:
        """Adds records that have all numbers.

        Args:
            pairs: The pair of each record, shape (records,); negative ones are passed over.
            count: How many pairs there are by now.
            both: Numerator and denominator of each record, each None where it is 1.
            amounts: How much each record counts.
            squares: Whether their products are wanted too.
        """
        every = (*both, amounts.weights, amounts.times)
        shared = amounts.shared
        for part, columns in shared.chunks(pairs, [column for column in every if column is not None]):
            self.records = grown(self.records, count)
            if amounts.times is None and count > len(part):
                factors.way.count(part, self.records)
            else:
                self.records += shared.records(part, None if amounts.times is None else columns[-1], count)
            for rows, found in shared.factored(columns) if columns else [(None, [])]:
                left = iter(found)
                x, y, weight, repeats = ([] if column is None else [next(left)] for column in every)
                x, y = [*x, *weight], [*y, *weight]
                wanted = [(self.x, x), (self.y, y)]
                if squares:
                    wanted += [(self.xx, [*x, *x]), (self.xy, [*x, *y]), (self.yy, [*y, *y])]
                distinct = {id(sums): (sums, product) for sums, product in wanted}  # a count has x for y
                for sums, product in distinct.values():
                    shared.ask(sums, part if rows is None else part[rows], [*product, *repeats], count)

    def merge(self, other: "PairSums", places: Integers, count: int) -> None:
        """Adds another set; `places` says where each of its pairs stands here."""
        self.records = grown(self.records, count)
        np.add.at(self.records, places, grown(other.records, len(places)))
        distinct = {id(getattr(self, name)): name for name in ("x", "y", "xx", "xy", "yy")}
        for name in distinct.values():
            _merge(getattr(self, name), getattr(other, name), places, count)


class MeanSums(Struct):
    """Sums of a mean per (unit, cell): its numerator, and of its denominator what keeps it from being a count.

    Most measures have a number for most records, so that there is little to add.

    Attributes:
        x: Σwx.
        xx: Σw²x²; empty where clusters were drawn. Likewise `xy`, which is Σw²x.
        lacking: The count of records that have no number.
    """

    x: ExactSums = field(default_factory=ExactSums)
    xx: ExactSums = field(default_factory=ExactSums)
    xy: ExactSums = field(default_factory=ExactSums)
    lacking: PairSums = field(default_factory=PairSums.of_counts)

    def absorb(self, pairs: Integers, count: int, values: Column, amounts: Amounts, *, squares: bool) -> None:
        """Adds records; arguments as of `PairSums.absorb`, with `values` the measure."""
        shared, weighted = amounts.shared, amounts.weights is not None
        for part, columns in shared.chunks(pairs, [values, *amounts.given]):
            for rows, (value, *rest) in shared.factored(columns):
                chosen, weight = part if rows is None else part[rows], rest[:weighted]
                shared.ask(self.x, chosen, [value, *rest], count)
                if squares:
                    shared.ask(self.xx, chosen, [value, *weight, value, *rest], count)
                    shared.ask(self.xy, chosen, [value, *weight, *rest], count)
        if values.has_gaps:
            without = np.flatnonzero(np.isnan(values.numbers) & (pairs >= 0))
            weights, times = (None if one is None else one.at(without) for one in (amounts.weights, amounts.times))
            few = Amounts(shared, weights, times)
            self.lacking.absorb(pairs[without], count, (None, None), few, squares=squares)

    def merge(self, other: "MeanSums", places: Integers, count: int) -> None:
        """Adds another set; `places` says where each of its pairs stands here."""
        for name in ("x", "xx", "xy"):
            _merge(getattr(self, name), getattr(other, name), places, count)
        self.lacking.merge(other.lacking, places, count)

    def of(self, counted: PairSums) -> PairSums:
        """All sums of the mean, with those of the count of all records."""
        lacking, pairs = self.lacking, len(counted.records)
        records = counted.records - grown(lacking.records, pairs)
        y, yy = counted.y.less(lacking.y), counted.yy.less(lacking.yy)
        return PairSums(records, self.x, y, self.xx, self.xy, yy)


@dataclasses.dataclass(slots=True)
class DesignSums:
    """What a design has to know of the records.

    Attributes:
        request: The design.
        units: The units drawn, as (stratum, cluster, cluster within it …); strata alone where records were drawn.
        seen: How many records each unit has, of all records read, shape (units,).
        lowest: The lowest population size met in each unit, stage by stage, shape (units, stages).
        highest: The highest one.
        pairs: The (unit, cell) combinations that occur.
        sums: The sums of counts and rates per pair.
        means: Those of means.
        values: The different values of some measures per pair.
        with_squares: Whether products are summed too; where single records were drawn, unless it is said.
    """

    request: DesignRequest
    units: CellIndex = dataclasses.field(init=False)
    seen: Integers = dataclasses.field(default_factory=lambda: np.zeros(0, dtype=np.int64))
    lowest: Floats = dataclasses.field(init=False)
    highest: Floats = dataclasses.field(init=False)
    pairs: CellIndex = dataclasses.field(default_factory=lambda: CellIndex(2))
    sums: dict[Pair, PairSums] = dataclasses.field(default_factory=dict)
    means: dict[Pair, MeanSums] = dataclasses.field(default_factory=dict)
    values: dict[str, Values] = dataclasses.field(default_factory=dict)
    with_squares: bool | None = None

    def __post_init__(self) -> None:
        if self.with_squares is None:
            self.with_squares = self.request.draws_records
        self.units = CellIndex(1 + len(self.request.cluster))
        self.lowest, self.highest = (np.zeros((0, len(self.request.population))) for _ in range(2))

    def place(self, batch: Batch, count: int) -> Integers:
        """The unit of each record kept, shape (records,); takes note of all records, kept or not.

        Args:
            batch: The records.
            count: How many cells are known by now.
        """
        units = self.place_everyone(batch, count)
        if self._is_one_unit:
            return _nowhere_else(len(batch))
        return units if batch.kept is None else units[batch.kept]

    def place_everyone(self, batch: Batch, count: int) -> Integers:
        """The unit of each record read, kept or not; arguments as of `place`."""
        request = self.request
        units = self.place_known(batch)
        if self._is_one_unit:
            if not len(self.units):
                self.units.add(np.zeros((1, 1), dtype=np.int64))
            new = np.arange(len(self.pairs), count, dtype=np.int64)
            self.pairs.add(np.column_stack([np.zeros_like(new), new]))  # so that pairs have the numbers of their cells
        self._grow()
        self._count(batch, units)
        for stage, name in enumerate(request.population):
            sizes = batch.everyone_numbers(name)
            np.minimum.at(self.lowest[:, stage], units, sizes)
            np.maximum.at(self.highest[:, stage], units, sizes)
        return units

    def place_known(self, batch: Batch) -> Integers:
        """The unit of each record read, of units that are known already."""
        if self._is_one_unit:
            return _nowhere_else(batch.everyone_count)
        return self.units.place(
            [_or_zeros(batch, self.request.strata), *map(batch.everyone_codes, self.request.cluster)]
        )

    def _count(self, batch: Batch, units: Integers) -> None:
        """Counts the records of each unit, each once however many rows were made of it."""
        once, times = batch.everyone_once, batch.everyone_times
        if once is None and times is None:
            if self._is_one_unit:
                self.seen += len(units)
            else:
                factors.way.count(units, self.seen)
        else:
            rows, weights = (units, times) if once is None else (units[once], None)
            self.seen += np.bincount(rows, weights, len(self.units)).astype(np.int64)

    @property
    def _is_one_unit(self) -> bool:
        """Whether nothing but weights tells records apart: the survey is the only unit then."""
        request = self.request
        return not (request.strata or request.cluster or request.population)

    def absorb(self, units: Integers, cells: Cells, ratios: Ratios, amounts: Amounts) -> None:
        """Adds records.

        Args:
            units: The unit of each record, shape (records,).
            cells: Its cell; negative ones are passed over.
            ratios: For each ratio the numerator and denominator of each record.
            amounts: How much each record counts.
        """
        pairs = cells
        if not self._is_one_unit:
            pairs = self.pairs.place([units, cells])
            amounts.shared.stand_alike(pairs, cells)
        squares, count = bool(self.with_squares), len(self.pairs)
        for name, (x, y) in ratios.items():
            if x is not None and y is None:
                self.means.setdefault(name, MeanSums()).absorb(pairs, count, x, amounts, squares=squares)
            else:
                self._of(name).absorb(pairs, count, (x, y), amounts, squares=squares)
        for measure, values in self.values.items():
            column, _ = ratios[measure, None]
            if column is not None:
                values.absorb(pairs, column, amounts.weights or Column(np.ones(len(pairs))), amounts.times)

    def _of(self, name: Pair) -> PairSums:
        """The sums of a count or a rate, empty if there are none yet."""
        return self.sums.setdefault(name, PairSums.of_counts() if name == COUNT else PairSums())

    def has(self, name: Pair) -> bool:
        """Whether there are sums of a ratio."""
        return name in self.means or name in self.sums

    def ratio(self, name: Pair) -> PairSums:
        """All sums of a ratio that there is."""
        return self.means[name].of(self.sums[COUNT]) if name in self.means else self.sums[name]

    def merge(self, other: "DesignSums", cells: Integers, codes: Sequence[Integers]) -> Integers:
        """Adds another accumulator's sums, and gives where each of its units stands here, shape (its units,).

        Args:
            other: The sums to add.
            cells: Where each of its cells stands here, shape (its cells,).
            codes: Where each of its strata stands here, and each of its clusters stage by stage.
        """
        units = self.units.add(_relabelled(other.units.keys, *codes))
        self._grow()
        np.add.at(self.seen, units, other.seen)
        np.minimum.at(self.lowest, units, other.lowest)
        np.maximum.at(self.highest, units, other.highest)
        keys = other.pairs.keys
        places = self.pairs.add(_relabelled(keys, units, cells))
        for name, sums in other.sums.items():
            self._of(name).merge(sums, places, len(self.pairs))
        for name, means in other.means.items():
            self.means.setdefault(name, MeanSums()).merge(means, places, len(self.pairs))
        for measure, values in self.values.items():
            values.merge(other.values[measure], places)
        return units

    def canonical(self, cells: Integers, codes: Sequence[Integers]) -> tuple["DesignSums", Integers]:
        """The same sums with strata, clusters and cells under other numbers, in their order; and where units are."""
        kept = {measure: Values() for measure in self.values}
        result = DesignSums(self.request, values=kept, with_squares=self.with_squares)
        result.units.add(in_order(_relabelled(self.units.keys, *codes)))
        units = result.units.add(_relabelled(self.units.keys, *codes))
        result.pairs.add(in_order(_relabelled(self.pairs.keys, units, cells)))
        return result, result.merge(self, cells, codes)

    def _grow(self) -> None:
        missing = len(self.units) - len(self.seen)
        if missing:
            self.seen = grown(self.seen, len(self.units))
            stages = self.lowest.shape[1]
            self.lowest = np.concatenate([self.lowest, np.full((missing, stages), np.inf)])
            self.highest = np.concatenate([self.highest, np.full((missing, stages), -np.inf)])


def _merge(sums: ExactSums, other: ExactSums, places: Integers, count: int) -> None:
    """Adds sums of pairs, of which some may have come after the last one that was added to."""
    other.grow(len(places))
    sums.merge(other, places, count)


def _nowhere_else(rows: int) -> Integers:
    """The one unit there is, for so many rows: an array that takes no room."""
    return np.broadcast_to(np.int64(0), rows)


def grown(counts: Integers, size: int) -> Integers:
    """Counts with zeros for what is new, shape (size,)."""
    missing = size - len(counts)
    return np.concatenate([counts, np.zeros(missing, dtype=np.int64)]) if missing > 0 else counts


def _relabelled(keys: Integers, *places: Integers) -> Integers:
    """Rows of numbers under other numbers, column by column, shape as `keys`."""
    if not len(keys):
        return keys
    return np.column_stack([place[column] for place, column in zip(places, keys.T, strict=True)])


def _or_zeros(batch: Batch, column: str | None) -> Codes:
    return np.zeros(batch.everyone_count, dtype=np.int32) if column is None else batch.everyone_codes(column)
