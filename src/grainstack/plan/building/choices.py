"""Charts of a page by the levels of further columns, which its readers choose: each is made as if it stood alone."""

import math
from collections.abc import Sequence
from itertools import product

from msgspec.structs import replace

from grainstack.making.make import Read
from grainstack.plan.building.each import keeping, read_levels
from grainstack.plan.building.levels import Column, ColumnLevels
from grainstack.plan.file.plan import Choice, PlanEntry
from grainstack.records.variable import Level

_MOST = 24  # charts behind one: more make a page of megabytes, and nobody looks through them


def with_choices(
    entries: Sequence[PlanEntry], levels: ColumnLevels, read: Read, faults: list[str]
) -> tuple[PlanEntry, ...]:
    """Entries, with those that have filters also as they are for each choice of levels.

    Args:
        entries: The entries.
        levels: Tells the levels.
        read: Has the records of one source read.
        faults: What is wrong with them, a line each.
    """
    columns = [Column(entry, name, filtered=True) for entry in entries for name in entry.filters]
    read_levels("filters", columns, levels, read, faults)
    return tuple(_with_choices(entry, levels, faults) if entry.filters else entry for entry in entries)


def _with_choices(entry: PlanEntry, levels: ColumnLevels, faults: list[str]) -> PlanEntry:
    every = [levels.of(Column(entry, name, filtered=True)) for name in entry.filters]
    count = math.prod(len(of_it) + 1 for of_it in every) - 1
    if count > _MOST:
        faults.append(
            f"{entry.where}: filters would need {count:,} further charts, one for each choice; a page takes up to "
            f"{_MOST}. Name fewer columns, or some with fewer levels."
        )
        return replace(entry, filters=())
    found = []
    for places in product(*(range(len(of_it) + 1) for of_it in every)):
        columns = zip(entry.filters, every, places, strict=True)
        chosen = [(name, of_it[place - 1]) for name, of_it, place in columns if place]
        if chosen:
            found.append(Choice(places, _of(entry, chosen)))
    labels = tuple(tuple(level.label for level in of_it) for of_it in every)
    return replace(entry, choices=tuple(found), filter_levels=labels)


def _of(entry: PlanEntry, chosen: Sequence[tuple[str, Level]]) -> PlanEntry:
    """An entry for the records of some levels."""
    requests = entry.requests
    for name, level in chosen:
        requests = keeping(requests, name, level)
    where = f"{entry.where} for {', '.join(level.label for _, level in chosen)}"
    return replace(entry, requests=requests, filters=(), where=where)
