"""Names of fields in messages, whoever asked.

A message names a field by `option("keep_top")` and a kind of chart by `command("bar")`. Whoever asked turns that into
words of their own, `--keep-top` on the command line or `keep_top` in a plan, by `worded`; so nothing that is asked
needs to know who asks.
"""

import re
from collections.abc import Callable

from msgspec import Struct

_FIELD, _VALUE, _END = "\x0e", "\x1f", "\x0f"  # control characters that nobody types
_TOKEN = re.compile(f"{_FIELD}([^{_VALUE}{_END}]+)(?:{_VALUE}([^{_END}]*))?{_END}")
_COMMAND = "!"


def option(name: str, value: str | None = None) -> str:
    """A field as it stands in a message until whoever asked has turned it into words of their own.

    Args:
        name: The field.
        value: What it should hold, where a message proposes that; quoted as whoever asked would have to type it.
    """
    return f"{_FIELD}{name}{_END}" if value is None else f"{_FIELD}{name}{_VALUE}{value}{_END}"


def command(kind: str) -> str:
    """A kind of table or chart as it stands in a message, likewise; fields follow as `option`s."""
    return f"{_FIELD}{_COMMAND}{kind}{_END}"


class Naming(Struct, frozen=True):
    """How somebody who asks names things.

    Attributes:
        field: A field by its name, with the value it should hold or None.
        kind: A kind of table or chart.
    """

    field: Callable[[str, str | None], str]
    kind: Callable[[str], str]


def worded(text: str, naming: Naming) -> str:
    """A message with every field and kind named as whoever asked names them.

    Args:
        text: A message with fields and kinds as tokens.
        naming: How whoever asked names them.
    """

    def named(match: "re.Match[str]") -> str:
        name, value = match[1], match[2]
        return naming.kind(name.removeprefix(_COMMAND)) if name.startswith(_COMMAND) else naming.field(name, value)

    return _TOKEN.sub(named, text)


def fields_named(text: str) -> tuple[str, ...]:
    """The fields a message names."""
    return tuple(match[1] for match in _TOKEN.finditer(text) if not match[1].startswith(_COMMAND))


def proposed_in(text: str) -> tuple[tuple[str, str | None], ...]:
    """The fields a message proposes, in its order, each with the value it should hold; None where that is left open.

    A kind that is proposed stands as the value of `kind`.

    Args:
        text: A message with fields and kinds as tokens.
    """
    found = []
    for match in _TOKEN.finditer(text):
        name, value = match[1], match[2]
        found.append(("kind", name.removeprefix(_COMMAND)) if name.startswith(_COMMAND) else (name, value))
    return tuple(dict.fromkeys(found))


def plain(text: str) -> str:
    """A message in which fields go by their own names: for logs and tests, where nobody asked."""
    return worded(text, Naming(lambda name, value: name if value is None else f"{name} {value}", str))
