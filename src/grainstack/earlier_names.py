"""Names that options had before: whoever still writes them is understood, and nothing new is made with them."""

from collections.abc import Iterable, Mapping
from typing import Any

EARLIER = {"level": "confidence"}  # in entries, defaults, calls and on the command line


def with_current_names(values: Mapping[str, Any]) -> dict[str, Any]:
    """Values under what their options are called now; one that stands under both keeps that of its current name."""
    now = {name: value for name, value in values.items() if name not in EARLIER}
    return {EARLIER[name]: value for name, value in values.items() if name in EARLIER} | now


def typed_now(arguments: Iterable[str]) -> list[str]:
    """Arguments of a command with their options called as they are now."""
    earlier = {f"--{name}": f"--{now}" for name, now in EARLIER.items()}
    found = []
    for argument in arguments:
        option, equals, value = argument.partition("=")
        found.append(f"{earlier.get(option, option)}{equals}{value}")
    return found
