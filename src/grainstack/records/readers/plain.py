"""How one column of a task is read from raw batches: as levels or as numbers."""

from typing import Protocol, Self

import numpy as np
import numpy.typing as npt
import pyarrow as pa
from msgspec import Struct

from grainstack.language import phrase
from grainstack.records.arrow import Numbers, level_column
from grainstack.records.codebook.codebook import CodebookVariable
from grainstack.records.kinds import says_no_answer
from grainstack.records.numerals import NumberForm, is_number
from grainstack.records.readers.levels import LevelList, Rows
from grainstack.records.readers.shared import LastRead
from grainstack.records.values import Strays, as_numbers, as_texts, as_truths
from grainstack.records.variable import EVERYTHING, Kind, Level, LevelOrder, Variable

Places = npt.NDArray[np.int64]


class Coding(Struct, frozen=True):
    """What a reader has learnt of its levels, in an order that depends on the records alone.

    Attributes:
        codes: The codes of the levels, in the order in which records have them first.
        ranks: For each dictionary place of the reader the place of its code there, shape (places,).
    """

    codes: tuple[str, ...]
    ranks: Places


class LevelReader(Protocol):
    """Reads a column as categories, and goes on learning its levels; it pickles, and two of one kind merge.

    Attributes:
        raw: The columns of the source it needs.
        steady: Whether it learns its levels from records that are filtered away too, so that a level keeps its place,
            and with it its colour, under any filter.
        by_frequency: Whether its levels depend on how many records have a value, and not on the values alone.
    """

    raw: tuple[str, ...]
    steady: bool
    by_frequency: bool

    def read(self, batch: pa.RecordBatch, rows: Rows) -> tuple[pa.Array, Strays]:
        """The column, dictionary-coded over the levels known so far, or lists of such for several answers.

        Returns:
            The column, and where something stands that cannot be read (record of the batch, text).
        """

    def variable(self) -> Variable:
        """What is known of it once every record was read; levels in natural order, empty ones included."""

    def coding(self) -> Coding:
        """What its dictionary places stand for."""

    def merge(self, other: Self) -> Places:
        """Learns what another reader of the same column has learnt; gives the place here of each of its places."""


class NumberReader:
    """Reads a column as numbers; codes for `no answer` become NaN."""

    def __init__(self, variable: CodebookVariable, form: NumberForm) -> None:
        self.raw = (variable.name,)
        self._variable = variable
        self._form = form
        self._missing = [float(code) for code in variable.missing if is_number(code)]
        self._last: LastRead[tuple[Numbers, Strays]] = LastRead()

    def read(self, batch: pa.RecordBatch) -> tuple[Numbers, Strays]:
        """The numbers, shape (records,), and where other text stands (record, text)."""
        column = batch.column(self._variable.name)
        return self._last.get(column, 0, lambda: self._read(column))

    def _read(self, column: pa.Array) -> tuple[Numbers, Strays]:
        name = self._variable.name
        is_text = pa.types.is_string(column.type) or pa.types.is_dictionary(column.type)
        if self._form.truths and is_text:
            numbers, strays = as_truths(column, name)
        else:
            numbers, strays = as_numbers(column, name, self._form.signs)
        if self._missing:
            numbers = np.where(np.isin(numbers, self._missing), np.nan, numbers)
        known = self._variable
        return numbers, [
            (record, text) for record, text in strays if not (known.is_missing(text.strip()) or says_no_answer(text))
        ]

    def variable(self) -> Variable:
        """What is known of it."""
        return Variable(self._variable.name, Kind.NUMBER, self._variable.label, self._variable.unit or self._form.unit)


class PlainLevels:
    """Reads a column as the levels its values stand for."""

    steady = True
    by_frequency = False

    def __init__(self, variable: CodebookVariable, levels: LevelList) -> None:
        self.raw: tuple[str, ...] = (variable.name,)
        self.levels = levels
        self._variable = variable
        self._last: LastRead[pa.DictionaryArray] = LastRead()

    def read(self, batch: pa.RecordBatch, rows: Rows) -> tuple[pa.Array, Strays]:
        """The column, dictionary-coded."""
        column = batch.column(self._variable.name)
        if rows.kept is not None and len(rows.kept) == len(column):
            rows = Rows(rows.first)
        if rows.kept is not None:
            return self._read(column, rows), []
        return self._last.get(column, rows.first, lambda: self._read(column, rows)), []

    def _read(self, column: pa.Array, rows: Rows) -> pa.DictionaryArray:
        codes = self.levels.encode(as_texts(column, self._variable.name), rows)
        return level_column(codes, self.levels.column)

    def variable(self) -> Variable:
        """What is known of it."""
        levels, order = self.levels.ordered()
        known = self._variable
        return Variable(
            known.name, known.kind or Kind.CATEGORY, known.label, known.unit, levels, order, good=known.good
        )

    def coding(self) -> Coding:
        """What its dictionary places stand for."""
        return coding_of(self.levels)

    def merge(self, other: "PlainLevels") -> Places:
        """Learns the levels of another reader."""
        return self.levels.merge(other.levels)


class OneLevel:
    """Puts every record into one level: for figures over all records."""

    raw: tuple[str, ...] = ()
    steady = False
    by_frequency = False
    _code = "all"

    def read(self, batch: pa.RecordBatch, rows: Rows) -> tuple[pa.Array, Strays]:  # noqa: ARG002 - as every reader
        """The same place for every record."""
        return level_column(np.zeros(batch.num_rows, dtype=np.int32), (self._code,)), []

    def variable(self) -> Variable:
        """A variable without a name of its own."""
        level = Level(self._code, phrase("All records"))
        return Variable(EVERYTHING, label=phrase("All")).with_levels((level,), LevelOrder.CODEBOOK)

    def coding(self) -> Coding:
        """The code of the one level."""
        return Coding((self._code,), np.zeros(1, dtype=np.int64))

    def merge(self, other: "OneLevel") -> Places:  # noqa: ARG002 - there is nothing to learn
        """The one level stands where it stands."""
        return np.zeros(1, dtype=np.int64)


def coding_of(levels: LevelList) -> Coding:
    """The levels of a list in the order in which records have them first, and where each of its places stands there."""
    order = levels.as_found()
    ranks = np.zeros(len(order), dtype=np.int64)
    ranks[list(order)] = np.arange(len(order))
    codes = levels.codes
    return Coding(tuple(codes[place] for place in order), ranks)
