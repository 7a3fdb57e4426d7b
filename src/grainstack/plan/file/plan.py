"""A plan as data: its tables and charts, and what counts for all of them."""

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from msgspec import Struct, field

from grainstack.errors import RequestError
from grainstack.language import ENGLISH
from grainstack.making.engine import EngineRequest
from grainstack.making.kind import Kind, Product
from grainstack.making.trace import TracedPlan
from grainstack.plan.file.report import Report
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import Requests

Source = tuple[tuple[str, Any], ...]  # the fields that say where records are and how they are opened
Formats = Mapping[Product, tuple[str, ...]]  # the endings in which tables and charts can be written, without the dot
SECTIONS: dict[str, type[dict[str, Any]] | type[list[Any]]] = {
    **dict.fromkeys(("params", "records", "defaults", "style", "engine", "report"), dict),
    **dict.fromkeys(("table", "chart"), list),
}  # of its file


class PlanError(RequestError):
    """A plan that cannot be built.

    Args:
        message: What is wrong.
        remedy: What to do about it.
        faults: Everything that is wrong with it, one by one, each with its place; the message alone if not given.
    """

    def __init__(self, message: str, remedy: str = "", faults: Sequence[str] = ()) -> None:
        super().__init__(message, remedy)
        self.faults = tuple(faults) or (f"{message} {remedy}".rstrip(),)

    @classmethod
    def of(cls, faults: Sequence[str], path: Path) -> "PlanError":
        """One error of all faults.

        Args:
            faults: What is wrong, at least one thing, each with its place.
            path: The plan.
        """
        if len(faults) == 1:
            return cls(faults[0])
        return cls(f"{len(faults)} faults in {path}:", "\n  ".join(faults), faults)


class PlanEntry(Struct, frozen=True):
    """One table or chart of a plan.

    Attributes:
        name: What its files are called.
        kind: Its kind.
        requests: What it is asked for.
        source: Which records it is made of.
        formats: The endings of its files, without the dot.
        where: Its place, for messages: `plan.toml, line 12, chart wait`.
        no_advice: The advice it asks to be spared.
        for_each: The column for each level of which it is made; empty where it is made once.
        folder: The folder of the level it is made for; empty likewise.
        level: The label of that level.
        filters: The columns by whose levels the readers of a page may choose.
        filter_levels: The labels of their levels, once they are known.
        choices: It for each choice of levels, likewise.
    """

    name: str
    kind: Kind
    requests: Requests
    source: Source
    formats: tuple[str, ...]
    where: str
    no_advice: tuple[str, ...] = ()
    for_each: str = ""
    folder: str = ""
    level: str = ""
    filters: tuple[str, ...] = ()
    filter_levels: tuple[tuple[str, ...], ...] = ()
    choices: tuple["Choice", ...] = ()

    @property
    def reads_addresses(self) -> bool:
        """Whether its records are in a database or on a network."""
        return any("://" in file for file in self.requests[RecordsRequest].file)

    @property
    def key(self) -> str:
        """What tells it from every other one made of the plan: `dunmar/wait`."""
        return f"{self.folder}/{self.name}" if self.folder else self.name


class Choice(Struct, frozen=True):
    """An entry for the records of some levels.

    Attributes:
        places: The place of the level chosen of each of its filters, from 1; 0 for all of them.
        entry: What is made of those records.
    """

    places: tuple[int, ...]
    entry: PlanEntry


class Plan(Struct, frozen=True):
    """A plan, checked.

    Attributes:
        path: Its file.
        entries: Its tables and charts, in their order.
        params: What may be changed from build to build, with the values that count now.
        style: The style of its charts; empty where it says none.
        engine: Where its records are read.
        report: The report that is made of them; None for none.
        language: The language it is written in, one of `LANGUAGES`.
        typed: Values that were typed for its params.
        typed_each: The column, as typed, for each level of which everything is made; empty for none.
        faults: What is wrong with it, each with its line; entries with faults are not among its entries.
    """

    path: Path
    entries: tuple[PlanEntry, ...]
    params: Mapping[str, Any]
    style: Mapping[str, Any] = field(default_factory=dict)
    engine: EngineRequest = field(default_factory=EngineRequest)
    report: Report | None = None
    language: str = ENGLISH
    typed: Mapping[str, str] = field(default_factory=dict)
    typed_each: str = ""
    faults: tuple[str, ...] = ()

    @property
    def traced(self) -> TracedPlan:
        """It as a trace names it."""
        return TracedPlan(self.path.name, self.typed, self.typed_each)

    def check(self) -> None:
        """Refuses a plan with faults.

        Raises:
            PlanError: Names all of them.
        """
        if self.faults:
            raise PlanError.of(self.faults, self.path)
