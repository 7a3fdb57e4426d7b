"""Entries that are made for each level of a column: a set of charts for every region, each in a folder of its own."""

import re
from collections.abc import Mapping, Sequence
from typing import Any

from msgspec.structs import replace

from grainstack.errors import GrainStackError
from grainstack.making.make import Read
from grainstack.option_fields import Request
from grainstack.plan.building.levels import Column, ColumnLevels, band_of
from grainstack.plan.file.plan import PlanEntry
from grainstack.records.records_request import RecordsRequest
from grainstack.records.variable import Level
from grainstack.requests import Requests

_MOST = 500  # levels: more folders than that are a mistake
_LONGEST = 60  # characters of a folder's name: what every file system has room for, even in other scripts
_RESERVED = re.compile(r"con|prn|aux|nul|com\d|lpt\d")  # names some systems keep for devices


def each_entry(
    entries: Sequence[PlanEntry], levels: ColumnLevels, read: Read, faults: list[str]
) -> tuple[PlanEntry, ...]:
    """Entries, with those that are made for each level of a column once for each that their records have.

    Args:
        entries: The entries.
        levels: Tells the levels.
        read: Has the records of one source read.
        faults: What is wrong with them, a line each.
    """
    columns = [Column(entry, entry.for_each, filtered=True) for entry in entries if entry.for_each]
    read_levels("for_each", columns, levels, read, faults)
    found: list[PlanEntry] = []
    for entry in entries:
        if not entry.for_each:
            found.append(entry)
            continue
        of_it = levels.of(Column(entry, entry.for_each, filtered=True))
        if len(of_it) > _MOST:
            faults.append(
                f"{entry.where}: {entry.for_each} has {len(of_it):,} levels; for_each takes up to {_MOST}. "
                "Choose a column of fewer, or keep only some of them."
            )
            continue
        folders = folder_names([level.label for level in of_it])
        found += [_for_level(entry, level, folder) for level, folder in zip(of_it, folders, strict=True)]
    return tuple(found)


def read_levels(key: str, columns: Sequence[Column], levels: ColumnLevels, read: Read, faults: list[str]) -> None:
    """Reads the levels of columns that something is made for each of.

    Args:
        key: The key of the plan that names them.
        columns: The columns.
        levels: Tells the levels.
        read: Has the records of one source read.
        faults: What is wrong with them, a line each.
    """
    banded = [column for column in columns if _is_banded(column, levels)]
    faults += [
        f"{column.entry.where}: {key} takes a column of categories, and {column.name} is cut into bands."
        for column in banded
    ]
    if not banded:
        levels.read(columns, read, faults)


def _is_banded(column: Column, levels: ColumnLevels) -> bool:
    """Whether a column is cut into bands, of which records know nothing."""
    bands = [text for text in column.entry.requests[RecordsRequest].band if band_of(text) == column.name]
    try:
        return bool(bands or levels.sources.of(column.entry).opened.codebook.variable(column.name).bands)
    except GrainStackError:
        return False  # told when the levels are read


def folder_names(labels: Sequence[str]) -> list[str]:
    """Names for folders that every system takes, each another even where capitals do not count.

    Args:
        labels: What they are for.
    """
    found: list[str] = []
    for label in labels:
        plain = re.sub(r"[^\w-]+", "-", label).strip("-")[:_LONGEST].strip("-").lower() or "level"
        plain = f"level-{plain}" if _RESERVED.fullmatch(plain) else plain
        name, number = plain, 2
        while name in found:
            name, number = f"{plain}-{number}", number + 1
        found.append(name)
    return found


def _for_level(entry: PlanEntry, level: Level, folder: str) -> PlanEntry:
    """An entry for the records of one level, which stands in its texts as `{column}`."""
    of_level = keeping(entry.requests, entry.for_each, level)
    place = f"{{{entry.for_each}}}"
    requests = Requests(*(_with_text(request, place, level.label) for request in of_level))
    return replace(entry, requests=requests, folder=folder, level=level.label, where=f"{entry.where} for {level.label}")


def keeping(requests: Requests, column: str, level: Level) -> Requests:
    """What is asked, of the records of one level alone.

    Args:
        requests: What is asked.
        column: The column.
        level: The level.
    """
    records = requests[RecordsRequest]
    quoted = '"' + level.label.replace('"', '""') + '"'
    return requests.having(replace(records, only=(*records.only, f"{column}={quoted}")))


def _with_text(request: Request, place: str, text: str) -> Request:
    """A request with a text in the place of another, wherever it stands in its texts."""
    changed: Mapping[str, Any] = {
        name: _put(value, place, text)
        for name, value in request.asked_for().items()
        if _put(value, place, text) != value
    }
    return replace(request, **changed) if changed else request


def _put(value: object, place: str, text: str) -> object:
    if isinstance(value, tuple):
        return tuple(_put(one, place, text) for one in value)
    return value.replace(place, text) if isinstance(value, str) else value
