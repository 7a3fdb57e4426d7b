"""Passwords in addresses: better named than written, and never printed."""

import os
import re

from grainstack.errors import RecordsError

_PASSWORDS = (  # before the host, and among the settings behind the name
    re.compile(r"(://[^/@:\s]*:)([^@\s?#]*)(@)"),
    re.compile(r"([?&](?:ssl)?password=)([^&#\s]*)()"),
)
_NAMED = re.compile(r"\$\{(\w+)\}")


def without_password(address: str) -> str:
    """An address as it may be printed.

    Args:
        address: The address.
    """
    for pattern in _PASSWORDS:
        address = pattern.sub(r"\1…\3", address)
    return address


def bare(address: str) -> str:
    """An address without its password, as one would write it who keeps that elsewhere.

    Args:
        address: The address.
    """
    place, mark, table = _PASSWORDS[0].sub(lambda match: f"{match[1][:-1]}@", address).partition("#")
    server, _, settings = place.partition("?")
    kept = "&".join(one for one in settings.split("&") if one and not holds_password(f"?{one}"))
    return (f"{server}?{kept}" if kept else server) + mark + table


def holds_password(address: str) -> bool:
    """Whether a password is written in an address; the name of an environment variable, `${NAME}`, is none.

    Args:
        address: The address.
    """
    matches = (match for pattern in _PASSWORDS for match in pattern.finditer(address))
    return any(not _NAMED.fullmatch(match[2]) for match in matches)


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
