"""Columns of numbers or dates read as bands."""

import numpy as np
import pyarrow as pa

from grainstack.records.arrow import level_column, places_of
from grainstack.records.bands import DateBands, NumberBands
from grainstack.records.codebook import CodebookVariable
from grainstack.records.reading import NumberReader
from grainstack.records.values import Strays, as_texts
from grainstack.records.variable import NO_BAND, Kind, LevelOrder, Variable


class BandedNumbers:
    """Reads a column of numbers as bands."""

    def __init__(self, said: CodebookVariable, bands: NumberBands, decimal: str = ".") -> None:
        self.raw: tuple[str, ...] = (said.name,)
        self._numbers = NumberReader(said, decimal)
        self._said = said
        self._bands = bands
        self.strays: Strays = []

    def read(self, batch: pa.RecordBatch) -> pa.Array:
        """The column, dictionary-coded over the bands; `strays` then tells where other text stands."""
        numbers, self.strays = self._numbers.read(batch)
        places = self._bands.place(numbers)
        return level_column(places, self.codes())

    def variable(self) -> Variable:
        """What is known of it; values in no band are among its levels and told apart by `NO_BAND`."""
        levels = self._bands.levels()
        if NO_BAND.code in self._bands.codes:
            levels = (*levels, NO_BAND)
        label, unit = self._said.label, self._said.unit
        return Variable(
            self._said.name, Kind.ORDERED, label, unit, levels, LevelOrder.BANDS, outside=self._bands.outside
        )

    def codes(self) -> tuple[str, ...]:
        """The codes its dictionary places stand for."""
        return self._bands.codes


class BandedDates:
    """Reads a column of dates as months, quarters, years or weekdays."""

    def __init__(self, said: CodebookVariable, bands: DateBands) -> None:
        self.raw: tuple[str, ...] = (said.name,)
        self._said = said
        self._bands = bands
        self.strays: Strays = []

    def read(self, batch: pa.RecordBatch) -> pa.Array:
        """The column, dictionary-coded over the bands; `strays` then tells where something else stands."""
        values = as_texts(batch.column(self._said.name), self._said.name)
        texts = [text or "" for text in values.dictionary.to_pylist()]
        own = [-1 if self._said.is_missing(text.strip()) else self._bands.own_place(text) for text in texts]
        places = places_of(values)
        wrong = [index for index, place in enumerate(own) if place is None]
        self.strays = [(int(record), texts[places[record]]) for record in np.flatnonzero(np.isin(places, wrong))]
        lookup = np.array([-1 if place is None else place for place in own] + [-1], dtype=np.int32)
        return level_column(lookup[places], self.codes())

    def variable(self) -> Variable:
        """What is known of it."""
        return Variable(self._said.name, Kind.ORDERED, self._said.label, "", self._bands.levels(), LevelOrder.BANDS)

    def codes(self) -> tuple[str, ...]:
        """The codes its dictionary places stand for."""
        return self._bands.codes
