"""One pass over typed batches: the sums of everything a request asks for."""

import dataclasses
from collections.abc import Mapping, Sequence
from typing import cast

import numpy as np
import numpy.typing as npt

from grainstack.records.batch import Batch, Needs
from grainstack.records.readers.nets import nets_by_column
from grainstack.summary.levels.grouping import base_axes, base_of
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.sums.answer_rows import Rows, coded
from grainstack.summary.sums.calibration_sums import CalibrationSums, combination_design
from grainstack.summary.sums.cell_index import CellIndex, Cells, in_order
from grainstack.summary.sums.cell_sums import (
    CellBlock,
    CellSum,
    ExtremeSums,
    HalfSampleSums,
    MeasureSums,
    RateSums,
    ReplicatedSums,
    SumKey,
    TextSums,
    ValueSums,
    cell_sums_for,
    ratios_of,
)
from grainstack.summary.sums.design import COUNT, DesignSums, Pair, Ratios
from grainstack.summary.sums.extremes import Extremes
from grainstack.summary.sums.factors import Amounts, Column, Shared
from grainstack.summary.sums.half_samples import HalfSamples
from grainstack.summary.sums.joint import JointRows, JointSums
from grainstack.summary.sums.moments import Floats, Integers, Moments
from grainstack.summary.sums.record_account import RecordAccount, add_counts, counted
from grainstack.summary.sums.replicates import ReplicateSums
from grainstack.summary.sums.row_texts import RowTexts
from grainstack.summary.sums.values import Values
from grainstack.summary.sums.wanted import Wanted, wanted_by

LevelPlaces = Mapping[str, Integers]


def needs_of(request: SummaryRequest) -> Needs:
    """The columns a request reads."""
    design, wanted = request.design, wanted_by(request)
    targets = [column for columns in design.calibrated for column in columns] if wanted.calibrated else []
    return Needs(
        levels=request.dimensions,
        nets=nets_by_column(request.net, request.dimensions),
        numbers=request.measures,
        weights=tuple(name for name in (design.weight, *wanted.replicates) if name),
        times=(request.times,) if request.times else (),
        others=bool(request.value),
        everyone=tuple(dict.fromkeys(name for name in (design.strata, *design.cluster, *targets) if name)),
        populations=(*design.population, *((design.weight,) if targets and design.weight else ())),
    )


