"""Columns that hold one measure side by side, turned into rows: `--to-long "year,vehicles=2023,2024,2025"`."""

from collections.abc import Callable, Sequence
from fnmatch import fnmatchcase

import numpy as np
import pyarrow as pa

from grainstack.errors import RequestError, nearest
from grainstack.records.arrow import level_column
from grainstack.records.values import as_texts
from grainstack.speech import option
from grainstack.words import names_in


class LongForm:
    """Rows made of side-by-side columns: each row of a source gives one per column.

    Args:
        text: What was asked for, `NAME,VALUE=COLUMN1,COLUMN2`.
        source: What the source is called, for messages.
        columns: The columns it has.

    Attributes:
        name_column: The new column that says which column a value came from.
        names: The columns turned into rows, in their order.
        columns: The columns there are afterwards.

    Raises:
        RequestError: It is not of this form, or a name is taken or matches no column.
    """

    def __init__(self, text: str, source: str, columns: Sequence[str]) -> None:
        new, equals, old = text.partition("=")
        names = names_in(new)
        if not equals or len(names) != 2 or not names_in(old):
            raise RequestError(
                f"`{option('to_long')} {text}` is incomplete.",
                f'Write {option("to_long")} "NAME,VALUE=COLUMN1,COLUMN2,…".',
            )
        self.name_column, self._value_column = names
        self.names = tuple(
            dict.fromkeys(name for wanted in names_in(old) for name in _matching(wanted, source, columns))
        )
        kept = [name for name in columns if name not in self.names]
        for name in names:
            if name in kept:
                raise RequestError(
                    f"{option('to_long')} cannot make a column `{name}`: there is one.", "Choose another name."
                )
        self.columns = (*kept, *names)

    def raw(self, columns: Sequence[str]) -> tuple[str, ...]:
        """The columns of the source that some columns are made of."""
        kept = [name for name in columns if name not in (self.name_column, self._value_column)]
        needed = [*kept, *(self.names if self._value_column in columns else ())]
        return tuple(dict.fromkeys(needed or self.names[:1]))

    def unfolded(self, batch: pa.RecordBatch, columns: Sequence[str]) -> pa.RecordBatch:
        """The rows of a batch, each in as many rows as there were columns side by side."""
        times = len(self.names)
        rows = pa.array(np.repeat(np.arange(batch.num_rows), times))
        which = np.tile(np.arange(times, dtype=np.int32), batch.num_rows)
        arrays: dict[str, pa.Array] = {}
        for name in columns:
            if name == self.name_column:
                arrays[name] = level_column(which, self.names)
            elif name == self._value_column:
                arrays[name] = _interleaved([as_texts(batch.column(one), one) for one in self.names])
            else:
                arrays[name] = batch.column(name).take(rows)
        return pa.RecordBatch.from_arrays(list(arrays.values()), names=list(arrays))

    def place(self, record: int, place_of_row: Callable[[int], str]) -> str:
        """The place of the row a record was made of, and its column."""
        row, column = divmod(record, len(self.names))
        return f"{place_of_row(row)}, column `{self.names[column]}`"


def _matching(wanted: str, source: str, columns: Sequence[str]) -> list[str]:
    matching = [name for name in columns if name == wanted or fnmatchcase(name, wanted)]
    if not matching:
        raise RequestError(f"{source} has no column `{wanted}`.", nearest(wanted, columns))
    return matching


def _interleaved(columns: Sequence[pa.DictionaryArray]) -> pa.DictionaryArray:
    """Row by row, the values of columns standing side by side."""
    texts = [column.cast(pa.string()).to_pylist() for column in columns]
    flat = [text for row in zip(*texts, strict=True) for text in row]
    return pa.array(flat, pa.string()).dictionary_encode()
