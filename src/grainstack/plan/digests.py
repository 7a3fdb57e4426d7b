"""Digests: whether two things are the same, told without keeping them."""

import hashlib
from collections.abc import Mapping
from dataclasses import fields, is_dataclass
from enum import Enum
from pathlib import Path

_LENGTH = 20  # bytes: two different contents with the same digest are not to be expected in the lifetime of a plan


def digest_of_file(path: Path) -> str:
    """The digest of a file's bytes.

    Args:
        path: The file.

    Raises:
        OSError: It cannot be read.
    """
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()[: 2 * _LENGTH]


def digest_of_bytes(content: bytes) -> str:
    """The digest of some bytes."""
    return hashlib.sha256(content).hexdigest()[: 2 * _LENGTH]


def digest_of(*values: object) -> str:
    """The digest of plain values and dataclasses of such: the same in every run and on every machine.

    Args:
        values: The values.
    """
    return digest_of_bytes("\n".join(map(_canonical, values)).encode())


def _canonical(value: object) -> str:
    """A value as text that tells it from every other one."""
    if is_dataclass(value) and not isinstance(value, type):
        content = ", ".join(f"{item.name}={_canonical(getattr(value, item.name))}" for item in fields(value))
        return f"{type(value).__qualname__}({content})"
    if isinstance(value, bytes):
        return f"bytes {digest_of_bytes(value)}"
    if isinstance(value, Mapping):
        return f"{{{', '.join(sorted(f'{_canonical(key)}: {_canonical(one)}' for key, one in value.items()))}}}"
    if isinstance(value, set | frozenset):
        return f"{{{', '.join(sorted(map(_canonical, value)))}}}"
    if isinstance(value, list | tuple):
        return f"[{', '.join(map(_canonical, value))}]"
    return repr(value.value if isinstance(value, Enum) else value)
