"""What every source of records can do."""

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Protocol

if TYPE_CHECKING:
    import pyarrow as pa


class Source(Protocol):
    """Rows that can be read from the start, any number of times."""

    @property
    def name(self) -> str:
        """How messages call it."""

    @property
    def columns(self) -> tuple[str, ...]:
        """The names of its columns, in their order."""

    @property
    def notes(self) -> tuple[str, ...]:
        """What had to be assumed to read it; complete once it has been read."""

    @property
    def decimal(self) -> str:
        """The sign before decimals in its text, as far as the file itself tells."""

    def batches(self, columns: Sequence[str]) -> "Iterator[pa.RecordBatch]":
        """Its rows in order, with only these columns.

        Raises:
            RecordsError: The rows cannot be read; names the line.
        """

    def head(self) -> "pa.RecordBatch":
        """Its first rows (some two thousand where there are so many) with all columns, as text or in their types.

        They come from what opening the source had to look at anyway, so a stream loses nothing by it.
        """

    def place(self, record: int) -> str:
        """Where a record (counted from 0) stands, in words a person can look up: `line 18`."""
