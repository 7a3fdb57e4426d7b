"""One pass over the records: read, filtered, typed, and every one of them accounted for."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import islice

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from grainstack.errors import RequestError, nearest
from grainstack.records.arrow import Numbers, number_column
from grainstack.records.batch import Batch, Needs
from grainstack.records.found import Found
from grainstack.records.levels import LevelList, ordered
from grainstack.records.numerals import numbers_in, stray_text
from grainstack.records.request import LevelChoice, RecordsRequest
from grainstack.records.sources import Source, open_source
from grainstack.records.variable import Kind, Variable

_SHOWN_STRAYS = 3


@dataclass(frozen=True, slots=True)
class Account:
    """What became of the records before anything was summarised."""

    read: int
    filtered: int


class Scan:
    """Typed batches of the records a request keeps, with the columns a task needs.

    Iterate over it once; afterwards `account`, `found` and `notes` tell what was met.
    """

    def __init__(self, request: RecordsRequest, needs: Needs, source: Source | None = None) -> None:
        self._source = source or open_source(request.file)
        self._needs = needs
        self._choices = request.level_choices()
        columns = dict.fromkeys([*needs.levels, *needs.numbers, *(choice.column for choice in self._choices)])
        check_columns(columns, self._source)
        self._columns = list(columns)
        listed_columns = dict.fromkeys([*needs.levels, *(choice.column for choice in self._choices)])
        self._levels = {column: LevelList(column) for column in listed_columns}
        self._read = 0
        self._kept = 0

    @property
    def source_name(self) -> str:
        """How messages and notes call the file."""
        return self._source.name

    @property
    def notes(self) -> tuple[str, ...]:
        """What had to be assumed while reading."""
        return self._source.notes

    @property
    def account(self) -> Account:
        """What became of the records read so far."""
        return Account(self._read, self._read - self._kept)

    def __iter__(self) -> Iterator[Batch]:
        for raw in self._source.batches(self._columns):
            codes = {column: levels.encode(raw.column(column)) for column, levels in self._levels.items()}
            kept = np.ones(raw.num_rows, dtype=bool)
            for choice in self._choices:
                kept &= self._mask(choice, codes[choice.column])
            data: dict[str, pa.Array] = {}
            for column in self._needs.levels:
                data[f"levels:{column}"] = self._levels[column].as_arrow(codes[column][kept])
            for column in self._needs.numbers:
                data[f"numbers:{column}"] = number_column(self._numbers(column, raw, kept)[kept])
            self._read += raw.num_rows
            self._kept += int(kept.sum())
            yield Batch(pa.RecordBatch.from_arrays(list(data.values()), names=list(data)))
        self._check_choices()

    def found(self) -> Found:
        """What is known of the columns once all records were read."""
        variables = {column: Variable(column, Kind.NUMBER) for column in self._needs.numbers}
        for column, levels in self._levels.items():
            variables[column] = Variable(column).with_levels(*ordered(levels.codes))
        return Found(variables, {column: levels.codes for column, levels in self._levels.items()})

    def _numbers(self, column: str, raw: pa.RecordBatch, kept: npt.NDArray[np.bool_]) -> Numbers:
        numbers, strays = numbers_in(raw.column(column))
        strays = [(record, text) for record, text in strays if kept[record]]
        if strays:
            shown = [(self._source.place(self._read + record), text) for record, text in strays[:_SHOWN_STRAYS]]
            raise stray_text(column, self._source.name, shown, len(strays) - len(shown))
        return numbers

    def _mask(self, choice: LevelChoice, codes: npt.NDArray[np.int32]) -> npt.NDArray[np.bool_]:
        found = self._levels[choice.column].codes
        wanted = [index for index, code in enumerate(found) if code in choice.names]
        inside = np.isin(codes, wanted)
        return inside if choice.keep else ~inside

    def _check_choices(self) -> None:
        """Refuses levels that no record has: a misspelt one would silently keep or drop the wrong records."""
        for choice in self._choices:
            found = self._levels[choice.column].codes
            for name in choice.names:
                if name not in found:
                    raise RequestError(f"`{choice.column}` has no level `{name}`.", nearest(name, found))


def check_columns(columns: Sequence[str] | dict[str, None], source: Source) -> None:
    """Refuses columns a source does not have.

    Raises:
        RequestError: Names the column and the nearest ones there are.
    """
    for column in columns:
        if column not in source.columns:
            raise RequestError(f"{source.name} has no column `{column}`.", nearest(column, source.columns))


def first_rows(source: Source, count: int) -> list[tuple[str, ...]]:
    """The first rows of a source as text, one tuple per row in the order of its columns."""
    rows: list[tuple[str, ...]] = []
    batches = source.batches(source.columns)
    for batch in batches:
        columns = [batch.column(name).to_pylist() for name in source.columns]
        rows += islice(zip(*columns, strict=True), count - len(rows))
        if len(rows) >= count:
            break
    return rows
