"""One pass over typed batches: the sums of everything a request asks for."""

from dataclasses import dataclass, field

import numpy as np

from grainstack.records.batch import Batch, Needs
from grainstack.summary.cells import CellIndex
from grainstack.summary.moments import Integers, Moments
from grainstack.summary.request import SummaryRequest


def needs_of(request: SummaryRequest) -> Needs:
    """The columns a request reads."""
    return Needs(levels=request.dimensions, numbers=request.measure)


@dataclass(frozen=True, slots=True)
class Totals:
    """The sums of all records seen.

    Attributes:
        request: What they were made for.
        keys: Level places of each cell as the batches coded them, shape (cells, dimensions).
        counts: Records and weight of each cell.
        measures: The sums of each measure in each cell.
        unanswered: For each column, the records that stop there for want of an answer.
    """

    request: SummaryRequest
    keys: Integers
    counts: Moments
    measures: dict[str, Moments]
    unanswered: dict[str, int]


@dataclass(slots=True)
class Accumulator:
    """Absorbs batches, merges with another of the same request, and gives its sums at the end."""

    request: SummaryRequest
    index: CellIndex = field(init=False)
    counts: Moments = field(default_factory=Moments)
    measures: dict[str, Moments] = field(init=False)
    unanswered: dict[str, int] = field(init=False)

    def __post_init__(self) -> None:
        self.index = CellIndex(len(self.request.dimensions))
        self.measures = {name: Moments() for name in self.request.measure}
        self.unanswered = dict.fromkeys([*self.request.dimensions, *self.request.measure], 0)

    def absorb(self, batch: Batch) -> None:
        """Adds a batch of records."""
        codes = {name: batch.codes(name) for name in self.request.dimensions}
        answered = np.ones(len(batch), dtype=bool)
        for name, code in codes.items():
            missing = answered & (code < 0)
            self.unanswered[name] += int(missing.sum())
            answered &= ~missing
        cells = self.index.place(list(codes.values()))
        self.counts.absorb(cells, len(self.index))
        for name, moments in self.measures.items():
            values = batch.numbers(name)
            self.unanswered[name] += int((answered & np.isnan(values)).sum())
            moments.absorb(cells, len(self.index), values)

    def merge(self, other: "Accumulator") -> None:
        """Adds what another accumulator of the same request has seen, coded against the same level lists."""
        places = self.index.add(other.index.keys)
        self.counts.merge(other.counts, places)
        for name, moments in self.measures.items():
            moments.merge(other.measures[name], places)
        for name, count in other.unanswered.items():
            self.unanswered[name] += count

    def finish(self) -> Totals:
        """The sums of everything absorbed and merged."""
        return Totals(self.request, self.index.keys, self.counts, self.measures, self.unanswered)
