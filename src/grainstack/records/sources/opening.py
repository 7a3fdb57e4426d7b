"""Bytes that can be read again from the start: a file, unpacked if it is packed, or a stream kept aside."""

import gzip
import io
import shutil
import tempfile
import zlib
from pathlib import Path
from typing import Any, BinaryIO, Protocol

import pyarrow as pa

from grainstack.errors import RecordsError, RequestError, reason_of
from grainstack.option_names import option

_GZIP = b"\x1f\x8b"
_ZSTANDARD = b"\x28\xb5\x2f\xfd"
_ROOMY = 1 << 28  # bytes that every machine has room and time for, however they were packed
_TIMES = 200  # records pack to a fifth or a fiftieth of their size; what packs to less is mostly made to do harm
_LONGEST = 1 << 26  # bytes of one record, beyond which a quotation mark is more likely to be missing
LONGEST_OF_ALL = 1 << 30  # beyond which the places of its values have no room in four bytes


class Bytes(Protocol):
    """Something that can be opened for reading any number of times."""

    @property
    def name(self) -> str:
        """How messages call it."""

    @property
    def allow_large(self) -> bool:
        """Whether it may unpack to any size, and hold records of any length."""

    def open(self) -> BinaryIO:
        """The bytes from the start.

        Raises:
            RecordsError: They cannot be read.
        """

    def size(self) -> int:
        """How many they are, packed or not."""

    def is_plain(self) -> bool:
        """Whether reading may start anywhere."""


def remote_files(pattern: str) -> list[str]:
    """The addresses in object storage or on a distributed file system that match a pattern.

    Raises:
        RequestError: There is none, or the storage cannot be used.
    """
    storage, path = _storage(pattern)
    found: list[str] = sorted(storage.unstrip_protocol(name) for name in storage.glob(path))
    if not found:
        raise RequestError(f"No file matches {pattern}.", "Put quotation marks around a pattern, and check its folder.")
    return found


def _storage(address: str) -> tuple[Any, str]:
    """The file system of an address, and the path on it."""
    try:
        from fsspec.core import url_to_fs  # noqa: PLC0415 - an optional part

        storage, path = url_to_fs(address)
    except ImportError as reason:
        raise RequestError(
            f"{address} cannot be read: {reason}.", "Install that package beside grainstack[cluster]."
        ) from None
    except (OSError, ValueError) as reason:
        raise RequestError(f"{address} cannot be read: {reason}.", "Check its address.") from None
    return storage, path


class RemoteBytes:
    """The bytes of a file in object storage or on a distributed file system, through `fsspec`.

    Args:
        address: Its address, such as `s3://bucket/file.parquet`.
        allow_large: Whether it may unpack to any size.
    """

    def __init__(self, address: str, *, allow_large: bool = False) -> None:
        self.address = address
        self.allow_large = allow_large
        self.name = address.rsplit("/", 1)[-1]

    def open(self) -> BinaryIO:
        """The bytes from the start."""
        storage, path = _storage(self.address)
        try:
            raw: BinaryIO = storage.open(path, "rb")
            return unpacked(raw, self)
        except (OSError, ValueError) as reason:
            raise RecordsError(f"Cannot read {self.address}: {reason_of(reason)}.") from reason

    def size(self) -> int:
        """How many bytes it has, packed or not."""
        with self.open() as file:
            return file.seek(0, 2) if self.is_plain() else 0

    def is_plain(self) -> bool:
        """Whether it is not packed, so that reading may start anywhere."""
        return is_plain(self)


class FileBytes:
    """The bytes of a file, opened read-only and unpacked when they are gzip or Zstandard.

    Args:
        path: The file.
        allow_large: Whether it may unpack to any size.
    """

    def __init__(self, path: Path, *, allow_large: bool = False) -> None:
        self.allow_large = allow_large
        self.path = path.absolute()  # so that another process finds it too
        self.name = path.name

    def open(self) -> BinaryIO:
        """The bytes from the start."""
        try:
            raw = self.path.open("rb")
            return unpacked(raw, self)
        except OSError as reason:
            raise RecordsError(f"Cannot read {self.path}: {reason.strerror or reason}.") from reason

    def size(self) -> int:
        """How many bytes it has, packed or not."""
        return self.path.stat().st_size

    def is_plain(self) -> bool:
        """Whether it is not packed, so that reading may start anywhere."""
        return is_plain(self)


