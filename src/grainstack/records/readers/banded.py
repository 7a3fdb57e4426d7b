"""Columns of numbers or dates read as bands."""

import numpy as np
import pyarrow as pa
from msgspec.structs import replace

from grainstack.records.arrow import Numbers, level_column, places_of
from grainstack.records.codebook.codebook import CodebookVariable
from grainstack.records.numerals import NumberForm
from grainstack.records.readers.bands import BandRule, DateBands, NumberBands
from grainstack.records.readers.levels import Rows
from grainstack.records.readers.plain import Coding, LevelReader, NumberReader, Places
from grainstack.records.readers.widths import auto_width
from grainstack.records.values import Strays, as_texts
from grainstack.records.variable import (
    NO_ANSWER_CODE,
    NO_BAND_CODE,
    Kind,
    LevelOrder,
    Variable,
    no_answer,
    no_band,
    readable,
)

_MOST_VALUES = 50_000  # different values kept for a width by rule; beyond that they are kept on a grid
_FINEST = -12  # the power of ten of the finest grid
_NOISE = 1e-12  # a value as near as this to a grid line, relative to its size, stands on it


class BandedNumbers:
    """Reads a column of numbers as bands."""

    steady = False
    by_frequency = False

    def __init__(self, variable: CodebookVariable, bands: NumberBands, decimal: str = ".") -> None:
        self.raw: tuple[str, ...] = (variable.name,)
        self._numbers = NumberReader(variable, NumberForm(decimal))
        self._variable = variable
        self.bands = bands

    def read(self, batch: pa.RecordBatch, rows: Rows) -> tuple[pa.Array, Strays]:
        """The column, dictionary-coded over the bands."""
        numbers, strays = self._numbers.read(batch)
        return level_column(self.bands.place(numbers, rows), self.bands.codes), strays

    def variable(self) -> Variable:
        """What is known of it; values in no band are among its levels and told apart by their role."""
        return _banded(self._variable, self.bands)

    def coding(self) -> Coding:
        """What its dictionary places stand for."""
        return _coding(self.bands)

    def merge(self, other: "BandedNumbers") -> Places:
        """Learns the bands of another reader."""
        return self.bands.merge(other.bands)


class AutoBandedNumbers:
    """Reads a column of numbers as bands whose width is chosen once all of them are known.

    Until then every different value is a level of its own. Where there are too many, values are put together on a grid
    of a power of ten, the finest on which they are few enough: it depends on the records alone, not on their order.
    Records that are read again, to be written, are not counted again: the width must not change between.
    """

    steady = False
    by_frequency = True

    def __init__(self, variable: CodebookVariable, rule: BandRule, decimal: str = ".") -> None:
        self.raw: tuple[str, ...] = (variable.name,)
        self._numbers = NumberReader(variable, NumberForm(decimal))
        self._variable = variable
        self._rule = rule
        self.values: dict[float, int] = {}
        self.counts: list[int] = []
        self.counted: set[int] = set()  # the first records of the batches read
        self.power: int | None = None
        self.whole = True

    def read(self, batch: pa.RecordBatch, rows: Rows) -> tuple[pa.Array, Strays]:
        """The column, dictionary-coded over the values met."""
        numbers, strays = self._numbers.read(batch)
        known = ~np.isnan(numbers)
        self.whole = self.whole and bool((numbers[known] == np.round(numbers[known])).all())
        different, back, counts = np.unique(self._on_grid(numbers[known]), return_inverse=True, return_counts=True)
        if rows.first in self.counted:
            counts[:] = 0
        self.counted.add(rows.first)
        mine = [self._add(value, count) for value, count in zip(different.tolist(), counts.tolist(), strict=True)]
        places = np.full(len(numbers), -1, dtype=np.int32)
        places[known] = np.array(mine, dtype=np.int32)[back.reshape(-1)]
        self._coarsen()
        return level_column(places, tuple(map(str, range(len(self.values))))), strays

    def variable(self) -> Variable:
        """What is known of it: the bands of a round width."""
        return _banded(self._variable, self._cut()[0])

    def coding(self) -> Coding:
        """The band of each value met."""
        bands, places = self._cut()
        return Coding(bands.codes, places)

    def merge(self, other: "AutoBandedNumbers") -> Places:
        """Learns the values of another reader."""
        self.whole = self.whole and other.whole
        self.counted |= other.counted
        if other.power is not None:
            self.power = max(other.power, other.power if self.power is None else self.power)
        places = [self._add(value, count) for value, count in zip(other.values, other.counts, strict=True)]
        self._coarsen()
        return np.array(places, dtype=np.int64)

    def _add(self, value: float, count: int) -> int:
        place = self.values.setdefault(value, len(self.values))
        if place == len(self.counts):
            self.counts.append(0)
        self.counts[place] += count
        return place

    def _on_grid(self, numbers: Numbers) -> Numbers:
        """Numbers as they are kept: themselves, or the grid line below them."""
        if self.power is None:
            return numbers + 0.0
        unit = 10.0**self.power
        steps = numbers / unit
        near = np.round(steps)
        on_line = np.abs(steps - near) < _NOISE * np.maximum(1, np.abs(near))
        return np.asarray(np.where(on_line, near, np.floor(steps)) * unit)

    def _coarsen(self) -> None:
        """Takes a coarser grid while the values on it are too many; values met before keep their places."""
        while (
            len(self.values) > _MOST_VALUES
            and len(np.unique(self._on_grid(np.array(list(self.values))))) > _MOST_VALUES
        ):
            self.power = _FINEST if self.power is None else self.power + 1

    def _cut(self) -> tuple[NumberBands, Places]:
        """The bands by a width for all values, and the place of the band of each value met."""
        values = self._on_grid(np.array(list(self.values), dtype=np.float64))
        different, back = np.unique(values, return_inverse=True)
        counts = np.bincount(back.reshape(-1), np.array(self.counts, dtype=np.float64), len(different))
        width = auto_width(different, counts) if len(different) else 1.0
        bands = NumberBands(replace(self._rule, by="", width=width))
        places = bands.place(different, Rows(0))
        bands.whole = self.whole
        return bands, np.asarray(places[back.reshape(-1)], dtype=np.int64)


