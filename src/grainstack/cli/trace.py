"""`grainstack trace`: where a picture or document comes from, and whether those inputs still reproduce it."""

import json
import shlex
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

import typer

from grainstack.cli.build import known_formats
from grainstack.cli.command_requests import FindingRequest, TraceRequest
from grainstack.cli.failing import option_for, show
from grainstack.errors import RequestError
from grainstack.making.make import read_into
from grainstack.plan.file.reading import read_plan
from grainstack.plan.trace_differences import changed_records, differences, near_file
from grainstack.report.trace_reading import traced
from grainstack.requests import Requests

if TYPE_CHECKING:
    from grainstack.making.trace import Trace, TracedFile, TracedPlan

_CHANGED = 1  # the exit code where what is there does not give it any more, in strict runs


def run(requests: Requests) -> None:
    """From which records and which words a file was made, and whether it would still come out the same."""
    asked, finding = requests[TraceRequest], requests[FindingRequest]
    path = Path(asked.file)
    trace = traced(path)
    against, differences = _compared(trace, path, asked.plan)
    if finding.json:
        content = {**json.loads(str(trace)), "compared_with": [one.name for one in against], "differences": differences}
        show(json.dumps(content, ensure_ascii=False, indent=2))
    else:
        show("\n".join(_lines(path, trace, against, differences)))
    if finding.strict and (differences or not against):
        raise typer.Exit(_CHANGED)


def _compared(trace: "Trace", path: Path, named: str | None) -> tuple[list[Path], list[str]]:
    """What was found to compare with, and what differs.

    Raises:
        RequestError: A plan was named for something that no plan made.
        PlanError: The plan cannot be read.
    """
    if not trace.plan.name:
        if named:
            raise RequestError(f"{path.name} was made by a command, and by no plan.", "Leave the plan out.")
        return changed_records(trace, path)
    plan_path = Path(named) if named else near_file(trace.plan.name, path)
    if plan_path is None:
        return [], []

    plan = read_plan(plan_path, known_formats(), trace.plan.params, trace.plan.for_each)
    return [plan_path], differences(trace, plan, read_into)


def _lines(path: Path, trace: "Trace", against: Sequence[Path], differences: Sequence[str]) -> list[str]:
    """What is known, line by line."""
    made_by = (
        f"{trace.plan.name}, {trace.kind} {trace.entry}{_typed(trace.plan)}" if trace.plan.name else _command(trace)
    )
    lines = [f"{path.name}: made by grainstack {trace.program}", f"  from {made_by}", "  of"]
    lines += [f"    {_file(one)}" for one in trace.records]
    if not against:
        return [*lines, f"Nothing to compare with: {trace.plan.name or 'what it was made of'} is not near it."]
    names = ", ".join(str(one) for one in against)
    if differences:
        return [*lines, f"It would come out otherwise now ({names}):", *(f"  {one}" for one in differences)]
    return [*lines, f"{names}: still gives it." if trace.plan.name else f"{names}: unchanged."]


def _typed(plan: "TracedPlan") -> str:
    """What was typed when it was built, as a person would type it again."""
    words = [option_for("param") + f" {name}={value}" for name, value in plan.params.items()]
    words += [f"{option_for('for_each')} {plan.for_each}"] if plan.for_each else []
    return f", with {' '.join(words)}" if words else ""


def _file(one: "TracedFile") -> str:
    size = "" if one.size is None else f", {one.size:,} bytes"
    return f"{one.name}{size}{f', {one.content}' if one.content else ''}"


def _command(trace: "Trace") -> str:
    """The command that makes it."""
    asked = dict(trace.asked)
    parts = ["grainstack", trace.kind, *asked.pop("file", [])]
    for name, value in asked.items():
        for one in value if isinstance(value, list) else [value]:
            parts += [option_for(name)] if one is True else [option_for(name), _text(one)]
    return shlex.join(parts)


def _text(value: object) -> str:
    return f"{value:g}" if isinstance(value, float) else json.dumps(value) if isinstance(value, Mapping) else str(value)