class StreamBytes:
    """A stream that cannot be rewound, kept in a temporary file that has no name and goes with the process.

    Args:
        stream: Standard input, a pipe or a device; read to its end at once.
        name: How messages call it.
        allow_large: Whether it may unpack to any size.
    """

    def __init__(self, stream: BinaryIO, name: str, *, allow_large: bool = False) -> None:
        self.name = name
        self.allow_large = allow_large
        self._kept = tempfile.TemporaryFile()  # noqa: SIM115 - lives as long as this object
        shutil.copyfileobj(stream, self._kept)

    def __del__(self) -> None:
        self._kept.close()

    def open(self) -> BinaryIO:
        """The bytes from the start; what was opened before reads on from its own place no more."""
        self._kept.seek(0)
        return unpacked(io.BufferedReader(_Unclosed(self._kept)), self)

    def size(self) -> int:
        """How many bytes it has, packed or not."""
        return self._kept.seek(0, 2)

    def is_plain(self) -> bool:
        """False: no other process can read it."""
        return False


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


def is_plain(content: Bytes) -> bool:
    """Whether a file is not packed."""
    with content.open() as file:
        return not isinstance(file, io.BufferedReader) or not isinstance(file.raw, _Guarded)


def check_growth(packed: int, size: int, content: Bytes) -> None:
    """Refuses what unpacks to so much more than it is that it is mostly made to take all room or time.

    Args:
        packed: Bytes as they were.
        size: Bytes that they became.
        content: What they are of.

    Raises:
        RecordsError: It does, and that is not allowed.
    """
    if size > _ROOMY and size > packed * _TIMES and not content.allow_large:
        raise RecordsError(
            f"{content.name} unpacks to more than {_TIMES} times its size, which records seldom do.",
            f"If it is meant so: {option('allow_large')}.",
        )


def check_length(size: int, content: Bytes) -> None:
    """Refuses records that are longer than people write.

    Args:
        size: Bytes of a record so far.
        content: Where it is.

    Raises:
        RecordsError: It is too long, and that is not allowed, or longer than anything can be.
    """
    most = LONGEST_OF_ALL if content.allow_large else _LONGEST
    if size > most:
        raise too_long(most, content)


def too_long(most: int, content: Bytes) -> RecordsError:
    """What is said of a record that is longer than it may be.

    Args:
        most: The bytes it may have.
        content: Where it is.
    """
    return RecordsError(
        f"{content.name} has a record of more than {most >> 20} MiB: a quotation mark or line end may be missing.",
        "" if content.allow_large else f"If it is meant so: {option('allow_large')}.",
    )


def unpacked(raw: BinaryIO, content: Bytes) -> BinaryIO:
    """The stream itself, or what is packed in it."""
    head = raw.read(4)
    raw.seek(0)
    if head.startswith(_GZIP):
        return io.BufferedReader(_Guarded(gzip.GzipFile(fileobj=raw), raw, content))
    if head.startswith(_ZSTANDARD):
        return io.BufferedReader(_Guarded(pa.CompressedInputStream(pa.PythonFile(raw, "r"), "zstd"), raw, content))
    return raw


class _Guarded(io.RawIOBase):
    """What is packed in a stream; a broken or short stream is a failure to read, not to parse."""

    def __init__(self, inner: Any, raw: BinaryIO, content: Bytes) -> None:  # noqa: ANN401 - whatever unpacks
        self._inner = inner
        self._raw = raw
        self._content = content
        self._size = 0

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: object) -> int:
        view = memoryview(buffer)  # type: ignore[arg-type]
        try:
            part = self._inner.read(len(view))
        except (OSError, EOFError, ValueError, zlib.error) as reason:
            raise RecordsError(
                f"{self._content.name} is broken or cut short: {str(reason).rstrip('.')}.", "Copy or download it again."
            ) from reason
        view[: len(part)] = part
        self._size += len(part)
        if self._size > _ROOMY:
            check_growth(self._raw.tell(), self._size, self._content)
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
