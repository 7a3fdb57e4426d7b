"""`grainstack check`: checks a plan for problems before building."""

import json

import typer

from grainstack.cli.build import entries_of, reading
from grainstack.cli.command_requests import FindingRequest, PlanRequest
from grainstack.cli.failing import say_error, show
from grainstack.cli.progress import Progress
from grainstack.making.engine import EngineRequest
from grainstack.plan.checking import Remark, Sort, remarks_on
from grainstack.plan.file.plan import PlanError
from grainstack.report.documents.quoting import quoted
from grainstack.requests import Requests

_FAULTS, _REMARKS = 2, 3  # exit codes: the plan cannot be built; a strict check found something


def run(requests: Requests) -> None:
    """Makes everything but the files of a plan, and tells what is to be known of it."""
    request, finding = requests[PlanRequest], requests[FindingRequest]
    try:
        plan, entries = entries_of(request)
        remarks = remarks_on(plan, entries, reading(plan, request, requests[EngineRequest], Progress()), quoted)
        count = len(entries)
    except PlanError as error:
        if not finding.json:
            say_error(error)
            raise typer.Exit(_REMARKS if finding.strict else _FAULTS) from None
        remarks, count = [Remark(Sort.FAULT, "", fault) for fault in error.faults], 0
    show(_as_json(remarks) if finding.json else _as_text(remarks, count))
    if finding.strict and remarks:
        raise typer.Exit(_REMARKS)
    if any(remark.sort is Sort.FAULT for remark in remarks):
        raise typer.Exit(_FAULTS)


def _as_text(remarks: "list[Remark]", entries: int) -> str:
    counts = {sort: sum(one.sort is sort for one in remarks) for sort in dict.fromkeys(one.sort for one in remarks)}
    checked = f"{entries} {'entry' if entries == 1 else 'entries'} checked"
    words = ", ".join(f"{count} × {sort.value}" for sort, count in counts.items())
    return "\n".join([*map(str, remarks), *([""] if remarks else []), f"{checked}: {words or 'nothing to be known'}."])


def _as_json(remarks: "list[Remark]") -> str:
    rows = [
        {"sort": one.sort.value, "entry": one.entry or None, "advice": one.advice or None, "text": one.text}
        for one in remarks
    ]
    return json.dumps(rows, ensure_ascii=False, indent=2)
