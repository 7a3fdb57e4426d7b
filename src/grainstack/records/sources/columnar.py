"""Records in Arrow's own formats: Parquet files and Arrow IPC files or streams."""

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from copy import copy

import pyarrow as pa
from pyarrow import parquet

from grainstack.errors import RecordsError
from grainstack.records.arrow import HEAD_ROWS, empty_head
from grainstack.records.source import Source
from grainstack.records.sources.opening import Bytes, StreamBytes

_VALUES = 3 << 18  # read at once: enough for what a batch costs beside its rows not to count, few enough for 160 MB
_FEWEST, _MOST = 1 << 14, 1 << 18  # rows that these are at least and at most
_PIECE = 1 << 18  # bytes of a column read at once, so that memory does not depend on the size of row groups


class ParquetSource:
    """A Parquet file; only the columns asked for are read from it."""

    decimal = "."

    def __init__(self, content: Bytes) -> None:
        self._content = content
        self.name = content.name
        self.notes: tuple[str, ...] = ()
        self._groups: range | None = None  # the row groups that are read; None for all
        self._first = 0  # the number of their first record
        with _explained(self.name), self._content.open() as file:
            self.columns = tuple(str(name) for name in parquet.ParquetFile(file).schema_arrow.names)
        _check_names(self.name, self.columns)

    def batches(self, columns: Sequence[str]) -> Iterator[pa.RecordBatch]:
        """The rows in order, in the types they are stored in."""
        with _explained(self.name), self._content.open() as file:
            schema = parquet.read_schema(file)
            texts = [name for name in columns if pa.types.is_string(schema.field(name).type)]
            file.seek(0)
            opened = parquet.ParquetFile(file, read_dictionary=texts, pre_buffer=False, buffer_size=_PIECE)
            groups = range(opened.num_row_groups) if self._groups is None else self._groups
            rows = min(max(_VALUES // max(len(columns), 1), _FEWEST), _MOST)
            yield from opened.iter_batches(rows, row_groups=list(groups), columns=list(columns))

    def parts(self, size: int) -> list[Source]:
        """Parts of whole row groups, of about so many bytes or one group each."""
        if isinstance(self._content, StreamBytes):
            return [self]
        parts: list[Source] = []
        with _explained(self.name), self._content.open() as file:
            about = parquet.ParquetFile(file).metadata
            first = row = read = rows = 0
            for group in range(about.num_row_groups):
                read += about.row_group(group).total_byte_size
                rows += about.row_group(group).num_rows
                if read >= size or group == about.num_row_groups - 1:
                    parts.append(self._within(range(first, group + 1), row))
                    first, row, read, rows = group + 1, row + rows, 0, 0
        return parts or [self]

    def _within(self, groups: range, first: int) -> "ParquetSource":
        part = copy(self)
        part._groups, part._first = groups, first  # noqa: SLF001 - of the same class
        return part

    def head(self) -> pa.RecordBatch:
        """The first rows with all columns."""
        with _explained(self.name), self._content.open() as file:
            first = next(parquet.ParquetFile(file).iter_batches(HEAD_ROWS), None)
        return first if first is not None else empty_head(self.columns)

    def orders(self) -> dict[str, tuple[str, ...]]:
        """The categories of columns that are stored as ordered ones."""
        with _explained(self.name), self._content.open() as file:
            opened = parquet.ParquetFile(file)
            names = ordered_in(opened.schema_arrow)
            first = next(opened.iter_batches(1, columns=names), None) if names else None
        return orders_of(first) if first is not None else {}

    def place(self, record: int) -> str:
        """The number of a record, counted from 1."""
        return f"record {self._first + record + 1:,}"


class ArrowSource:
    """An Arrow IPC file or stream."""

    decimal = "."

    def __init__(self, content: Bytes) -> None:
        self._content = content
        self.name = content.name
        self.notes: tuple[str, ...] = ()
        with _explained(self.name), self._content.open() as file:
            self.columns = tuple(str(name) for name in _reader(file).schema.names)
        _check_names(self.name, self.columns)

    def batches(self, columns: Sequence[str]) -> Iterator[pa.RecordBatch]:
        """The rows in order, in the types they are stored in."""
        with _explained(self.name), self._content.open() as file:
            for batch in _batches(_reader(file)):
                yield batch.select(list(columns))

    def head(self) -> pa.RecordBatch:
        """The first rows with all columns."""
        with _explained(self.name), self._content.open() as file:
            first = next(_batches(_reader(file)), None)
        return first.slice(0, HEAD_ROWS) if first is not None else empty_head(self.columns)

    def orders(self) -> dict[str, tuple[str, ...]]:
        """The categories of columns that are stored as ordered ones."""
        return orders_of(self.head())

    def place(self, record: int) -> str:
        """The number of a record, counted from 1."""
        return f"record {record + 1:,}"


def ordered_in(schema: pa.Schema) -> list[str]:
    """The columns whose categories are stored as ordered ones."""
    return [field.name for field in schema if pa.types.is_dictionary(field.type) and field.type.ordered]


def orders_of(batch: pa.RecordBatch) -> dict[str, tuple[str, ...]]:
    """The categories of ordered columns of a batch, as text."""
    columns = {name: batch.column(name).dictionary for name in ordered_in(batch.schema)}
    return {
        name: tuple(map(str, values.to_pylist())) for name, values in columns.items() if None not in values.to_pylist()
    }


def _reader(file: object) -> pa.RecordBatchFileReader | pa.RecordBatchStreamReader:
    source = pa.PythonFile(file, "r")
    if source.read(6) == b"ARROW1":
        return pa.ipc.open_file(source)
    source.seek(0)
    return pa.ipc.open_stream(source)


def _batches(reader: pa.RecordBatchFileReader | pa.RecordBatchStreamReader) -> Iterator[pa.RecordBatch]:
    stream = isinstance(reader, pa.RecordBatchStreamReader)
    every = reader if stream else (reader.get_batch(number) for number in range(reader.num_record_batches))
    for batch in every:
        batch.validate(full=True)  # a place outside its buffers would end the process when it is read
        yield batch


def _check_names(source: str, names: Sequence[str]) -> None:
    twice = {name for name in names if names.count(name) > 1}
    if twice or "" in names:
        wrong = f"`{min(twice)}` stands twice" if twice else "one has no name"
        raise RecordsError(f"{source}: of the column names, {wrong}.", "Rename one of them.")


@contextmanager
def _explained(name: str) -> Iterator[None]:
    try:
        yield
    except (pa.ArrowException, OSError, EOFError) as reason:
        message = " ".join(str(reason).split()).rstrip(".")
        raise RecordsError(
            f"{name} is broken or cut short: {message}.", "Copy or download it again, or write it anew."
        ) from reason
