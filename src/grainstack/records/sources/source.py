"""What every source of records can do, and the choice of one for a path."""

import sys
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from grainstack.errors import RequestError, nearest

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

    def batches(self, columns: Sequence[str]) -> "Iterator[pa.RecordBatch]":
        """Its rows in order, with only these columns.

        Raises:
            RecordsError: The rows cannot be read; names the line.
        """

    def place(self, record: int) -> str:
        """Where a record (counted from 0) stands, in words a person can look up: `line 18`."""


def open_source(file: str) -> Source:
    """Opens a path, or standard input for `-`.

    Raises:
        RequestError: There is no such file, or it is a folder.
        RecordsError: The file cannot be read or has no usable header.
    """
    from grainstack.records.sources.delimited import DelimitedSource  # noqa: PLC0415 - formats load when asked for
    from grainstack.records.sources.opening import FileBytes, StandardInputBytes  # noqa: PLC0415

    if file == "-":
        return DelimitedSource(StandardInputBytes(sys.stdin.buffer))
    path = Path(file)
    if path.is_dir():
        raise RequestError(f"{file} is a folder, not a file of records.", _files_in(path))
    if not path.exists():
        raise RequestError(f"There is no file {file}.", _near_files(path))
    return DelimitedSource(FileBytes(path))


def _files_in(folder: Path) -> str:
    files = sorted(item.name for item in folder.iterdir() if item.suffix.lower() in {".csv", ".tsv", ".txt"})
    return f"In it: {', '.join(files[:6])}." if files else ""


def _near_files(path: Path) -> str:
    if not path.parent.is_dir():
        return f"There is no folder {path.parent} either."
    names = [item.name for item in path.parent.iterdir() if item.is_file() and not item.name.startswith(".")]
    remedy = nearest(path.name, names)
    return remedy if remedy.startswith("Did you mean") else ""
