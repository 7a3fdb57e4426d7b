"""Columns that hold one measure side by side, turned into rows: `--to-long "year,vehicles=2023,2024,2025"`."""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
import pyarrow as pa

from grainstack.errors import RequestError
from grainstack.option_names import option
from grainstack.records.arrow import level_column, places_of
from grainstack.records.codebook.codebook import CodebookVariable
from grainstack.records.naming import columns_named
from grainstack.records.source import Source
from grainstack.records.values import as_texts

_SHARED = {  # what columns side by side may have in common, and how a note calls it
    "kind": "kind",
    "levels": "levels",
    "unit": "unit",
    "bands": "bands",
    "low": "range",
    "high": "range",
    "separator": "separator",
}


class LongForm:
    """Rows made of side-by-side columns: each row of a source gives one per column.

    Args:
        names: The new columns: which column a value came from, and the values.
        wanted: The columns turned into rows: names, patterns such as `q_*`, ranges such as `1980..2013`.
        source: What the source is called and which columns it has.
        known: What is known of a column; its codes for no answer leave a blank.

    Attributes:
        name_column: The new column that says which column a value came from.
        value_column: The new column that holds the values.
        names: The columns turned into rows, in their order.
        columns: The columns there are afterwards.

    Raises:
        RequestError: A name is taken or matches no column.
    """

    def __init__(
        self, names: tuple[str, str], wanted: Sequence[str], source: Source, known: Callable[[str], CodebookVariable]
    ) -> None:
        self.name_column, self.value_column = names
        self.names = columns_named(wanted, source.name, source.columns)
        self._known = tuple(known(name) for name in self.names)
        kept = [name for name in source.columns if name not in self.names]
        for name in names:
            if name in kept:
                raise RequestError(
                    f"Rows cannot make a column `{name}`: {source.name} has one.",
                    f'Choose another name: {option("to_long")} or {option("items")} "NAME,VALUE=…".',
                )
        self.columns = (*kept, *names)

    def raw(self, columns: Sequence[str]) -> tuple[str, ...]:
        """The columns of the source that some columns are made of."""
        kept = [name for name in columns if name not in (self.name_column, self.value_column)]
        needed = [*kept, *(self.names if self.value_column in columns else ())]
        return tuple(dict.fromkeys(needed or self.names[:1]))

    def meaning(self) -> tuple[CodebookVariable, tuple[str, ...]]:
        """What is known of the values: what all columns share; and in which respects they disagree."""
        shared: dict[str, Any] = {}
        disagreements = []
        for one, words in _SHARED.items():
            values = [getattr(known, one) for known in self._known]
            if all(value == values[0] for value in values):
                shared[one] = values[0]
            else:
                disagreements.append(words)
        return CodebookVariable(self.value_column, **shared), tuple(dict.fromkeys(disagreements))

    def unfolded(self, batch: pa.RecordBatch, columns: Sequence[str], *, keep_missing: bool = False) -> pa.RecordBatch:
        """The rows of a batch, each in as many rows as there were columns side by side.

        Args:
            batch: The records.
            columns: The columns wanted.
            keep_missing: Whether codes for no answer stay as they are.
        """
        times = len(self.names)
        rows = pa.array(np.repeat(np.arange(batch.num_rows), times))
        which = np.tile(np.arange(times, dtype=np.int32), batch.num_rows)
        arrays: dict[str, pa.Array] = {}
        for name in columns:
            if name == self.name_column:
                arrays[name] = level_column(which, self.names)
            elif name == self.value_column:
                texts = [as_texts(batch.column(one), one) for one in self.names]
                known = () if keep_missing else self._known
                arrays[name] = _interleaved(texts, known)
            else:
                arrays[name] = batch.column(name).take(rows)
        return pa.RecordBatch.from_arrays(list(arrays.values()), names=list(arrays))

    def place(self, record: int, place_of_row: Callable[[int], str]) -> str:
        """The place of the row a record was made of, and its column."""
        row, column = divmod(record, len(self.names))
        return f"{place_of_row(row)}, column `{self.names[column]}`"


def _interleaved(columns: Sequence[pa.DictionaryArray], known: Sequence[CodebookVariable]) -> pa.Array:
    """Row by row, the values of columns standing side by side; what `known` takes for no answer is none."""
    places: dict[str, int] = {}
    codes = np.empty((len(columns[0]), len(columns)), dtype=np.int32)
    for at, column in enumerate(columns):
        missing = known[at].is_missing if known else None
        lookup = [
            -1 if text is None or (missing and missing(text.strip())) else places.setdefault(text, len(places))
            for text in column.dictionary.to_pylist()
        ]
        codes[:, at] = np.array([*lookup, -1], dtype=np.int32)[places_of(column)]
    return level_column(codes.reshape(-1), tuple(places))
