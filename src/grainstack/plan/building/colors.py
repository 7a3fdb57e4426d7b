"""Levels that several sources of a plan share: they have the same colours in all of its charts."""

from collections.abc import Mapping, Sequence

from grainstack.errors import GrainStackError
from grainstack.making.kind import Product
from grainstack.making.make import Read
from grainstack.plan.building.levels import Column, ColumnLevels
from grainstack.plan.building.sources import Sources
from grainstack.plan.file.plan import PlanEntry
from grainstack.records.records_request import RecordsRequest
from grainstack.records.variable import EVERYTHING, Level
from grainstack.summary.summary_request import SummaryRequest

Shared = Mapping[str, tuple[Level, ...]]


def shared_levels(entries: Sequence[PlanEntry], levels: ColumnLevels, read: Read) -> Shared:
    """The levels of each column that charts of several sources are made of, in one order for all of them.

    A chart gives colours by the place of a level among all of its column. Where sources list them in other orders, or
    have some that others have not, that of the first source counts, with those that only later ones have behind.

    Args:
        entries: All entries of the plan, whatever is built of it now, so that colours do not depend on that.
        levels: Tells the levels.
        read: Has the records of one source read.
    """
    columns: dict[str, dict[object, Column]] = {}  # by name and source
    for entry in entries:
        if entry.kind.product is Product.CHART and "-" not in entry.requests[RecordsRequest].file:
            summary = entry.requests[SummaryRequest]
            for name in filter(None, (*summary.by, summary.split)):
                columns.setdefault(name, {}).setdefault(entry.source, Column(entry, name, filtered=False))
    several = {name: list(of_it.values()) for name, of_it in columns.items() if len(of_it) > 1 and name != EVERYTHING}
    unlisted = [one for of_it in several.values() for one in of_it if not _listed(one, levels.sources)]
    levels.read(unlisted, read, [])  # what is wrong with them is told when their entries are made
    found = {}
    for name, of_it in several.items():
        lists = [_listed(one, levels.sources) or levels.of(one) for one in of_it]
        merged = tuple({level.code: level for one in reversed(lists) for level in one}[code] for code in _codes(lists))
        if any(_codes([one]) != _codes(lists)[: len(one)] for one in lists):
            found[name] = merged
    return found


def _codes(lists: Sequence[Sequence[Level]]) -> list[str]:
    """The codes of some lists, each once, those of the first list first."""
    return list(dict.fromkeys(level.code for one in lists for level in one))


def _listed(column: Column, sources: Sources) -> tuple[Level, ...]:
    """The levels that a codebook lists; none where it lists none, or the records cannot be opened."""
    try:
        return sources.of(column.entry).opened.codebook.variable(column.name).levels
    except GrainStackError:
        return ()