class BandedDates:
    """Reads a column of dates as months, quarters, years or weekdays."""

    steady = False
    by_frequency = False

    def __init__(self, variable: CodebookVariable, bands: DateBands) -> None:
        self.raw: tuple[str, ...] = (variable.name,)
        self._variable = variable
        self.bands = bands

    def read(self, batch: pa.RecordBatch, rows: Rows) -> tuple[pa.Array, Strays]:  # noqa: ARG002 - as every reader
        """The column, dictionary-coded over the bands."""
        values = as_texts(batch.column(self._variable.name), self._variable.name)
        texts = [text or "" for text in values.dictionary.to_pylist()]
        mine = [-1 if self._variable.is_missing(text.strip()) else self.bands.place_of(text) for text in texts]
        places = places_of(values)
        wrong = [index for index, place in enumerate(mine) if place is None]
        strays = [(int(record), texts[places[record]]) for record in np.flatnonzero(np.isin(places, wrong))]
        lookup = np.array([-1 if place is None else place for place in mine] + [-1], dtype=np.int32)
        return level_column(lookup[places], self.bands.codes), strays

    def variable(self) -> Variable:
        """What is known of it."""
        known = self._variable
        return Variable(known.name, Kind.ORDERED, known.label, "", self.bands.levels(), LevelOrder.BANDS)

    def coding(self) -> Coding:
        """What its dictionary places stand for."""
        return _coding(self.bands)

    def merge(self, other: "BandedDates") -> Places:
        """Learns the bands of another reader."""
        return self.bands.merge(other.bands)


class WithNoAnswer:
    """Reads a column as bands, and what has no answer as a level of its own.

    That level has the first dictionary place, so that it keeps it while bands are added.

    Attributes:
        banded: What reads the bands.
        met: Whether any record has no answer.
    """

    steady = False

    def __init__(self, banded: LevelReader) -> None:
        self.raw = banded.raw
        self.banded = banded
        self.by_frequency = banded.by_frequency
        self.met = False

    def read(self, batch: pa.RecordBatch, rows: Rows) -> tuple[pa.Array, Strays]:
        """The column, dictionary-coded over no answer and the bands."""
        column, strays = self.banded.read(batch, rows)
        places = places_of(column) + 1
        self.met = self.met or bool((places == 0).any())
        return level_column(places.astype(np.int32), (NO_ANSWER_CODE, *column.dictionary.to_pylist())), strays

    def variable(self) -> Variable:
        """What is known of it; no answer stands behind the bands."""
        variable = self.banded.variable()
        return variable.with_levels((*variable.levels, no_answer()), variable.order) if self.met else variable

    def coding(self) -> Coding:
        """What its dictionary places stand for."""
        coding = self.banded.coding()
        if not self.met:
            return Coding(coding.codes, np.concatenate([[-1], coding.ranks]).astype(np.int64))
        last = len(coding.codes)
        return Coding((*coding.codes, NO_ANSWER_CODE), np.concatenate([[last], coding.ranks]).astype(np.int64))

    def merge(self, other: "WithNoAnswer") -> Places:
        """Learns the bands of another reader."""
        self.met = self.met or other.met
        return np.concatenate([[0], self.banded.merge(other.banded) + 1]).astype(np.int64)


class Named:
    """Reads a column under another name."""

    steady = False

    def __init__(self, reader: LevelReader, name: str) -> None:
        self.raw = reader.raw
        self.reader = reader
        self.by_frequency = reader.by_frequency
        self._name = name

    def read(self, batch: pa.RecordBatch, rows: Rows) -> tuple[pa.Array, Strays]:
        """The column, dictionary-coded."""
        return self.reader.read(batch, rows)

    def variable(self) -> Variable:
        """What is known of it, under its new name."""
        return replace(self.reader.variable(), name=self._name, label=readable(self._name))

    def coding(self) -> Coding:
        """What its dictionary places stand for."""
        return self.reader.coding()

    def merge(self, other: "Named") -> Places:
        """Learns the levels of another reader."""
        return self.reader.merge(other.reader)


def _banded(variable: CodebookVariable, bands: NumberBands) -> Variable:
    levels = bands.levels()
    if NO_BAND_CODE in bands.codes:
        levels = (*levels, no_band())
    return Variable(
        variable.name,
        Kind.ORDERED,
        variable.label,
        variable.unit,
        levels,
        LevelOrder.BANDS,
        outside=bands.outside,
    )


def _coding(bands: NumberBands | DateBands) -> Coding:
    """Bands in the order of their edges, which no order of records changes."""
    codes = bands.codes
    order = bands.order()
    ranks = np.zeros(len(order), dtype=np.int64)
    ranks[order] = np.arange(len(order))
    return Coding(tuple(codes[place] for place in order), ranks)
