"""An entry of a plan replaced by another of its name: lines that say the same stay, with their comments."""

import re
import tomllib
from collections.abc import Mapping, Sequence
from typing import Any

import tomlkit

from grainstack.plan.file.plan import PlanError

_HEADING = re.compile(r"\s*\[\[?\s*([\w.\"' -]+?)\s*\]\]?\s*(?:#.*)?$")
_KEY = re.compile(r"\s*([A-Za-z0-9_-]+)\s*=")


def replaced(text: str, section: str, place: int, wanted: Mapping[str, Any]) -> tuple[str, tuple[str, ...]]:
    """A plan with another entry in the place of one.

    Args:
        text: The plan.
        section: `table` or `chart`.
        place: Which of them, from 0.
        wanted: What the entry is to say.

    Returns:
        The text, and what has changed: a line for each key.

    Raises:
        PlanError: The entry is written in a way that cannot be replaced without touching others.
    """
    lines = text.splitlines()
    start, end = _extent(lines, section, place)
    before = tomllib.loads(text)
    old = before[section][place]
    block = _block(lines[start + 1 : end], old, wanted)
    result = "\n".join([*lines[: start + 1], *block, *lines[end:]]) + "\n"
    before[section][place] = dict(wanted)
    try:
        whole = tomllib.loads(result)
    except tomllib.TOMLDecodeError:
        whole = {}
    if whole != before:
        raise PlanError("The entry cannot be replaced without changing others.", "Write it as [[chart]] with its keys.")
    return result, _changes(old, wanted)


def _extent(lines: Sequence[str], section: str, place: int) -> tuple[int, int]:
    """The line of an entry's heading, and the one behind its last."""
    number, start = -1, None
    for at, line in enumerate(lines):
        heading = _HEADING.match(line)
        if not heading:
            continue
        if start is not None and not heading[1].startswith(f"{section}."):
            return start, _without_comment(lines, start, at)
        if start is None and line.strip().startswith(f"[[{section}]]"):
            number += 1
            start = at if number == place else None
    if start is None:
        raise PlanError("The entry is not written under a heading of its own.", f"Write it under [[{section}]].")
    return start, _without_comment(lines, start, len(lines))


def _without_comment(lines: Sequence[str], start: int, end: int) -> int:
    """The end of an entry without blank lines and comments that lead to what follows."""
    while end > start + 1 and (not lines[end - 1].strip() or lines[end - 1].lstrip().startswith("#")):
        end -= 1
    return end


def _block(lines: Sequence[str], old: Mapping[str, Any], wanted: Mapping[str, Any]) -> list[str]:
    """The lines of an entry: those that say the same, then or in their place those that are new."""
    kept: list[str] = []
    met: set[str] = set()
    for line in lines:
        key = _KEY.match(line)
        if key is None:
            if not line.strip() or line.lstrip().startswith("#"):
                kept.append(line)
            continue  # a part of a value over several lines, or of a table of its own
        name = key[1]
        if name not in wanted or name in met:
            continue
        met.add(name)
        alone = _alone(line)
        same = alone is not None and alone == wanted[name] == old.get(name)
        kept.append(line if same else _line(name, wanted[name]))
    while kept and not kept[-1].strip():
        kept.pop()  # before a table of its own that is gone
    return [*kept, *(_line(name, value) for name, value in wanted.items() if name not in met)]


def _alone(line: str) -> Any:  # noqa: ANN401 - whatever TOML holds
    """The value of a line that is whole by itself; None where it is not."""
    try:
        return next(iter(tomllib.loads(line).values()))
    except tomllib.TOMLDecodeError:
        return None


def _line(name: str, value: object) -> str:
    return f"{name} = {_inline(value)}"


def _inline(value: object) -> str:
    """A value on one line; tables within it too."""
    if isinstance(value, dict):
        return "{" + ", ".join(f"{key} = {_inline(one)}" for key, one in value.items()) + "}"
    if isinstance(value, list):
        return "[" + ", ".join(map(_inline, value)) + "]"
    return str(tomlkit.item(value).as_string())


def _changes(old: Mapping[str, Any], new: Mapping[str, Any]) -> tuple[str, ...]:
    """What is different, key by key."""
    found = [f"{key} is now {new[key]!r}, before {old[key]!r}" for key in new if key in old and new[key] != old[key]]
    found += [f"{key} = {new[key]!r} is new" for key in new if key not in old]
    return (*found, *(f"{key} = {old[key]!r} is gone" for key in old if key not in new))
