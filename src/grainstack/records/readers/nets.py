"""Levels added together and shown beside their parts."""

from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from grainstack.errors import IdleError, RequestError, nearest
from grainstack.option_fields import names_in
from grainstack.option_names import option
from grainstack.records.variable import Variable


class Net(Struct, frozen=True):
    """Levels of a column that are shown together too.

    Attributes:
        column: The column.
        name: What they are called together.
        parts: The names of its levels.
    """

    column: str
    name: str
    parts: tuple[str, ...]


def net_of(text: str) -> Net:
    """A net as typed: `COLUMN: NAME = A, B`.

    Raises:
        RequestError: It is not of this form.
    """
    column, colon, rule = text.partition(":")
    name, equals, parts = rule.partition("=")
    net = Net(column.strip(), name.strip(), names_in(parts))
    if not (colon and equals and net.column and net.name and len(net.parts) > 1):
        raise RequestError(
            f"`{option('net')} {text}` is incomplete.", f'Write {option("net")} "COLUMN: NAME = LEVEL, LEVEL".'
        )
    return net


def nets_by_column(texts: Sequence[str], dimensions: Sequence[str]) -> dict[str, list[Net]]:
    """The nets of each column.

    Args:
        texts: As typed.
        dimensions: The columns that something is shown by.

    Raises:
        IdleError: Nothing is shown by a column.
        RequestError: Two nets of a column have one name.
    """
    found: dict[str, list[Net]] = {}
    for net in map(net_of, texts):
        if net.column not in dimensions:
            raise IdleError(
                f"{option('net')} of `{net.column}` makes no difference: nothing is shown by it.",
                f"Show something {option('by', net.column)} or {option('split', net.column)}, or leave it out.",
            )
        mine = found.setdefault(net.column, [])
        if net.name in [one.name for one in mine]:
            raise RequestError(f"Two nets of `{net.column}` are called `{net.name}`.", "Give them names of their own.")
        mine.append(net)
    return {column: [_whole(net, mine) for net in mine] for column, mine in found.items()}


def _whole(net: Net, others: Sequence[Net], within: tuple[str, ...] = ()) -> Net:
    """A net with the levels of the nets within it.

    Raises:
        RequestError: A net is a part of itself.
    """
    if net.name in within:
        raise RequestError(f"The net {net.name} of `{net.column}` is a part of itself.", "Name levels as its parts.")
    by_name = {one.name: one for one in others}
    found: list[str] = []
    for part in net.parts:
        inner = by_name.get(part) if part != net.name else None
        found += _whole(inner, others, (*within, net.name)).parts if inner else [part]
    return replace(net, parts=tuple(dict.fromkeys(found)))


def members(net: Net, variable: Variable) -> list[int]:
    """The places of a net's levels among all levels of its variable.

    Raises:
        RequestError: There is no such level, or one has the name of the net.
    """
    plain = [(place, level) for place, level in enumerate(variable.levels) if not level.is_net]
    places = {name: place for place, level in reversed(plain) for name in (level.label, level.code)}
    if net.name in places:
        raise RequestError(f"`{net.column}` has a level `{net.name}` already.", "Call the net something else.")
    for name in net.parts:
        if name not in places:
            names = [level.label for _, level in plain]
            raise RequestError(f"{option('net')}: `{net.column}` has no level `{name}`.", nearest(name, names))
    return [places[name] for name in net.parts]
