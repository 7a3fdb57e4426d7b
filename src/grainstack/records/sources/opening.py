"""Bytes that can be read again from the start: a file, unpacked if it is packed, or a stream kept aside."""

import io
import shutil
import tempfile
from pathlib import Path
from typing import Any, BinaryIO, Protocol

from grainstack.errors import RecordsError

_GZIP = b"\x1f\x8b"
_ZSTANDARD = b"\x28\xb5\x2f\xfd"


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
    """The bytes of a file, opened read-only and unpacked when they are gzip or Zstandard."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.name = path.name

    def open(self) -> BinaryIO:
        """The bytes from the start."""
        try:
            raw = self.path.open("rb")
            return unpacked(raw, self.name)
        except OSError as reason:
            raise RecordsError(f"Cannot read {self.path}: {reason.strerror or reason}.") from reason


class StreamBytes:
    """A stream that cannot be rewound, kept in a temporary file that has no name and goes with the process.

    Args:
        stream: Standard input, a pipe or a device; read to its end at once.
        name: How messages call it.
    """

    def __init__(self, stream: BinaryIO, name: str) -> None:
        self.name = name
        self._kept = tempfile.TemporaryFile()  # noqa: SIM115 - lives as long as this object
        shutil.copyfileobj(stream, self._kept)

    def open(self) -> BinaryIO:
        """The bytes from the start; what was opened before reads on from its own place no more."""
        self._kept.seek(0)
        return unpacked(io.BufferedReader(_Unclosed(self._kept)), self.name)


_KEPT_FILES: list[Path] = []


def kept_file(content: Bytes) -> Path:
    """Bytes in a temporary file with a name, for readers that open files themselves; see `remove_kept_files`."""
    with content.open() as file, tempfile.NamedTemporaryFile(prefix="grainstack-", delete=False) as kept:
        _KEPT_FILES.append(Path(kept.name))
        shutil.copyfileobj(file, kept)
    return Path(kept.name)


def remove_kept_files() -> None:
    """Removes every temporary file that has a name."""
    while _KEPT_FILES:
        _KEPT_FILES.pop().unlink(missing_ok=True)


def unpacked(raw: BinaryIO, name: str) -> BinaryIO:
    """The stream itself, or what is packed in it."""
    head = raw.read(4)
    raw.seek(0)
    if head.startswith(_GZIP):
        import gzip  # noqa: PLC0415 - few files are packed

        return io.BufferedReader(_Guarded(gzip.GzipFile(fileobj=raw), raw, name))
    if head.startswith(_ZSTANDARD):
        import pyarrow as pa  # noqa: PLC0415 - few files are packed

        return io.BufferedReader(_Guarded(pa.CompressedInputStream(pa.PythonFile(raw, "r"), "zstd"), raw, name))
    return raw


class _Guarded(io.RawIOBase):
    """What is packed in a stream; a broken or short stream is a failure to read, not to parse."""

    def __init__(self, inner: Any, raw: BinaryIO, name: str) -> None:  # noqa: ANN401 - whatever unpacks
        self._inner = inner
        self._raw = raw
        self._name = name

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: object) -> int:
        view = memoryview(buffer)  # type: ignore[arg-type]
        try:
            part = self._inner.read(len(view))
        except (OSError, EOFError, ValueError) as reason:
            raise RecordsError(
                f"{self._name} is broken or cut short: {str(reason).rstrip('.')}.", "Copy or download it again."
            ) from reason
        view[: len(part)] = part
        return len(part)

    def close(self) -> None:
        if not self.closed:
            self._inner.close()
            self._raw.close()
        super().close()


class _Unclosed(io.RawIOBase):
    """A view of a file that leaves the file open when it is closed itself."""

    def __init__(self, file: BinaryIO) -> None:
        self._file = file

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return True

    def seek(self, offset: int, whence: int = 0, /) -> int:
        return self._file.seek(offset, whence)

    def readinto(self, buffer: object) -> int:
        view = memoryview(buffer)  # type: ignore[arg-type]
        part = self._file.read(len(view))
        view[: len(part)] = part
        return len(part)
