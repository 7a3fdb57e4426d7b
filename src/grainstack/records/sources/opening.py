"""Bytes that can be read again from the start: a file, unpacked if it is packed, or a stream kept aside."""

import io
import shutil
import tempfile
import zlib
from pathlib import Path
from typing import Any, BinaryIO, Protocol

from grainstack.errors import RecordsError, RequestError, reason_of

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
    """

    def __init__(self, address: str) -> None:
        self.address = address
        self.name = address.rsplit("/", 1)[-1]

    def open(self) -> BinaryIO:
        """The bytes from the start."""
        storage, path = _storage(self.address)
        try:
            raw: BinaryIO = storage.open(path, "rb")
            return unpacked(raw, self.name)
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
    """The bytes of a file, opened read-only and unpacked when they are gzip or Zstandard."""

    def __init__(self, path: Path) -> None:
        self.path = path.absolute()  # so that another process finds it too
        self.name = path.name

    def open(self) -> BinaryIO:
        """The bytes from the start."""
        try:
            raw = self.path.open("rb")
            return unpacked(raw, self.name)
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
    """

    def __init__(self, stream: BinaryIO, name: str) -> None:
        self.name = name
        self._kept = tempfile.TemporaryFile()  # noqa: SIM115 - lives as long as this object
        shutil.copyfileobj(stream, self._kept)

    def __del__(self) -> None:
        self._kept.close()

    def open(self) -> BinaryIO:
        """The bytes from the start; what was opened before reads on from its own place no more."""
        self._kept.seek(0)
        return unpacked(io.BufferedReader(_Unclosed(self._kept)), self.name)

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
        except (OSError, EOFError, ValueError, zlib.error) as reason:
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
