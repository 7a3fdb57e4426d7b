"""One pass over typed batches: the sums of everything a request asks for."""

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from grainstack.records.batch import Batch, Needs
from grainstack.summary.cells import CellIndex
from grainstack.summary.moments import Floats, Integers, Moments
from grainstack.summary.request import SummaryRequest
from grainstack.summary.values import Values

_VALUES_FOR_ADVICE = 5_000


def needs_of(request: SummaryRequest) -> Needs:
    """The columns a request reads."""
    return Needs(
        levels=request.dimensions,
        numbers=request.measures,
        weights=(request.weight,) if request.weight else (),
        times=(request.times,) if request.times else (),
    )


@dataclass(frozen=True, slots=True)
class Totals:
    """The sums of all records seen.

    Attributes:
        request: What they were made for.
        keys: Level places of each cell as the batches coded them, shape (cells, dimensions).
        counts: Records and weight of each cell; a record with several answers counts in several cells.
        measures: The sums of each measure in each cell.
        values: The different values of each measure in each cell, as far as they were kept.
        unanswered: For each column, the records that stop there for want of an answer.
        several: The axes of questions with several answers.
        respondents: Where there are such: keys without those axes, and the records that answered, each counted once.
    """

    request: SummaryRequest
    keys: Integers
    counts: Moments
    measures: dict[str, Moments]
    values: dict[str, Values]
    unanswered: dict[str, int]
    several: tuple[int, ...]
    respondents: tuple[Integers, Moments] | None


@dataclass(frozen=True, slots=True)
class _Rows:
    """The records of a batch as rows of the table: one each, or one per answer.

    Attributes:
        owners: The record of each row; None when every record is one row.
        codes: For each dimension the level of each row.
        answered: Whether a record has an answer in every dimension, shape (records,).
    """

    owners: Integers | None
    codes: list[npt.NDArray[np.int32]]
    answered: npt.NDArray[np.bool_]

    def of(self, numbers: Floats | None) -> Floats | None:
        """A column of the records, row by row."""
        return numbers if numbers is None or self.owners is None else numbers[self.owners]


@dataclass(slots=True)
class Accumulator:
    """Absorbs batches, merges with another of the same request, and gives its sums at the end."""

    request: SummaryRequest
    index: CellIndex = field(init=False)
    counts: Moments = field(default_factory=Moments)
    measures: dict[str, Moments] = field(init=False)
    values: dict[str, Values] = field(init=False)
    unanswered: dict[str, int] = field(init=False)
    several: tuple[int, ...] = ()
    outer: CellIndex | None = None
    respondents: Moments = field(default_factory=Moments)

    def __post_init__(self) -> None:
        request = self.request
        self.index = CellIndex(len(request.dimensions))
        self.measures = {name: Moments() for name in request.measures}
        self.values = {name: Values(most=_VALUES_FOR_ADVICE) for name in request.measure}
        self.unanswered = dict.fromkeys([*request.dimensions, *request.measures], 0)

    def absorb(self, batch: Batch) -> None:
        """Adds a batch of records."""
        request = self.request
        weights = batch.numbers(request.weight) if request.weight else None
        times = batch.numbers(request.times).astype(np.int64) if request.times else None
        rows = self._rows(batch, times)
        cells = self.index.place(rows.codes)
        row_weights, row_times = rows.of(weights), rows.of(times)  # type: ignore[arg-type]
        self.counts.absorb(cells, len(self.index), None, row_weights, row_times)  # type: ignore[arg-type]
        for name, moments in self.measures.items():
            numbers = batch.numbers(name)
            self.unanswered[name] += _counted(rows.answered & np.isnan(numbers), times)
            row_numbers = rows.of(numbers)
            moments.absorb(cells, len(self.index), row_numbers, row_weights, row_times)  # type: ignore[arg-type]
            if name in self.values:
                self.values[name].absorb(cells, row_numbers, row_weights, row_times)  # type: ignore[arg-type]
        if self.several:
            self._absorb_respondents(batch, rows, weights, times)

    def merge(self, other: "Accumulator") -> None:
        """Adds what another accumulator of the same request has seen, coded against the same level lists."""
        places = self.index.add(other.index.keys)
        self.counts.merge(other.counts, places)
        for name, moments in self.measures.items():
            moments.merge(other.measures[name], places)
        for name, values in self.values.items():
            values.merge(other.values[name], places)
        for name, count in other.unanswered.items():
            self.unanswered[name] += count
        if other.outer is not None:
            self.several = other.several
            if self.outer is None:
                self.outer = CellIndex(other.outer.keys.shape[1])
            self.respondents.merge(other.respondents, self.outer.add(other.outer.keys))

    def finish(self) -> Totals:
        """The sums of everything absorbed and merged."""
        respondents = (self.outer.keys, self.respondents) if self.outer is not None else None
        return Totals(
            self.request,
            self.index.keys,
            self.counts,
            self.measures,
            self.values,
            self.unanswered,
            self.several,
            respondents,
        )

    def _rows(self, batch: Batch, times: Integers | None) -> _Rows:
        names = self.request.dimensions
        self.several = tuple(axis for axis, name in enumerate(names) if batch.has_several(name))
        answered = np.ones(len(batch), dtype=bool)
        owners: Integers = np.arange(len(batch))
        codes: dict[int, npt.NDArray[np.int32]] = {}
        for axis, name in enumerate(names):
            if axis in self.several:
                answers = batch.answers(name)
                owners, kept = _exploded(owners, answers.owners)
                codes = {other: column[kept[0]] for other, column in codes.items()}
                codes[axis] = answers.codes[kept[1]]
                has_answer = answers.answered
            else:
                column = batch.codes(name)
                codes[axis] = column[owners]
                has_answer = column >= 0
            self.unanswered[name] += _counted(answered & ~has_answer, times)
            answered &= has_answer
        return _Rows(owners if self.several else None, [codes[axis] for axis in range(len(names))], answered)

    def _absorb_respondents(self, batch: Batch, rows: _Rows, weights: Floats | None, times: Integers | None) -> None:
        """Counts each record that answered once, whatever it answered."""
        names = [name for axis, name in enumerate(self.request.dimensions) if axis not in self.several]
        if self.outer is None:
            self.outer = CellIndex(max(len(names), 1))
        codes = [np.where(rows.answered, batch.codes(name), -1) for name in names]
        cells = self.outer.place(codes or [np.where(rows.answered, 0, -1)])
        self.respondents.absorb(cells, len(self.outer), None, weights, times)


def _exploded(owners: Integers, answer_owners: Integers) -> tuple[Integers, tuple[Integers, Integers]]:
    """Rows multiplied by the answers of their record.

    Returns:
        The record of each new row; and for each the old row and the answer it comes from.
    """
    starts = np.searchsorted(answer_owners, owners, side="left")
    counts = np.searchsorted(answer_owners, owners, side="right") - starts
    old_rows = np.repeat(np.arange(len(owners)), counts)
    within = np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)
    return owners[old_rows], (old_rows, np.repeat(starts, counts) + within)


def _counted(mask: npt.NDArray[np.bool_], times: Integers | None) -> int:
    return int(mask.sum() if times is None else times[mask].sum())
