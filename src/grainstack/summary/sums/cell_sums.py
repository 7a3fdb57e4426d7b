"""The sums kept of every cell: each takes a block of rows, merges with its like, and is found by its key.

A new one is a class here and a line in `cell_sums_for`.
"""

from collections.abc import Mapping, Sequence
from typing import Any, Protocol, Self

import numpy as np
from msgspec import Struct

from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.sums.cell_index import Cells
from grainstack.summary.sums.design import COUNT, Pair, Ratios
from grainstack.summary.sums.exact import Floats, Integers
from grainstack.summary.sums.extremes import Extremes
from grainstack.summary.sums.factors import Amounts, Column
from grainstack.summary.sums.half_samples import HalfSamples
from grainstack.summary.sums.moments import Moments
from grainstack.summary.sums.replicates import ReplicateSums
from grainstack.summary.sums.row_texts import RowTexts
from grainstack.summary.sums.values import Values
from grainstack.summary.sums.wanted import Wanted

SumKey = tuple[str, str]  # which sum, and of which measure; empty for none
_VALUES_FOR_ADVICE = 5_000


class CellBlock(Struct, frozen=True):
    """Rows of a batch, ready to be summed up.

    Attributes:
        cells: The cell of each row, shape (rows,); negative ones are in none.
        count: How many cells are known by now.
        numbers: The numbers of each measure.
        amounts: How much each row weighs, and how many records it stands for.
        ratios: Numerator and denominator of everything that is a ratio.
        replicate_weights: Each replicate's weights, shape (rows,) each.
        texts: The texts of every other column; empty where they are not wanted.
    """

    cells: Cells
    count: int
    numbers: Mapping[str, Column]
    amounts: Amounts
    ratios: Ratios
    replicate_weights: list[Floats]
    texts: Mapping[str, Sequence[str]]


class CellSum(Protocol):
    """A sum kept of every cell. It pickles."""

    def absorb(self, block: CellBlock) -> None:
        """Adds rows."""

    def merge(self, other: Any, places: Integers, count: int) -> None:  # noqa: ANN401 - of its own class
        """Adds another; `places` says where each of its cells stands here, of `count` cells there are by now."""


class MeasureSums(Struct):
    """Sums and squares of a measure, or of the records themselves."""

    measure: str
    sums: Moments

    def absorb(self, block: CellBlock) -> None:
        """Adds rows."""
        self.sums.absorb(block.cells, block.count, block.numbers[self.measure] if self.measure else None, block.amounts)

    def merge(self, other: Self, places: Integers, count: int) -> None:  # noqa: ARG002 - as every sum
        """Adds another."""
        self.sums.merge(other.sums, places)


class RateSums(Struct):
    """The sums of a measure and of what it is divided by, over records that have both."""

    measure: str
    per: str
    above: Moments
    below: Moments

    def absorb(self, block: CellBlock) -> None:
        """Adds rows."""
        divided, divisor = block.numbers[self.measure], block.numbers[self.per]
        self.above.absorb(block.cells, block.count, _where_both(divided, divisor), block.amounts)
        self.below.absorb(block.cells, block.count, _where_both(divisor, divided), block.amounts)

    def merge(self, other: Self, places: Integers, count: int) -> None:  # noqa: ARG002 - as every sum
        """Adds another."""
        self.above.merge(other.above, places)
        self.below.merge(other.below, places)


class ValueSums(Struct):
    """The different values of a measure, as far as they are kept."""

    measure: str
    values: Values

    def absorb(self, block: CellBlock) -> None:
        """Adds rows."""
        self.values.absorb(block.cells, block.numbers[self.measure], block.amounts.weights, block.amounts.times)

    def merge(self, other: Self, places: Integers, count: int) -> None:  # noqa: ARG002 - as every sum
        """Adds another."""
        self.values.merge(other.values, places)


class ExtremeSums(Struct):
    """The lowest and highest value of a measure."""

    measure: str
    extremes: Extremes

    def absorb(self, block: CellBlock) -> None:
        """Adds rows."""
        self.extremes.absorb(block.cells, block.count, block.numbers[self.measure].numbers)

    def merge(self, other: Self, places: Integers, count: int) -> None:  # noqa: ARG002 - as every sum
        """Adds another."""
        self.extremes.merge(other.extremes, places)


class ReplicatedSums(Struct):
    """The sums under replicate weights."""

    sums: ReplicateSums

    def absorb(self, block: CellBlock) -> None:
        """Adds rows."""
        self.sums.absorb(block.cells, block.count, block.ratios, block.replicate_weights)

    def merge(self, other: Self, places: Integers, count: int) -> None:
        """Adds another."""
        self.sums.merge(other.sums, places, count)


class HalfSampleSums(Struct):
    """Which half samples hold the records of each cell."""

    samples: HalfSamples

    def absorb(self, block: CellBlock) -> None:
        """Adds rows."""
        weights = block.amounts.weights
        self.samples.absorb(block.cells, None if weights is None else weights.numbers, block.replicate_weights)

    def merge(self, other: Self, places: Integers, count: int) -> None:  # noqa: ARG002 - as every sum
        """Adds another."""
        self.samples.merge(other.samples, places)


class TextSums(Struct):
    """The other columns of ready-made figures, for telling rows of one cell apart."""

    texts: RowTexts

    def absorb(self, block: CellBlock) -> None:
        """Adds rows."""
        if block.texts:
            self.texts.absorb(block.cells, block.texts)

    def merge(self, other: Self, places: Integers, count: int) -> None:  # noqa: ARG002 - as every sum
        """Adds another."""
        self.texts.merge(other.texts, places)


def cell_sums_for(request: SummaryRequest, wanted: Wanted) -> dict[SumKey, CellSum]:
    """The sums that a request needs of every cell, by what they are and of what."""
    sums: dict[SumKey, CellSum] = {("moments", ""): MeasureSums("", Moments())}
    sums |= {("moments", name): MeasureSums(name, Moments()) for name in request.measures}
    sums |= {("rate", name): RateSums(name, str(request.per), Moments(), Moments()) for name in wanted.rates}
    for name in request.summed:
        most = None if name in wanted.values else _VALUES_FOR_ADVICE
        sums["values", name] = ValueSums(name, Values(most=most))
    sums |= {("extremes", name): ExtremeSums(name, Extremes()) for name in sorted(wanted.extremes)}
    if wanted.replicates:
        sums["replicates", ""] = ReplicatedSums(ReplicateSums(values={name: [] for name in wanted.values_by_unit}))
    if wanted.half_samples:
        sums["half samples", ""] = HalfSampleSums(HalfSamples())
    if request.value:
        sums["texts", ""] = TextSums(RowTexts())
    return sums


def ratios_of(request: SummaryRequest, wanted: Wanted, numbers: Mapping[str, Column]) -> Ratios:
    """Numerator and denominator of everything that is a ratio, row by row."""
    ratios: dict[Pair, tuple[Column | None, Column | None]] = {COUNT: (None, None)}
    ratios |= {(name, None): (numbers[name], None) for name in request.summed}
    return ratios | {(name, request.per): (numbers[name], numbers[str(request.per)]) for name in wanted.rates}


def _where_both(column: Column, other: Column) -> Column:
    """A column, with gaps where another has some."""
    return Column(np.where(np.isnan(other.numbers), np.nan, column.numbers)) if other.has_gaps else column
