"""Bytes that can be read again from the start: a file, or standard input kept aside."""

import io
import shutil
import tempfile
from pathlib import Path
from typing import BinaryIO, Protocol

from grainstack.errors import RecordsError


class Bytes(Protocol):
    """Something that can be opened for reading any number of times."""

    @property
    def name(self) -> str:
        """How messages call it."""

    def open(self) -> BinaryIO:
        """The bytes from the start.

        Raises:
            RecordsError: They cannot be read.
        """


class FileBytes:
    """The bytes of a file, opened read-only."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self.name = path.name

    def open(self) -> BinaryIO:
        """The bytes from the start."""
        try:
            return self._path.open("rb")
        except OSError as reason:
            raise RecordsError(f"Cannot read {self._path}: {reason.strerror}.") from reason


class StandardInputBytes:
    """Standard input, kept in a temporary file so that it can be read more than once."""

    name = "standard input"

    def __init__(self, stream: BinaryIO) -> None:
        self._kept = tempfile.TemporaryFile()  # noqa: SIM115 - lives as long as this object
        shutil.copyfileobj(stream, self._kept)

    def open(self) -> BinaryIO:
        """The bytes from the start; what was opened before reads on from its own place no more."""
        self._kept.seek(0)
        return io.BufferedReader(_Unclosed(self._kept))


class _Unclosed(io.RawIOBase):
    """A view of a file that leaves the file open when it is closed itself."""

    def __init__(self, file: BinaryIO) -> None:
        self._file = file

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: object) -> int:
        view = memoryview(buffer)  # type: ignore[arg-type]
        part = self._file.read(len(view))
        view[: len(part)] = part
        return len(part)
