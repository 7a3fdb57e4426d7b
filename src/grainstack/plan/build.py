"""Building a plan: each source is opened and read once, whatever is made of it."""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from grainstack.errors import GrainStackError, RequestError, nearest
from grainstack.making.blocks import begun_blocks, finished_blocks
from grainstack.making.house_style import in_style, styled
from grainstack.making.kind import Product
from grainstack.making.make import Begun, Made, read_into
from grainstack.plan.plan_file import Plan, PlanEntry, PlanError, Source
from grainstack.plan.speech import PLANNED
from grainstack.quick import dataclass
from grainstack.records.opened import Opened, open_records
from grainstack.records.readers.shared import SharedReaders
from grainstack.records.request import RecordsRequest
from grainstack.requests import Requests
from grainstack.speech import option, worded
from grainstack.summary.request import SummaryRequest

if TYPE_CHECKING:
    from grainstack.chart.scene import Scene


@dataclass(frozen=True, slots=True)
class Built:
    """A table or chart of a plan.

    Attributes:
        entry: What was planned.
        made: What was made.
        scene: It as a picture; None for a table.
    """

    entry: PlanEntry
    made: Made
    scene: "Scene | None"


@dataclass(frozen=True, slots=True)
class _Piece:
    """An entry that waits for its records, and what takes them in."""

    entry: PlanEntry
    begun: list[Begun]


def chosen(plan: Plan, names: Sequence[str], allowed: Sequence[str] = ()) -> tuple[PlanEntry, ...]:
    """The entries of some names; all of them where none is named.

    Args:
        plan: The plan.
        names: Their names.
        allowed: The database and network addresses they may read.

    Raises:
        PlanError: There is no entry of a name, or one reads an address that is not allowed.
    """
    known = [entry.name for entry in plan.entries]
    unknown = next((name for name in names if name not in known), None)
    if unknown is not None:
        raise PlanError(f"{plan.path.name} has no entry `{unknown}`.", nearest(unknown, known))
    entries = tuple(entry for entry in plan.entries if not names or entry.name in names)
    for entry in entries:
        for file in entry.requests[RecordsRequest].file:
            if "://" in file and file not in allowed:
                raise PlanError(f"{entry.where} reads {file}, which is no file.", f"Allow it: {option('allow', file)}.")
    return entries


def built(plan: Plan, entries: Sequence[PlanEntry]) -> list[Built]:
    """Makes entries, in their order; whatever is wrong with any of them is known before the first is handed over.

    Args:
        plan: The plan, for its style.
        entries: What is to be made.

    Raises:
        PlanError: Entries that cannot be met, or drawn; all of them are named.
        RecordsError: Records that cannot be read.
    """
    sources: dict[Source, list[PlanEntry]] = {}
    for entry in entries:
        sources.setdefault(entry.source, []).append(entry)
    faults: list[str] = []
    opened = {source: open_records(of_it[0].requests[RecordsRequest]) for source, of_it in sources.items()}
    pieces = {source: list(_begun(plan, of_it, opened[source], faults)) for source, of_it in sources.items()}
    if not faults:
        made = [one for source, of_it in pieces.items() for one in _made(of_it, opened[source], faults)]
    if faults:
        raise PlanError.of(faults, plan.path)
    places = {entry.name: place for place, entry in enumerate(entries)}
    return sorted(made, key=lambda one: places[one.entry.name])


def _begun(plan: Plan, entries: Sequence[PlanEntry], opened: Opened, faults: list[str]) -> Iterator[_Piece]:
    """Entries of one source before its records are read; those that ask for the same share what takes them in."""
    distinct: list[Begun] = []
    readers = SharedReaders()
    for entry in entries:
        try:
            requests = _in_its_style(plan, entry)
            begun = [_shared(one, distinct) for one in begun_blocks(entry.kind, requests, opened, readers)]
            yield _Piece(replace(entry, requests=requests), begun)
        except RequestError as error:
            faults.append(_fault(entry, error))


def _in_its_style(plan: Plan, entry: PlanEntry) -> Requests:
    """What an entry is asked for, in the style of the plan where it names none of its own."""
    from grainstack.chart.picture_request import PictureRequest  # noqa: PLC0415 - tables have no style

    if entry.kind.product is Product.TABLE:
        return entry.requests
    if plan.style and entry.requests[PictureRequest].style is None:
        return in_style(entry.requests, plan.style, plan.path)
    return styled(entry.requests)[0]


def _shared(one: Begun, distinct: list[Begun]) -> Begun:
    """A piece that takes its sums from one that is asked for the same; else itself, then one of the distinct ones."""
    for other in distinct:
        if all(one.requests[model] == other.requests[model] for model in (RecordsRequest, SummaryRequest)):
            return replace(one, partial=other.partial)
    distinct.append(one)
    return one


def _made(pieces: Sequence[_Piece], opened: Opened, faults: list[str]) -> Iterator[Built]:
    """Entries of one source, its records read once."""
    partials = {id(one.partial): one.partial for piece in pieces for one in piece.begun}
    read_into(list(partials.values()), opened)
    for piece in pieces:
        entry = piece.entry
        try:
            made = finished_blocks(piece.begun, entry.requests, opened)
            yield Built(entry, made, made.picture() if entry.kind.product is Product.CHART else None)
        except GrainStackError as error:
            faults.append(_fault(entry, error))


def _fault(entry: PlanEntry, error: GrainStackError) -> str:
    return f"{entry.where}: {worded(f'{error.message} {error.remedy}'.rstrip(), PLANNED)}"
