"""Whether a plan, or records, still give what a picture or document carries as its trace."""

from collections.abc import Iterable
from pathlib import Path

from msgspec.structs import replace

from grainstack import __version__
from grainstack.language import speaking
from grainstack.making.make import Read
from grainstack.making.trace import Trace, TracedFile, traced_files
from grainstack.plan.building.levels import ColumnLevels
from grainstack.plan.building.pieces import Common, Piece, Sums, pieces_of
from grainstack.plan.building.preparing import prepared
from grainstack.plan.building.record import FileStates
from grainstack.plan.building.reports import PlannedReport, planned_reports
from grainstack.plan.building.sources import Sources
from grainstack.plan.file.plan import Plan

_UP = 3  # folders above a file in which what it was made of is looked for: `out`, a level, and the plan's own


def differences(trace: Trace, plan: Plan, read: Read) -> list[str]:
    """Why a plan does not give something any more; nothing where it still does.

    Args:
        trace: What it carries.
        plan: The plan as it is now.
        read: Has the records of a source read, where levels have to be known.
    """
    if trace.program != __version__:
        return [f"It was made by version {trace.program}; this is {__version__}."]
    with speaking(plan.language):
        return _differences(trace, plan, read)


def _differences(trace: Trace, plan: Plan, read: Read) -> list[str]:
    faults = list(plan.faults)
    sources = Sources(FileStates(plan.path.parent, {}))
    each, shared = prepared(plan, plan.entries, ColumnLevels(sources, {}), read, faults)
    pieces = pieces_of(plan, each, Common(sources, Sums(), shared), faults)
    found = _named(trace, plan, pieces)
    if found is None:
        return [f"{plan.path.name} has no {trace.kind} {trace.entry} any more, or it has a fault."]
    now = found.trace
    words = [] if now.words == trace.words else [f"What {plan.path.name} says of {trace.entry}, or its style, differs."]
    return [*_changed(trace.records, now.records), *words]


def changed_records(trace: Trace, place: Path) -> tuple[list[Path], list[str]]:
    """Which of the records of a trace are near a file, and which of them have changed.

    Args:
        trace: What the file carries.
        place: The file.
    """
    near = {one.name: path for one in trace.records if (path := near_file(one.name, place)) is not None}
    if not near:
        return [], []
    known = [one for one in trace.records if one.name in near]
    return list(near.values()), _changed(known, traced_files(near.values()))


def near_file(name: str, place: Path) -> Path | None:
    """A file of a name in the folder of another one, in those above it, or where one works; None where there is none.

    Args:
        name: Its name.
        place: The other file.
    """
    folders = [*list(place.resolve().parents)[:_UP], Path.cwd()]
    return next((folder / name for folder in folders if (folder / name).is_file()), None)


def _named(trace: Trace, plan: Plan, pieces: list[Piece]) -> Piece | PlannedReport | None:
    """What of a plan a trace is of."""
    if trace.kind == "report":
        return next((one for one in planned_reports(plan, pieces) if one.key == trace.entry), None)
    return next((one for one in pieces if one.entry.key == trace.entry), None)


def _changed(before: Iterable[TracedFile], after: Iterable[TracedFile]) -> list[str]:
    """Which files differ."""
    now = {one.name: one for one in after}
    found = []
    for one in before:
        other = now.get(one.name)
        if other is None:
            found.append(f"It is not made of {one.name} any more.")
        elif one != (replace(other, content="") if not one.content else other):
            found.append(f"{one.name} has changed.")
    return found
