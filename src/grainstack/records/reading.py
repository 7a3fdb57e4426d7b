"""How one column of a task is read from raw batches: as levels, as bands, as several answers, or as numbers."""

from collections.abc import Sequence
from typing import Protocol

import numpy as np
import pyarrow as pa

from grainstack.errors import RecordsError, listed
from grainstack.records.arrow import Codes, Numbers, level_column, level_lists, places_of
from grainstack.records.bands import DateBands, NumberBands
from grainstack.records.codebook import CodebookVariable
from grainstack.records.levels import LevelList
from grainstack.records.values import Strays, as_numbers, as_texts
from grainstack.records.variable import NO_BAND, Kind, LevelOrder, Variable

_CHOSEN = frozenset(("1", "1.0", "yes", "true", "x", "ja", "oui", "y"))
_NOT_CHOSEN = frozenset(("0", "0.0", "no", "false", "nein", "non", "n"))


class LevelReader(Protocol):
    """Reads a column as categories.

    Attributes:
        raw: The columns of the source it needs.
    """

    raw: tuple[str, ...]

    def read(self, batch: pa.RecordBatch) -> pa.Array:
        """The column, dictionary-coded over the levels found so far, or lists of such for several answers."""

    def variable(self) -> Variable:
        """What is known of it once every record was read; levels in natural order, empty ones included."""

    def codes(self) -> tuple[str, ...]:
        """The codes its dictionary places stand for."""


class NumberReader:
    """Reads a column as numbers; codes for `no answer` become NaN."""

    def __init__(self, said: CodebookVariable, decimal: str = ".") -> None:
        self.raw = (said.name,)
        self._said = said
        self._decimal = decimal
        self._missing = [float(code) for code in said.missing if _is_number(code)]

    def read(self, batch: pa.RecordBatch) -> tuple[Numbers, Strays]:
        """The numbers, shape (records,), and where other text stands (record, text)."""
        column = batch.column(self._said.name)
        numbers, strays = as_numbers(column, self._said.name, self._decimal)
        if self._missing:
            numbers = np.where(np.isin(numbers, self._missing), np.nan, numbers)
        return numbers, [(record, text) for record, text in strays if not self._said.is_missing(text.strip())]

    def variable(self) -> Variable:
        """What is known of it."""
        return Variable(self._said.name, Kind.NUMBER, self._said.label, self._said.unit)


class PlainLevels:
    """Reads a column as the levels its values stand for."""

    def __init__(self, said: CodebookVariable, levels: LevelList) -> None:
        self.raw: tuple[str, ...] = (said.name,)
        self.levels = levels
        self._said = said

    def read(self, batch: pa.RecordBatch) -> pa.Array:
        """The column, dictionary-coded."""
        codes = self.levels.encode(as_texts(batch.column(self._said.name), self._said.name))
        return level_column(codes, self.levels.codes)

    def variable(self) -> Variable:
        """What is known of it."""
        levels, order = self.levels.ordered()
        return Variable(
            self._said.name, self._said.kind or Kind.CATEGORY, self._said.label, self._said.unit, levels, order
        )

    def codes(self) -> tuple[str, ...]:
        """The codes its dictionary places stand for."""
        return self.levels.codes


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


class SeparatedAnswers:
    """Reads a column whose values hold several answers, such as `cafe;lounge`."""

    def __init__(self, said: CodebookVariable, levels: LevelList) -> None:
        self.raw: tuple[str, ...] = (said.name,)
        self._said = said
        self.levels = levels

    def read(self, batch: pa.RecordBatch) -> pa.Array:
        """A list of levels for each record, each level once; null where the question was not answered."""
        values = as_texts(batch.column(self._said.name), self._said.name)
        own = [self._places(text or "") for text in values.dictionary.to_pylist()]
        return answer_lists([*own, None], places_of(values), self.levels.codes)

    def variable(self) -> Variable:
        """What is known of it."""
        levels, order = self.levels.ordered()
        return Variable(self._said.name, Kind.MULTI, self._said.label, "", levels, order)

    def codes(self) -> tuple[str, ...]:
        """The codes its dictionary places stand for."""
        return self.levels.codes

    def _places(self, text: str) -> list[int] | None:
        parts = [part for part in text.split(self._said.separator) if part.strip()]
        places = dict.fromkeys(self.levels.place(part) for part in parts)
        places.pop(-1, None)
        return list(places) or None


class AnswerColumns:
    """Reads a set of 0/1 columns as one question with several answers."""

    def __init__(self, said: CodebookVariable, levels: LevelList) -> None:
        self.raw: tuple[str, ...] = said.columns
        self._said = said
        self.levels = levels

    def read(self, batch: pa.RecordBatch) -> pa.Array:
        """A list of levels for each record; null where none of the columns was answered."""
        chosen = np.zeros((batch.num_rows, len(self.raw)), dtype=bool)
        answered = np.zeros(batch.num_rows, dtype=bool)
        for column, name in enumerate(self.raw):
            values = as_texts(batch.column(name), name)
            states = [self._state(text or "", name) for text in values.dictionary.to_pylist()] + [-1]
            state = np.array(states)[places_of(values)]
            chosen[:, column] = state == 1
            answered |= state >= 0
        own = [self.levels.place(name) for name in self.raw]
        lists = [[own[column] for column in np.flatnonzero(row)] for row in chosen]
        rows: list[list[int] | None] = [part if yes else None for part, yes in zip(lists, answered, strict=True)]
        return answer_lists(rows, np.arange(batch.num_rows, dtype=np.int32), self.levels.codes)

    def variable(self) -> Variable:
        """What is known of it."""
        levels, _ = self.levels.ordered()
        order = LevelOrder.CODEBOOK if self._said.levels else LevelOrder.AS_FOUND
        return Variable(self._said.name, Kind.MULTI, self._said.label, "", levels, order)

    def codes(self) -> tuple[str, ...]:
        """The codes its dictionary places stand for."""
        return self.levels.codes

    def _state(self, text: str, name: str) -> int:
        plain = text.strip().casefold()
        if not plain or self._said.is_missing(text.strip()):
            return -1
        if plain in _CHOSEN or plain in _NOT_CHOSEN:
            return int(plain in _CHOSEN)
        raise RecordsError(
            f"`{name}` should hold 0 or 1, for an answer chosen or not, but holds `{text.strip()}`.",
            f"Known are {listed(sorted(_CHOSEN | _NOT_CHOSEN), 20)}; name other codes under `missing`.",
        )


def answer_lists(own: Sequence[Sequence[int] | None], which: Codes, codes: Sequence[str]) -> pa.ListArray:
    """Lists of levels as an Arrow column.

    Args:
        own: Different lists of places; None for no answer.
        which: The list of each record, shape (records,); -1 is the last one.
        codes: What the places stand for.
    """
    sizes = np.array([0 if part is None else len(part) for part in own], dtype=np.int64)
    starts = np.concatenate([[0], np.cumsum(sizes)])
    flat = np.array([place for part in own if part is not None for place in part], dtype=np.int32)
    which = np.where(which < 0, len(own) - 1, which)
    lengths = sizes[which]
    offsets = np.concatenate([[0], np.cumsum(lengths)]).astype(np.int32)
    within = np.arange(offsets[-1]) - np.repeat(offsets[:-1], lengths)
    places = flat[np.repeat(starts[which], lengths) + within]
    asked = np.array([part is not None for part in own])[which]
    return level_lists(places, offsets, asked, codes)


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True