@dataclasses.dataclass(slots=True)
class Accumulator:
    """The sums of everything a request asks for. It pickles, and two of one request merge in any order.

    Attributes:
        request: What is summed up.
        wanted: Which sums that needs.
        index: The cells that occur, by their level places.
        sums: What is kept of each cell.
        account: What became of every record.
        several: The axes of questions with several answers.
        outer: Where there are such: cells without those axes, but with those that shares are shares of.
        respondents: The records that answered, each counted once per outer cell.
        design: The sums of the design over cells, if there is one.
        outer_design: The same over outer cells.
        outer_replicates: The sums under replicate weights over outer cells, if there are such.
        calibration: Sums by the groups that weights were made to meet, where they were.
        joint: Sums over records that stand in several cells, or in one with several rows.
    """

    request: SummaryRequest
    wanted: Wanted = dataclasses.field(init=False)
    index: CellIndex = dataclasses.field(init=False)
    sums: dict[SumKey, CellSum] = dataclasses.field(init=False)
    account: RecordAccount = dataclasses.field(init=False)
    several: tuple[int, ...] = ()
    outer: CellIndex | None = None
    respondents: Moments = dataclasses.field(default_factory=Moments)
    design: DesignSums | None = None
    outer_design: DesignSums | None = None
    outer_replicates: ReplicateSums | None = None
    joint: JointSums | None = None
    calibration: CalibrationSums | None = None

    def __post_init__(self) -> None:
        request, wanted = self.request, wanted_by(self.request)
        self.wanted = wanted
        self.index = CellIndex(len(request.dimensions))
        self.sums = cell_sums_for(request, wanted)
        self.account = RecordAccount(dict.fromkeys(request.dimensions, 0), dict.fromkeys(request.dimensions, 0))
        if wanted.linearised:
            kept = {name: Values() for name in wanted.values_by_unit}
            self.design, self.outer_design = DesignSums(request.design, values=kept), DesignSums(request.design)
        if wanted.replicates:
            self.outer_replicates = ReplicateSums()
        if wanted.calibrated:
            self.calibration = CalibrationSums(request.design)
        if wanted.joint:
            self.joint = JointSums()

    def moments(self, measure: str | None) -> Moments:
        """Sums and squares of a measure in each cell, or of the records themselves."""
        return cast("MeasureSums", self.sums["moments", measure or ""]).sums

    def rate(self, measure: str) -> tuple[Moments, Moments]:
        """The sums of a measure and of what it is divided by, over records that have both."""
        found = cast("RateSums", self.sums["rate", measure])
        return found.above, found.below

    @property
    def values(self) -> dict[str, Values]:
        """The different values of each measure in each cell, as far as they are kept."""
        return {name: cast("ValueSums", one).values for (what, name), one in self.sums.items() if what == "values"}

    def extremes(self, measure: str) -> Extremes:
        """The lowest and highest value of a measure."""
        return cast("ExtremeSums", self.sums["extremes", measure]).extremes

    @property
    def replicates(self) -> ReplicateSums | None:
        """The sums under replicate weights, if there are such."""
        found = self.sums.get(("replicates", ""))
        return None if found is None else cast("ReplicatedSums", found).sums

    @property
    def half_samples(self) -> HalfSamples | None:
        """Which half samples hold the records of each cell, if replicates are such."""
        found = self.sums.get(("half samples", ""))
        return None if found is None else cast("HalfSampleSums", found).samples

    @property
    def rows(self) -> RowTexts | None:
        """The other columns of ready-made figures, where there are such."""
        found = self.sums.get(("texts", ""))
        return None if found is None else cast("TextSums", found).texts

    @property
    def keys(self) -> Integers:
        """Level places of each cell, shape (cells, dimensions)."""
        return self.index.keys

    @property
    def outer_keys(self) -> Integers | None:
        """Level places of each outer cell, shape (cells, outer axes); None where nothing has several answers."""
        return None if self.outer is None else self.outer.keys

    @property
    def outer_axes(self) -> list[int]:
        """The dimensions of outer cells: those with one answer, and those with several that shares are shares of."""
        within = base_axes(self.request, base_of(self.request, self.several))
        return [axis for axis in range(len(self.request.dimensions)) if axis not in self.several or axis in within]

    def serving(self, request: SummaryRequest) -> "Accumulator | None":
        """What these sums are for another request on the same records; None where it needs others.

        Nothing is copied: neither of the two must take in anything more.

        Args:
            request: The other request.
        """
        if request == self.request:
            return self
        fresh = Accumulator(request)
        kept_apart = ("design", "outer_design", "outer_replicates", "joint", "calibration")
        parts = {name: getattr(self, name) for name in kept_apart if getattr(fresh, name) is not None}
        fits = (
            needs_of(request) == needs_of(self.request)
            and request.design == self.request.design
            and set(request.summed) <= set(self.request.summed)
            and fresh.sums.keys() <= self.sums.keys()
            and fresh.wanted.values_by_unit <= self.wanted.values_by_unit
            and None not in parts.values()
        )
        if not fits:
            return None
        fresh.several = self.several
        if self.outer is not None and fresh.outer_axes != self.outer_axes:
            return None
        fresh.index, fresh.outer, fresh.respondents = self.index, self.outer, self.respondents
        fresh.sums = {key: self.sums[key] for key in fresh.sums}
        fresh.account = self.account
        for name, part in parts.items():
            setattr(fresh, name, part)
        return fresh

    def absorb(self, batch: Batch) -> None:
        """Adds a batch of records."""
        with Shared() as shared:
            self._absorb(batch, shared)

    def _absorb(self, batch: Batch, shared: Shared) -> None:
        weights, times, stands = self._amounts(batch)
        rows = self._rows(batch, stands, times)
        row_weights, row_times = rows.column(weights), rows.column(times)
        row_stands = np.asarray(rows.of(stands), dtype=bool)
        codes = rows.codes if stands.all() else [np.where(row_stands, code, np.int32(-1)) for code in rows.codes]
        cells = self.index.place(codes)
        numbers = {name: Column(batch.numbers(name)) for name in self.request.measures}
        used = rows.answered.copy()
        self._count_lost(batch, used, times)
        row_numbers = {name: rows.column_of(column) for name, column in numbers.items()}
        self._count_used(batch.owners, used, numbers, times)
        amounts = Amounts(shared, row_weights, row_times)
        ratios = ratios_of(self.request, self.wanted, row_numbers)
        under_each = [np.asarray(rows.of(batch.numbers(name))) for name in self.wanted.replicates]
        wants_texts = self.rows is not None and not self.several
        texts = {name: batch.texts(name) for name in batch.text_columns} if wants_texts else {}
        block = CellBlock(cells, len(self.index), row_numbers, amounts, ratios, under_each, texts)
        for one in self.sums.values():
            one.absorb(block)
        if self.several:
            self._absorb_respondents(batch, rows, weights, times, shared)
        if self.design is not None:
            repeats = row_times if times is batch.times else rows.column(batch.times)
            self._absorb_design(batch, rows, cells, ratios, Amounts(shared, row_weights, repeats))

    def merge(self, other: "Accumulator", levels: LevelPlaces, design: LevelPlaces) -> None:
        """Adds what another accumulator of the same request has seen.

        Args:
            other: The sums to add.
            levels: For each column read as levels, where each of its level places stands here.
            design: The same for the columns of the survey design.
        """
        cells, outer = self._merge_sums(other, levels)
        places = self._design_places(design)
        if self.design is not None and other.design is not None:
            units = self.design.merge(other.design, cells, places)
            if self.joint is not None and other.joint is not None:
                self.joint.merge(other.joint, units, cells, outer)
            if self.calibration is not None and other.calibration is not None:
                self.calibration.merge(other.calibration, units, cells, self._target_places(design))
        if self.outer_design is not None and other.outer_design is not None and outer is not None:
            self.outer_design.merge(other.outer_design, outer, places)

    def canonical(self, levels: LevelPlaces, design: LevelPlaces) -> "Accumulator":
        """The same sums with levels under other places, and cells, units and pairs in the order of those.

        Where the places depend on the records alone, so does everything in the result, down to the last bit of a sum of
        floats over cells: nothing is left of the order in which batches came or accumulators were merged.
        """
        result = Accumulator(self.request)
        result.index.add(in_order(self._relabelled(self.index.keys, levels)))
        if self.outer is not None:
            result.outer = CellIndex(self.outer.keys.shape[1])
            result.outer.add(in_order(self._outer_relabelled(self.outer.keys, levels)))
        cells, outer = result._merge_sums(self, levels)
        places = self._design_places(design)
        if self.design is not None:
            result.design, units = self.design.canonical(cells, places)
            if self.joint is not None:
                result.joint = self.joint.canonical(units, cells, outer)
            if self.calibration is not None:
                result.calibration = self.calibration.canonical(units, cells, self._target_places(design))
        if self.outer_design is not None and outer is not None:
            result.outer_design, _ = self.outer_design.canonical(outer, places)
        return result

    def _merge_sums(self, other: "Accumulator", levels: LevelPlaces) -> tuple[Integers, Integers | None]:
        """Adds everything but the design; gives where the other's cells and outer cells stand here."""
        cells = self.index.add(self._relabelled(other.index.keys, levels))
        for key, one in self.sums.items():
            one.merge(other.sums[key], cells, len(self.index))
        self.account.merge(other.account)
        if other.outer is None:
            return cells, None
        self.several = other.several
        self.outer = self.outer or CellIndex(other.outer.keys.shape[1])
        outer = self.outer.add(self._outer_relabelled(other.outer.keys, levels))
        self.respondents.merge(other.respondents, outer)
        if self.outer_replicates is not None and other.outer_replicates is not None:
            self.outer_replicates.merge(other.outer_replicates, outer, len(self.outer))
        return cells, outer

    def _relabelled(self, keys: Integers, levels: LevelPlaces) -> Integers:
        """Keys of cells with level places turned into others, shape (cells, dimensions)."""
        return _with_places(keys, [levels[name] for name in self.request.dimensions])

    def _outer_relabelled(self, keys: Integers, levels: LevelPlaces) -> Integers:
        return _with_places(keys, [levels[self.request.dimensions[axis]] for axis in self.outer_axes])

    def _amounts(self, batch: Batch) -> tuple[Floats | None, Integers | None, npt.NDArray[np.bool_]]:
        """The weight of each record, how many records it stands for, and whether it stands for any or anybody."""
        design, times = self.request.design, batch.times
        weights = batch.numbers(design.weight) if design.weight else None
        if self.request.times:
            times = batch.numbers(self.request.times).astype(np.int64) * (1 if times is None else times)
        stands = np.ones(len(batch), dtype=bool)
        for amounts in (weights, times):
            if amounts is not None:
                stands &= amounts > 0
        if weights is not None and not stands.all():
            nobody = ~(weights > 0)
            self.account.weightless += counted(nobody, times)
            if batch.owners is not None:
                self.account.weightless_owners += len(np.unique(batch.owners[nobody]))
        return weights, times, stands

    def _count_lost(self, batch: Batch, used: npt.NDArray[np.bool_], times: Integers | None) -> None:
        """Takes records that fall in no band out of those used, and counts them by column."""
        for name in self.request.dimensions:
            in_no_band = batch.in_no_band(name)
            if in_no_band is not None:
                lost = used & in_no_band
                self.account.lost[name] += counted(lost, times)
                used &= ~lost

    def _count_used(
        self,
        owners: Integers | None,
        used: npt.NDArray[np.bool_],
        numbers: dict[str, Column],
        times: Integers | None,
    ) -> None:
        """Counts the records that stand in the table, whatever is shown of them."""
        counting: dict[Pair | None, npt.NDArray[np.bool_]] = {None: used}
        for name, column in numbers.items():
            counting[name, None] = used & ~np.isnan(column.numbers) if column.has_gaps else used
        for name in self.wanted.rates:
            per = str(self.request.per)
            counting[name, per] = counting[name, None] & counting[per, None]
        add_counts(self.account.used, {key: counted(rows, times) for key, rows in counting.items()})
        if owners is not None:
            add_counts(self.account.owners, {key: len(np.unique(owners[rows])) for key, rows in counting.items()})

    def _design_places(self, design: LevelPlaces) -> list[Integers]:
        """Where strata stand, and clusters stage by stage; a single stratum stays where it is."""
        request, alone = self.request.design, np.zeros(1, dtype=np.int64)
        return [design[request.strata] if request.strata else alone, *(design[name] for name in request.cluster)]

    def _target_places(self, design: LevelPlaces) -> list[Integers]:
        """Where strata stand, and the levels of target columns; a single stratum stays where it is."""
        request = combination_design(self.request.design)
        first = design[request.strata] if request.strata else np.zeros(1, dtype=np.int64)
        return [first, *(design[name] for name in request.cluster)]

    def _rows(self, batch: Batch, stands: npt.NDArray[np.bool_], times: Integers | None) -> Rows:
        names = self.request.dimensions
        self.several = tuple(axis for axis, name in enumerate(names) if batch.has_several(name))
        answered = stands.copy()
        for axis, name in enumerate(names):
            if axis in self.several:
                has_answer = batch.answers(name).answered
            else:
                if not batch.has_gaps(name):
                    continue
                has_answer = batch.codes(name) >= 0
            self.account.unanswered[name] += counted(answered & ~has_answer, times)
            answered &= has_answer
        owners, row_codes = coded(batch, names, range(len(names)), self.several)
        return Rows(owners, row_codes, answered)

    def _absorb_respondents(
        self, batch: Batch, rows: Rows, weights: Floats | None, times: Integers | None, shared: Shared
    ) -> None:
        """Counts each record that answered once for each base it is part of, whatever it answered."""
        cells, owners = self._outer_cells(batch, rows)
        if self.outer is not None:
            weight, repeats = (None if one is None else Column(one[owners].astype(float)) for one in (weights, times))
            self.respondents.absorb(cells, len(self.outer), None, Amounts(shared, weight, repeats))
            if self.outer_replicates is not None:
                under_each = [batch.numbers(name)[owners] for name in self.wanted.replicates]
                self.outer_replicates.absorb(cells, len(self.outer), {COUNT: (None, None)}, under_each)

    def _absorb_design(self, batch: Batch, rows: Rows, cells: Cells, ratios: Ratios, amounts: Amounts) -> None:
        if self.design is None or self.outer_design is None:
            return
        units = self.design.place(batch, len(self.index))
        row_units = np.asarray(rows.of(units), dtype=np.int64)
        self.design.absorb(row_units, cells, ratios, amounts)
        if self.calibration is not None and batch.owners is None and not self.several:
            everyone = self.design.place_known(batch)
            self.calibration.absorb(batch, everyone, cells, ratios, amounts)
        times = None if batch.times is None else np.asarray(rows.of(batch.times), dtype=np.int64)
        joined = [JointRows(rows.records(batch.owners), row_units, cells, amounts.weights, times)]
        if self.several:
            outer_cells, owners = self._outer_cells(batch, rows)
            named = self.request.design.weight
            weight = Column(batch.numbers(named)[owners]) if named else None
            outer_units = self.outer_design.place(batch, 0 if self.outer is None else len(self.outer))[owners]
            outer_times = None if batch.times is None else batch.times[owners].astype(np.int64)
            repeats = None if outer_times is None else Column(outer_times.astype(np.float64))
            self.outer_design.absorb(
                outer_units, outer_cells, {COUNT: (None, None)}, Amounts(amounts.shared, weight, repeats)
            )
            records = owners if batch.owners is None else batch.owners[owners]
            joined.append(JointRows(records, outer_units, outer_cells, weight, outer_times))
        may_meet = batch.owners is not None or self.wanted.tested  # answers of one record never meet in one cell
        if self.joint is not None and may_meet:
            self.joint.absorb(joined, ratios)

    def _outer_cells(self, batch: Batch, rows: Rows) -> tuple[Cells, Integers]:
        """The outer cell of each record that answered, once for each base it is part of, and which record it is."""
        axes = self.outer_axes
        if self.outer is None:
            self.outer = CellIndex(max(len(axes), 1))
        found, codes = coded(batch, self.request.dimensions, axes, self.several)
        owners = np.arange(len(batch)) if found is None else found
        answered = rows.answered[owners]
        codes = [np.where(answered, column, np.int32(-1)) for column in codes]
        return self.outer.place(codes or [np.where(answered, np.int32(0), np.int32(-1))]), owners


def _with_places(keys: Integers, places: Sequence[Integers]) -> Integers:
    """Each column of some keys turned into other places; a column without places stays."""
    columns = [place[column] for place, column in zip(places, keys.T, strict=False)]
    return np.column_stack([*columns, *keys.T[len(columns) :]]) if len(keys) else keys
