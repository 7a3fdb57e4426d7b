"""What every source of records can do."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import partial
from typing import TYPE_CHECKING, Protocol, runtime_checkable

if TYPE_CHECKING:
    import numpy as np
    import numpy.typing as npt
    import pyarrow as pa

Stretch = Callable[[], "pa.RecordBatch"]


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


@runtime_checkable
class Divisible(Protocol):
    """A source whose rows come in stretches that can be read on several cores at once."""

    def stretches(self, columns: Sequence[str]) -> Iterator[Stretch]:
        """Its rows in order, with only these columns, in stretches that are read when they are called.

        Raises:
            RecordsError: The rows cannot be read; a stretch raises it too.
        """


@runtime_checkable
class Partible(Protocol):
    """A source of which other machines can read parts: sources themselves, which pickle."""

    def parts(self, size: int) -> "list[Source]":
        """Parts of about so many bytes, in order, which together hold every record once."""


@runtime_checkable
class Ranged(Protocol):
    """A source that may be a part of a file, of which only reading tells where it starts and ends."""

    def span_read(self) -> tuple[int, int] | None:
        """The bytes at which its first record and the one after its last start; None where it is no part."""

    def starting_at(self, place: int) -> "Source":
        """The same part from where a record is known to start."""


@runtime_checkable
class Collected(Protocol):
    """A source made of several files."""

    @property
    def files(self) -> tuple[str, ...]:
        """How messages call each of them, in order."""


@runtime_checkable
class Queried(Protocol):
    """A source that is asked for its rows in SQL."""

    @property
    def sent(self) -> Sequence[str]:
        """The queries for rows, in the order they were sent."""


@runtime_checkable
class Countable(Protocol):
    """A source that can group its rows itself."""

    def counted(self, columns: Sequence[str]) -> "Iterator[tuple[pa.RecordBatch, npt.NDArray[np.int64]]] | None":
        """Its different rows with only these columns, and how often each occurs, in the order of their first record.

        Returns:
            The rows; None where there would be nearly as many as records.

        Raises:
            RecordsError: The rows cannot be read.
        """


@runtime_checkable
class Ordered(Protocol):
    """A source that stores the order of the categories of some columns."""

    def orders(self) -> dict[str, tuple[str, ...]]:
        """The categories of these columns, from the first to the last."""


@runtime_checkable
class Measured(Protocol):
    """A source that tells the units of some columns."""

    units: Mapping[str, str]


FILE = "file"  # the column of a collected source that tells the file of each record, where no column has this name


def stem_of(file: str) -> str:
    """What a file is called in that column: its name without folder and ending."""
    return file.rpartition("/")[2].partition(".")[0]


def stretches_of(source: Source, columns: Sequence[str]) -> Iterator[Stretch]:
    """The rows of any source in stretches; see `Divisible`."""
    if isinstance(source, Divisible):
        return source.stretches(columns)
    return ready(source.batches(columns))


def ready(batches: "Iterator[pa.RecordBatch]") -> Iterator[Stretch]:
    """Stretches of what is read already."""
    return (partial(_itself, batch) for batch in batches)


def _itself(batch: "pa.RecordBatch") -> "pa.RecordBatch":
    return batch
