"""Building a plan: each source is opened and read once, whatever is made of it."""

from collections.abc import Iterator, Sequence
from dataclasses import replace

from grainstack.errors import GrainStackError, RequestError
from grainstack.making.blocks import begun_blocks, finished_blocks
from grainstack.making.make import Begun, Made, read_into
from grainstack.plan.plan_file import Plan, PlanEntry, PlanError, Source
from grainstack.plan.speech import PLANNED
from grainstack.quick import dataclass
from grainstack.records.opened import Opened, open_records
from grainstack.records.request import RecordsRequest
from grainstack.speech import worded
from grainstack.summary.request import SummaryRequest


@dataclass(frozen=True, slots=True)
class Built:
    """A table or chart of a plan.

    Attributes:
        entry: What was planned.
        made: What was made.
    """

    entry: PlanEntry
    made: Made


def chosen(plan: Plan, names: Sequence[str]) -> tuple[PlanEntry, ...]:
    """The entries of some names; all of them where none is named.

    Args:
        plan: The plan.
        names: Their names.

    Raises:
        PlanError: There is no entry of a name.
    """
    from grainstack.errors import nearest  # noqa: PLC0415 - few plans are built in part

    known = [entry.name for entry in plan.entries]
    for name in names:
        if name not in known:
            raise PlanError(f"{plan.path.name} has no entry `{name}`.", nearest(name, known))
    return tuple(entry for entry in plan.entries if not names or entry.name in names)


def built(entries: Sequence[PlanEntry]) -> Iterator[Built]:
    """Makes entries, source by source, each read once; in the order of the plan within each.

    Args:
        entries: What is to be made.

    Raises:
        PlanError: An entry that its records cannot meet; all such entries of a source are named.
        RecordsError: Records that cannot be read.
    """
    sources: dict[Source, list[PlanEntry]] = {}
    for entry in entries:
        sources.setdefault(entry.source, []).append(entry)
    for of_source in sources.values():
        yield from _of_one_source(of_source)


def _of_one_source(entries: Sequence[PlanEntry]) -> Iterator[Built]:
    opened = open_records(entries[0].requests[RecordsRequest])
    faults: list[str] = []
    pieces: list[tuple[PlanEntry, list[Begun]]] = []
    distinct: list[Begun] = []
    for entry in entries:
        try:
            each = begun_blocks(entry.kind, entry.requests, opened)
            pieces.append((entry, [_shared(one, distinct) for one in each]))
        except RequestError as error:
            faults.append(_fault(entry, error))
    _raise(faults)
    read_into([one.partial for one in distinct], opened)
    made: list[Built] = []
    for entry, each in pieces:
        try:
            made.append(Built(entry, _finished(entry, each, opened)))
        except GrainStackError as error:
            faults.append(_fault(entry, error))
    _raise(faults)
    yield from made


def _shared(one: Begun, distinct: list[Begun]) -> Begun:
    """A piece that takes its sums from one that is asked for the same; else itself, then one of the distinct ones."""
    for other in distinct:
        if all(one.requests[model] == other.requests[model] for model in (RecordsRequest, SummaryRequest)):
            return replace(one, partial=other.partial)
    distinct.append(one)
    return one


def _finished(entry: PlanEntry, each: list[Begun], opened: Opened) -> Made:
    return finished_blocks(each, entry.requests, opened)


def _fault(entry: PlanEntry, error: GrainStackError) -> str:
    return f"{entry.where}: {worded(f'{error.message} {error.remedy}'.rstrip(), PLANNED)}"


def _raise(faults: list[str]) -> None:
    if faults:
        more = f"{len(faults)} entries cannot be made:"
        raise PlanError(faults[0] if len(faults) == 1 else more, "\n  ".join(faults) if len(faults) > 1 else "")
