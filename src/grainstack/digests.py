"""Digests: whether two things are the same, told without keeping them."""

import hashlib
import zlib
from collections.abc import Mapping
from enum import Enum
from pathlib import Path

from msgspec import Struct

_PLAIN = {str, int, float, bool, type(None)}  # what most fields hold, and is written as it is
_CHUNK = 1 << 20  # bytes read at once


def digest_of_file(path: Path) -> str:
    """The length and checksum of a file's content: a change of it goes unseen once in four thousand million times.

    A checksum and no cryptographic digest: nobody is kept from anything by it, and records are large.

    Args:
        path: The file.

    Raises:
        OSError: It cannot be read.
    """
    checksum = length = 0
    with path.open("rb") as file:
        while chunk := file.read(_CHUNK):
            checksum, length = zlib.crc32(chunk, checksum), length + len(chunk)
    return f"{length:x}-{checksum:08x}"


def digest_of_bytes(content: bytes) -> str:
    """The same for some bytes."""
    return f"{len(content):x}-{zlib.crc32(content):08x}"


def digest_of(*values: object) -> str:
    """The digest of plain values and structures of such: the same in every run and on every machine.

    Args:
        values: The values.
    """
    return hashlib.sha256("\n".join(map(_canonical, values)).encode()).hexdigest()


def _canonical(value: object) -> str:
    """A value as text that tells it from every other one."""
    if isinstance(value, Struct):
        fields_of_it = ((name, getattr(value, name)) for name in value.__struct_fields__)
        content = ", ".join(
            f"{name}={one!r}" if type(one) in _PLAIN else f"{name}={_canonical(one)}" for name, one in fields_of_it
        )
        return f"{type(value).__qualname__}({content})"
    if isinstance(value, bytes):
        return f"bytes {hashlib.sha256(value).hexdigest()}"
    if isinstance(value, Mapping):
        return f"{{{', '.join(sorted(f'{_canonical(key)}: {_canonical(one)}' for key, one in value.items()))}}}"
    if isinstance(value, set | frozenset):
        return f"{{{', '.join(sorted(map(_canonical, value)))}}}"
    if isinstance(value, list | tuple):
        return f"[{', '.join(map(_canonical, value))}]"
    return repr(value.value if isinstance(value, Enum) else value)
