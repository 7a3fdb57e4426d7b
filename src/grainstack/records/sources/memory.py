"""Records that a program holds in memory, as any library of tables hands them over in Arrow's form."""

from collections.abc import Iterator, Sequence
from functools import partial

import pyarrow as pa

from grainstack.errors import RecordsError
from grainstack.records.arrow import HEAD_ROWS, empty_head
from grainstack.records.source import Stretch
from grainstack.records.sources.columnar import orders_of

_ROWS = 1 << 18  # of a stretch: enough to keep a core busy, few enough to share among them


class MemorySource:
    """A table in memory; nothing of it is copied.

    Args:
        table: The table.
        name: How messages call it.

    Raises:
        RecordsError: Two of its columns have one name.
    """

    decimal = "."

    def __init__(self, table: pa.Table, name: str) -> None:
        self.name, self._table = name, table
        self.columns = tuple(str(column) for column in table.column_names)
        self.notes: tuple[str, ...] = ()
        twice = {column for column in self.columns if self.columns.count(column) > 1}
        if twice:
            raise RecordsError(f"{name}: of the column names, `{min(twice)}` stands twice.", "Rename one of them.")

    def batches(self, columns: Sequence[str]) -> Iterator[pa.RecordBatch]:
        """The rows in order, in the types they have."""
        for stretch in self.stretches(columns):
            yield stretch()

    def stretches(self, columns: Sequence[str]) -> Iterator[Stretch]:
        """The same in stretches that can be read on several cores at once."""
        chosen = self._table.select(list(columns))
        for start in range(0, chosen.num_rows, _ROWS):
            yield partial(_stretch, chosen, start)

    def head(self) -> pa.RecordBatch:
        """The first rows with all columns."""
        return _stretch(self._table, 0, HEAD_ROWS) if self._table.num_rows else empty_head(self.columns)

    def orders(self) -> dict[str, tuple[str, ...]]:
        """The categories of columns that are ordered ones."""
        return orders_of(self.head())

    def place(self, record: int) -> str:
        """The number of a record, counted from 1."""
        return f"record {record + 1:,}"


def _stretch(table: pa.Table, start: int, rows: int = _ROWS) -> pa.RecordBatch:
    part = table.slice(start, rows).combine_chunks()
    batches = part.to_batches()
    if len(batches) == 1:
        return batches[0]
    return pa.RecordBatch.from_arrays([column.combine_chunks() for column in part.columns], schema=part.schema)
