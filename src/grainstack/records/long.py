"""Columns that hold one measure side by side, turned into rows: `--to-long "year,vehicles=2023,2024,2025"`."""

from collections.abc import Iterator, Sequence
from fnmatch import fnmatchcase

import numpy as np
import pyarrow as pa

from grainstack.errors import RequestError, nearest
from grainstack.records.arrow import level_column
from grainstack.records.sources.source import Source
from grainstack.records.values import as_texts
from grainstack.words import names_in


class LongSource:
    """A source whose side-by-side columns are rows: each row of it gives one per column.

    Attributes:
        name_column: The new column that says which column a value came from.
        names: The columns turned into rows, in their order.
    """

    def __init__(self, source: Source, text: str) -> None:
        new, equals, old = text.partition("=")
        names = names_in(new)
        if not equals or len(names) != 2 or not names_in(old):
            raise RequestError(f"`--to-long {text}` is incomplete.", 'Write --to-long "NAME,VALUE=COLUMN1,COLUMN2,…".')
        self._source = source
        self.name = source.name
        self.name_column, self._value_column = names
        self.names = tuple(dict.fromkeys(name for wanted in names_in(old) for name in _matching(wanted, source)))
        kept = [name for name in source.columns if name not in self.names]
        for name in names:
            if name in kept:
                raise RequestError(f"--to-long cannot make a column `{name}`: there is one.", "Choose another name.")
        self.columns = (*kept, *names)

    @property
    def notes(self) -> tuple[str, ...]:
        """What had to be assumed while reading."""
        return self._source.notes

    def batches(self, columns: Sequence[str]) -> Iterator[pa.RecordBatch]:
        """The rows in order, each one in as many rows as there were columns side by side."""
        own = [name for name in columns if name in self._source.columns and name not in self.names]
        needed = [*own, *(self.names if self._value_column in columns else ())] or list(self.names[:1])
        for batch in self._source.batches(needed):
            times = len(self.names)
            rows = np.repeat(np.arange(batch.num_rows), times)
            arrays: dict[str, pa.Array] = {name: batch.column(name).take(pa.array(rows)) for name in own}
            which = np.tile(np.arange(times, dtype=np.int32), batch.num_rows)
            arrays[self.name_column] = level_column(which, self.names)
            if self._value_column in columns:
                arrays[self._value_column] = _interleaved([as_texts(batch.column(name), name) for name in self.names])
            yield pa.RecordBatch.from_arrays([arrays[name] for name in columns], names=list(columns))

    def place(self, record: int) -> str:
        """The place of the row, and the column."""
        row, column = divmod(record, len(self.names))
        return f"{self._source.place(row)}, column `{self.names[column]}`"


def _matching(wanted: str, source: Source) -> list[str]:
    found = [name for name in source.columns if name == wanted or fnmatchcase(name, wanted)]
    if not found:
        raise RequestError(f"{source.name} has no column `{wanted}`.", nearest(wanted, source.columns))
    return found


def _interleaved(columns: Sequence[pa.DictionaryArray]) -> pa.DictionaryArray:
    """Row by row, the values of columns standing side by side."""
    texts = [column.cast(pa.string()).to_pylist() for column in columns]
    flat = [text for row in zip(*texts, strict=True) for text in row]
    return pa.array(flat, pa.string()).dictionary_encode()
