"""`grainstack changes`: what is different between two builds."""

import json
from itertools import groupby
from pathlib import Path
from typing import TYPE_CHECKING

import typer

from grainstack.chart.writing.character_columns import columns_wide
from grainstack.cli.command_requests import ChangesRequest, FindingRequest
from grainstack.cli.failing import show
from grainstack.errors import RequestError
from grainstack.plan.build_changes import Difference, changes_between
from grainstack.plan.building.record import RECORD, read_record
from grainstack.requests import Requests

if TYPE_CHECKING:
    from grainstack.plan.build_changes import Found
    from grainstack.plan.building.record import BuildRecord

_CHANGED = 1  # the exit code of a strict comparison that found something


def run(requests: Requests) -> None:
    """Lists figures, levels, bases and flags that differ between two builds of a plan."""
    folders, finding = requests[ChangesRequest].folders, requests[FindingRequest]
    if len(folders) != 2:
        raise RequestError("Two folders are compared, the old one and the new one.", "Name both.")
    before, after = (_record_in(Path(folder)) for folder in folders)
    found = changes_between(before, after)
    show(_as_json(found) if finding.json else _as_text(found, len(after.entries)))
    if found and finding.strict:
        raise typer.Exit(_CHANGED)


def _record_in(folder: Path) -> "BuildRecord":
    """The record of a folder.

    Raises:
        RequestError: There is none.
    """
    record = read_record(folder)
    if not record.entries:
        raise RequestError(
            f"{folder} has no {RECORD} that tells what was built there.", "Build the plan into it: grainstack build."
        )
    return record


def _as_text(found: "list[Found]", entries: int) -> str:
    lines = []
    for name, of_it in groupby(found, key=lambda one: one.entry):
        lines += [name, *_lines(list(of_it))]
    changed = len({one.entry for one in found})
    if not found:
        return f"Nothing is different in {entries} {'entry' if entries == 1 else 'entries'}."
    counts = {what: sum(one.what == what for one in found) for what in dict.fromkeys(one.what for one in found)}
    words = ", ".join(f"{count:,} × {what}" for what, count in counts.items())
    of_them = "The entry differs" if entries == changed == 1 else f"{changed} of {entries} entries differ"
    return "\n".join([*lines, "", f"{of_them}: {words}."])


def _lines(found: "list[Found]") -> list[str]:
    """What differs in an entry: figures of one kind below each other, all else in sentences."""
    lines = []
    for (what, figure), those in groupby(found, key=lambda one: (one.what, one.figure)):
        of_it = list(those)
        if what is not Difference.FIGURE:
            lines += [f"  {one}" for one in of_it]
            continue
        wide, before = (
            max(columns_wide(text) for text in texts)
            for texts in zip(*((o.where, o.before) for o in of_it), strict=True)
        )
        lines.append(f"  {figure}")
        for one in of_it:
            gap = " " * (wide - columns_wide(one.where) + 2 + before - columns_wide(one.before))
            lines.append(f"    {one.where}{gap}{one.before} → {one.after}")
    return lines


def _as_json(found: "list[Found]") -> str:
    names = ("entry", "what", "where", "figure", "before", "after")
    rows = [{name: str(getattr(one, name)) or None for name in names} for one in found]
    return json.dumps(rows, ensure_ascii=False, indent=2)
