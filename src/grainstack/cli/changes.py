"""`grainstack changes`: what is different between two builds."""

import json
from itertools import groupby
from pathlib import Path
from typing import TYPE_CHECKING

import typer

from grainstack.cli.failing import show
from grainstack.cli.finding import FindingRequest
from grainstack.cli.options import Positional
from grainstack.errors import RequestError
from grainstack.quick import dataclass
from grainstack.requests import Requests
from grainstack.words import Request

if TYPE_CHECKING:
    from grainstack.plan.changes import Found
    from grainstack.plan.record import BuildRecord

_CHANGED = 1  # the exit code of a strict comparison that found something


@dataclass(frozen=True, slots=True)
class ChangesRequest(Request):
    """Two folders that were built."""

    folders: tuple[str, ...] = ()


MODELS = (ChangesRequest, FindingRequest)
POSITIONAL = Positional("folders", "The folder of the old build, and that of the new one.")


def run(requests: Requests) -> None:
    """Lists figures, levels, bases and flags that differ between two builds of a plan."""
    from grainstack.plan.changes import changes_between  # noqa: PLC0415 - a help page needs none of it

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
    from grainstack.plan.record import RECORD, read_record  # noqa: PLC0415 - a help page needs none of it

    record = read_record(folder)
    if not record.entries:
        raise RequestError(
            f"{folder} has no {RECORD} that tells what was built there.", "Build the plan into it: grainstack build."
        )
    return record


def _as_text(found: "list[Found]", entries: int) -> str:
    lines = []
    for name, of_it in groupby(found, key=lambda one: one.entry):
        lines += [name, *(f"  {one}" for one in of_it)]
    changed = len({one.entry for one in found})
    if not found:
        return f"Nothing is different in {entries} {'entry' if entries == 1 else 'entries'}."
    counts = {what: sum(one.what == what for one in found) for what in dict.fromkeys(one.what for one in found)}
    words = ", ".join(f"{count:,} × {what}" for what, count in counts.items())
    return "\n".join([*lines, "", f"{changed} of {entries} entries differ: {words}."])


def _as_json(found: "list[Found]") -> str:
    names = ("entry", "what", "where", "figure", "before", "after")
    rows = [{name: str(getattr(one, name)) or None for name in names} for one in found]
    return json.dumps(rows, ensure_ascii=False, indent=2)
