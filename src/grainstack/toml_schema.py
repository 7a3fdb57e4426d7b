"""Values of TOML files: as options take them, and as a JSON Schema tells editors what may stand there."""

import csv
import io
from collections.abc import Callable, Mapping
from typing import Any

from msgspec import Struct

from grainstack.option_fields import Entry

Schema = Mapping[str, Any]
TEXT: Schema = {"type": "string"}
NUMBER: Schema = {"type": "number"}
COLOR: Schema = {"type": "string", "description": "A colour like #1a726a, or by its name in CSS."}
_CODE: Schema = {"type": ["string", "number"]}
BOOLEAN: Schema = {"type": "boolean"}
TEXTS: Schema = {"anyOf": [TEXT, {"type": "array", "items": TEXT}]}
CODES: Schema = {"anyOf": [_CODE, {"type": "array", "items": _CODE}]}


class Key(Struct, frozen=True):
    """A key of a file.

    Attributes:
        help: What it says, in a sentence.
        schema: What it may hold.
    """

    help: str
    schema: Schema


def one_of(*choices: str) -> Schema:
    """One of some texts."""
    return {"enum": list(choices)}


def table_of(values: Schema) -> Schema:
    """A table with keys of one's own."""
    return {"type": "object", "additionalProperties": values}


def section_of(keys: Mapping[str, Key]) -> Schema:
    """A table with these keys and no others."""
    properties = {name: {**key.schema, "description": key.help} for name, key in keys.items()}
    return {"type": "object", "properties": properties, "additionalProperties": False}


def key_of(entry: Entry) -> Key:
    """An option as a key of a file; see `value_of` for what it takes.

    Args:
        entry: The option.
    """
    kinds: dict[object, Schema] = {bool: {"type": "boolean"}, int: {"type": "integer"}, float: NUMBER}
    kind = next((schema for of_it, schema in kinds.items() if entry.type in (of_it, of_it | None)), CODES)  # type: ignore[operator]
    if entry.word.choices:
        kind = one_of(*entry.word.choices)
    elif entry.word.within:
        low, high = entry.word.within
        kind = {**kind, "minimum": low, **({} if high == float("inf") else {"maximum": high})}
    if entry.word.from_table:
        item = {"anyOf": [_CODE, {"type": "object"}]}
        kind = {"anyOf": [_CODE, {"type": "array", "items": item}]}
    return Key(entry.word.help, kind)


_KINDS: tuple[tuple[type, str, Callable[[object], bool]], ...] = (
    (bool, "true or false", lambda value: isinstance(value, bool)),
    (int, "a whole number", lambda value: isinstance(value, int) and not isinstance(value, bool)),
    (float, "a number", lambda value: isinstance(value, int | float) and not isinstance(value, bool)),
    (str, "text", lambda value: isinstance(value, str | int | float) and not isinstance(value, bool)),
)


def value_of(entry: Entry, value: object) -> object:
    """A value as an option takes it: a number will do for text, one text for a list, a list for text that lists names.

    Args:
        entry: The option.
        value: What the file holds.

    Raises:
        ValueError: It is of another type; says which is wanted, as the end of a sentence.
    """
    if entry.type == tuple[str, ...]:
        items = value if isinstance(value, list) else [value]
        if entry.word.from_table:
            items = [entry.word.from_table(item) if isinstance(item, dict) else item for item in items]
        if not all(_KINDS[-1][2](item) for item in items):
            raise ValueError("must be a list of texts")
        return tuple(str(item) for item in items)
    for kind, words, fits in _KINDS:
        if entry.type == kind or entry.type == (kind | None):
            if kind is str and isinstance(value, list) and all(fits(item) for item in value):
                return joined_names([str(item) for item in value])
            if not fits(value):
                raise ValueError(f"must be {words}")
            return kind(value)
    raise TypeError(f"no value can be given for {entry.name}: {entry.type}")


def joined_names(names: list[str]) -> str:
    """Names as they are listed in one option: `A,B` or `"A, with a comma",B`.

    Args:
        names: The names.
    """
    target = io.StringIO()
    csv.writer(target, lineterminator="").writerow(names)
    return target.getvalue()
