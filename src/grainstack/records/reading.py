"""How one column of a task is read from raw batches: as levels or as numbers."""

from typing import Protocol

import numpy as np
import pyarrow as pa

from grainstack.records.arrow import Numbers, level_column
from grainstack.records.codebook import CodebookVariable
from grainstack.records.levels import LevelList
from grainstack.records.values import Strays, as_numbers, as_texts
from grainstack.records.variable import EVERYTHING, Kind, Level, LevelOrder, Variable


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


class OneLevel:
    """Puts every record into one level: for figures over all records."""

    raw: tuple[str, ...] = ()
    _level = Level("all", "All records")

    def read(self, batch: pa.RecordBatch) -> pa.Array:
        """The same place for every record."""
        return level_column(np.zeros(batch.num_rows, dtype=np.int32), self.codes())

    def variable(self) -> Variable:
        """A variable without a name of its own."""
        return Variable(EVERYTHING, label="All").with_levels((self._level,), LevelOrder.CODEBOOK)

    def codes(self) -> tuple[str, ...]:
        """The code of the one level."""
        return (self._level.code,)


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True
