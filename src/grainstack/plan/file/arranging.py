"""Entries of a plan in another order, or once more: their lines stay as they are, with their comments."""

import re
import tomllib
from collections.abc import Mapping, Sequence
from typing import Any

import tomlkit
from msgspec import Struct

from grainstack.plan.file.plan import PlanError

_ENTRY = re.compile(r"\s*\[\[\s*(chart|table)\s*\]\]")
_WITHIN = re.compile(r"\s*\[\[?\s*(chart|table)\s*\.")
_HEADING = re.compile(r"\s*\[")
_NAME = re.compile(r"\s*name\s*=")


class _Block(Struct, frozen=True):
    """The lines of an entry, from the comment over its heading to its last."""

    start: int
    end: int


def reordered(text: str, names: Sequence[str]) -> str:
    """A plan with its entries in another order.

    Args:
        text: The plan.
        names: The names of all its entries, in the order wanted.

    Raises:
        PlanError: Other names than its own, or entries that are written in a way that cannot be moved.
    """
    blocks, lines = _blocks(text), text.splitlines()
    if sorted(blocks) != sorted(names):
        raise PlanError("The plan has other entries by now.", "Look at it, and move them again.")
    result, at = [], 0
    for place, wanted in zip(blocks.values(), names, strict=True):
        result += lines[at : place.start]
        moved = blocks[wanted]
        result += lines[moved.start : moved.end]
        at = place.end
    return _checked(text, [*result, *lines[at:]], {})


def duplicated(text: str, name: str, new: str) -> str:
    """A plan with a copy of an entry behind it.

    Args:
        text: The plan.
        name: The entry.
        new: What the copy is called.

    Raises:
        PlanError: There is no such entry, or it cannot be copied.
    """
    blocks, lines = _blocks(text), text.splitlines()
    if name not in blocks or new in blocks:
        raise PlanError(f"The plan has {'an entry' if new in blocks else 'no'} `{new if new in blocks else name}`.")
    block = blocks[name]
    copy = [f"name = {tomlkit.item(new).as_string()}" if _NAME.match(line) else line for line in _of(lines, block)]
    return _checked(text, [*lines[: block.end], "", *copy, *lines[block.end :]], {new: name})


def _of(lines: Sequence[str], block: _Block) -> list[str]:
    """The lines of an entry without the comment over it, which is about the first."""
    part = list(lines[block.start : block.end])
    while part and part[0].lstrip().startswith("#"):
        part.pop(0)
    return part


def _blocks(text: str) -> dict[str, _Block]:
    """The entries by their names, in the order of the file."""
    lines = text.splitlines()
    starts = [at for at, line in enumerate(lines) if _ENTRY.match(line)]
    found: dict[str, _Block] = {}
    counts = {"chart": 0, "table": 0}
    content = _parsed(text)
    for start in starts:
        section = _ENTRY.match(lines[start])[1]  # type: ignore[index]
        others = (
            at for at in range(start + 1, len(lines)) if _HEADING.match(lines[at]) and not _WITHIN.match(lines[at])
        )
        end = next(others, len(lines))
        while end > start + 1 and (not lines[end - 1].strip() or lines[end - 1].lstrip().startswith("#")):
            end -= 1  # blank lines and comments that lead to what follows
        first = start
        while first and lines[first - 1].lstrip().startswith("#"):
            first -= 1
        entries = content.get(section, [])
        if counts[section] < len(entries):
            found[str(entries[counts[section]].get("name"))] = _Block(first, end)
        counts[section] += 1
    return found


def _checked(before: str, lines: Sequence[str], copies: Mapping[str, str]) -> str:
    """The text, once it is sure that it says the same but for order and copies."""
    text = "\n".join(lines) + "\n"
    old, new = _parsed(before), _parsed(text)
    for section in ("chart", "table"):
        was = {one.get("name"): one for one in old.pop(section, [])}
        now = {one.get("name"): one for one in new.pop(section, [])}
        was |= {copy: {**was[of], "name": copy} for copy, of in copies.items() if of in was}
        if was != now:
            raise PlanError(
                "The entries cannot be moved without changing them.", "Write each as [[chart]] with its keys."
            )
    if old != new:
        raise PlanError("The entries cannot be moved without changing others.", "Write them behind all other parts.")
    return text


def _parsed(text: str) -> dict[str, Any]:
    try:
        return tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise PlanError(f"The plan is no TOML: {error}.", "Mend it first.") from None
