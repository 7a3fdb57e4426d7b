"""Where a picture or document comes from, as it carries it: what was asked of which records, by which program.

There is no clock in it, nobody's name, and no path: the same request of the same records is the same file everywhere.
"""

import json
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path
from typing import Any

from msgspec import Struct, field

from grainstack import __version__
from grainstack.digests import digest_of_file
from grainstack.records.records_request import RecordsRequest
from grainstack.records.sources.secrets import bare
from grainstack.requests import Requests

KEYWORD = "Trace"  # by which pictures and documents name it
_LAYOUT = 1  # of the text
_LARGEST = 1 << 26  # bytes: of a larger file a command tells the size alone, as reading it twice would be felt
_FILES = ("file", "codebook", "style", "template", "font")  # words that name files: of these, no path is told


class TracedFile(Struct, frozen=True):
    """A file that something was made of.

    Attributes:
        name: What it is called, without its folder.
        size: Its bytes; None where it is no file.
        content: The digest of its content; empty where that was not worked out.
    """

    name: str
    size: int | None = None
    content: str = ""


class TracedPlan(Struct, frozen=True):
    """A plan as it was built.

    Attributes:
        name: Its name.
        params: Values that were typed for its params.
        for_each: The column, as typed, for each level of which everything was made; empty for none.
    """

    name: str = ""
    params: Mapping[str, str] = field(default_factory=dict)
    for_each: str = ""


class Trace(Struct, frozen=True):
    """Where something comes from.

    Attributes:
        kind: The kind of what was made: `bar`, `table`, or `report`.
        asked: What was asked for, by option.
        records: The files it was made of.
        plan: The plan; one without a name where a command made it.
        entry: What tells it from everything else that is made of the plan: `wait`, or `dunmar/wait`.
        words: The digest of everything it was made of but the records; empty without a plan.
        program: The version of the program.
    """

    kind: str
    asked: Mapping[str, Any] = field(default_factory=dict)
    records: tuple[TracedFile, ...] = ()
    plan: TracedPlan = field(default_factory=TracedPlan)
    entry: str = ""
    words: str = ""
    program: str = __version__

    def __str__(self) -> str:
        content: dict[str, Any] = {"layout": _LAYOUT, "program": f"grainstack {self.program}", "kind": self.kind}
        if self.plan.name:
            content |= {"plan": self.plan.name, "entry": self.entry, "words": self.words}
            content |= {"params": dict(self.plan.params)} if self.plan.params else {}
            content |= _if(for_each=self.plan.for_each)
        content |= {"asked": dict(self.asked)} if self.asked else {}
        content["records"] = [
            {"name": one.name} | ({"size": one.size} if one.size is not None else {}) | _if(content=one.content)
            for one in self.records
        ]
        return json.dumps(content, ensure_ascii=True, separators=(",", ":"))


def trace_from(text: str) -> Trace | None:
    """The trace that a file carries; None where the text is none.

    Args:
        text: What stands under `KEYWORD`.
    """
    try:
        content = json.loads(text)
        if content["layout"] != _LAYOUT:
            return None
        records = tuple(TracedFile(one["name"], one.get("size"), one.get("content", "")) for one in content["records"])
        program = str(content["program"]).partition(" ")[2]
        words = {name: str(content.get(name, "")) for name in ("entry", "words")}
        params = {str(name): str(value) for name, value in dict(content.get("params", {})).items()}
        plan = TracedPlan(str(content.get("plan", "")), params, str(content.get("for_each", "")))
        return Trace(str(content["kind"]), dict(content.get("asked", {})), records, plan, **words, program=program)
    except (ValueError, KeyError, TypeError, AttributeError):
        return None


def traced_files(paths: Iterable[Path]) -> tuple[TracedFile, ...]:
    """Files as a trace names them.

    Args:
        paths: Where they are.
    """
    found = []
    for path in paths:
        size = path.stat().st_size if path.is_file() else None
        content = digest_of_file(path) if size is not None and size <= _LARGEST else ""
        found.append(TracedFile(path.name, size, content))
    return tuple(found)


def asked_of(requests: Requests | Sequence[Any]) -> dict[str, Any]:
    """What was asked for, by option, as JSON has it; of files their names alone.

    Args:
        requests: The requests.
    """
    found: dict[str, Any] = {}
    for request in requests:
        for name, value in request.asked_for().items():
            found[name.rstrip("_")] = _base(value) if name in _FILES else _plain(value)
    return {name: value for name, value in found.items() if value is not None}


def trace_of_command(kind: str, requests: Requests, inputs: Sequence[Path], source: str) -> Trace:
    """The trace of what a command makes.

    Args:
        kind: The kind of what is made.
        requests: What was typed.
        inputs: The files that are read.
        source: What the records are called where they are in no file.
    """
    files, named = traced_files(inputs), requests[RecordsRequest].file
    if any(file == "-" or "://" in file for file in named):
        files = (TracedFile(source), *files)
    return Trace(kind, {"file": _base(named), **asked_of(requests)}, files)


def _base(value: object) -> object:
    """What names a file, or several, without their folders; of databases the address without its password."""
    if isinstance(value, tuple | list):
        return [_base(one) for one in value]
    if isinstance(value, str) and "://" in value:
        return bare(value)
    return Path(str(value)).name if isinstance(value, str) and ("/" in value or "\\" in value) else _plain(value)


def _plain(value: object) -> object:
    if isinstance(value, tuple | list):
        return [_plain(one) for one in value]
    if isinstance(value, Mapping):
        return {str(key): _plain(one) for key, one in value.items()}
    return value if isinstance(value, str | int | float | bool | None) else str(value)


def _if(**named: str) -> dict[str, str]:
    """What is not empty."""
    return {name: value for name, value in named.items() if value}
