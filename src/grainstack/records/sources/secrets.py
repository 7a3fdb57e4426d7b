"""Passwords in addresses: better named than written, and never printed."""

import os
import re

from grainstack.errors import RecordsError

_PASSWORD = re.compile(r"(://[^/@:\s]*:)([^@/\s]*)(@)")
_NAMED = re.compile(r"\$\{(\w+)\}")


def without_password(address: str) -> str:
    """An address as it may be printed.

    Args:
        address: The address.
    """
    return _PASSWORD.sub(r"\1…\3", address)


def holds_password(address: str) -> bool:
    """Whether a password is written in an address; the name of an environment variable, `${NAME}`, is none.

    Args:
        address: The address.
    """
    match = _PASSWORD.search(address)
    return match is not None and not _NAMED.fullmatch(match[2])


def with_environment(address: str) -> str:
    """An address with the environment's values in the places of their names.

    Args:
        address: The address, with `${NAME}` where a value belongs.

    Raises:
        RecordsError: The environment has no value of a name.
    """

    def value(match: "re.Match[str]") -> str:
        if match[1] not in os.environ:
            raise RecordsError(
                f"{without_password(address)}: the environment has no {match[1]}.", f"Set it: export {match[1]}=…"
            )
        return os.environ[match[1]]

    return _NAMED.sub(value, address)
