"""What the page shows, as a value: a kind and the options that are not at their default."""

from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from grainstack.earlier_names import with_current_names
from grainstack.editing.described import named_on_page
from grainstack.errors import RequestError
from grainstack.making.kind import Kind
from grainstack.making.kinds import KINDS, kind_named
from grainstack.option_fields import Entry, entries, names_in
from grainstack.requests import Requests
from grainstack.toml_schema import joined_names, value_of

_NOTHING: tuple[object, ...] = ("", None, False, [])  # an option that is emptied is at its default again
_SOURCE = ("file", "codebook")  # which the page was opened with


class State(Struct, frozen=True):
    """What is asked for.

    Attributes:
        kind: The kind of table or chart.
        values: The options that are not at their default, by name.
    """

    kind: str
    values: Mapping[str, Any]


class Change(Struct, frozen=True):
    """One change of it.

    Attributes:
        options: Options with their new values; nothing, or an empty value, puts one at its default.
        kind: The kind there is to be; None for the same.
    """

    options: Mapping[str, Any] = {}
    kind: str | None = None


def changed(state: State, change: Change) -> State:
    """A state with a change made.

    Args:
        state: What is asked for.
        change: What is to be different. Options that another kind does not have are dropped with it.

    Raises:
        RequestError: There is no such kind or option.
    """
    name = change.kind or state.kind
    if name not in KINDS:
        raise RequestError(f"There is no kind `{name}`.", "Choose one of the forms.")
    known = {plain(entry.name) for entry in entries_of(kind_named(name))}
    given = (name for name, value in change.options.items() if value not in _NOTHING)
    if strange := next((one for one in given if one not in known), None):
        raise RequestError(f"There is no option `{strange}` here.", "Look for it in the panel.")
    values = {key: value for key, value in state.values.items() if key in known}
    values |= {key: value for key, value in change.options.items() if key in known}
    return State(name, {key: value for key, value in values.items() if value not in _NOTHING})


def entries_of(kind: Kind) -> list[Entry]:
    """The options of a kind."""
    return [entry for model in kind.models for entry in entries(model)]


def plain(field: str) -> str:
    """An option as page and plan name it, whose field may need another name in Python."""
    return field.rstrip("_")


def typed(state: State) -> dict[str, Any]:
    """The values of a state as their options take them, by field.

    Raises:
        RequestError: One of another type.
    """
    known = {plain(entry.name): entry for entry in entries_of(kind_named(state.kind))}
    found: dict[str, Any] = {}
    for name, value in with_current_names(state.values).items():
        entry = known.get(name)
        if entry is None or value in _NOTHING:
            continue
        try:
            found[entry.name] = value_of(entry, value)
        except ValueError as error:
            raise RequestError(f"{named_on_page(entry.name, None)} {error}.", "Change it there.") from None
    return found


def state_of(kind: Kind, requests: Requests) -> State:
    """What was asked for elsewhere, as the page holds it; records and codebook are none of it.

    Args:
        kind: The kind.
        requests: What was asked for.
    """
    values: dict[str, Any] = {}
    for model in requests:
        values |= {plain(key): value for key, value in model.asked_for().items() if value is not None}
    shown = {key: value for key, value in values.items() if key not in _SOURCE}
    known = {plain(entry.name) for entry in entries_of(kind)}
    listed = {key: list(value) if isinstance(value, tuple) else value for key, value in shown.items() if key in known}
    return State(kind.name, listed)


def with_level_called(state: State, before: str, now: str) -> State:
    """A state whose colours and highlights name a level as it is called from now on.

    Args:
        state: The state.
        before: What the level was called.
        now: What it is called.
    """
    values = dict(state.values)
    if isinstance(values.get("color"), list):
        parts = [one.partition("=") for one in values["color"]]
        values["color"] = [f"{now if of == before else of}={color}" for of, _, color in parts]
    if isinstance(values.get("highlight"), str):
        names = names_in(values["highlight"])
        values["highlight"] = joined_names([now if one == before else one for one in names])
    return State(state.kind, values)
