"""What is to be known of a plan before it is built: faults, notes, advice and small bases, entry by entry."""

from collections.abc import Iterator, Sequence
from enum import StrEnum
from itertools import groupby

from msgspec import Struct

from grainstack.chart.frame.left_out_advice import advice_on_scene
from grainstack.errors import GrainStackError, listed
from grainstack.language import speaking
from grainstack.making.kind import Product
from grainstack.making.make import Made, Read
from grainstack.option_names import worded
from grainstack.plan.building.levels import ColumnLevels
from grainstack.plan.building.pieces import Built, Common, Piece, Sums, fault_of, finished_pieces, pieces_of
from grainstack.plan.building.preparing import prepared
from grainstack.plan.building.record import FileStates
from grainstack.plan.building.reports import Quoted, figures_put, planned_reports
from grainstack.plan.building.sources import Sources
from grainstack.plan.file.naming import PLANNED
from grainstack.plan.file.plan import Plan, PlanEntry
from grainstack.records.variable import Level
from grainstack.summary.table import Flag, base_in_words


class Sort(StrEnum):
    """What sort of remark it is."""

    FAULT = "fault"
    NOTE = "note"
    ADVICE = "advice"
    SMALL_BASE = "small base"


class Remark(Struct, frozen=True):
    """One thing to be known.

    Attributes:
        sort: What sort it is; with a fault, nothing of the plan can be built.
        entry: The entry; empty where the text says where the fault is.
        text: What was noticed.
        advice: The name of the advice; empty for any other sort.
    """

    sort: Sort
    entry: str
    text: str
    advice: str = ""

    def __str__(self) -> str:
        named = f"{self.entry}: " if self.entry else ""
        return f"{named}{self.sort.value}{f' ({self.advice})' if self.advice else ''}: {self.text}"


def remarks_on(plan: Plan, entries: Sequence[PlanEntry], read: Read, quoted: Quoted) -> list[Remark]:
    """What is to be known of entries, faults first: all is made but the files.

    Args:
        plan: The plan.
        entries: Which of its entries.
        read: Has the records of a source read.
        quoted: Puts figures into the texts of a report.
    """
    with speaking(plan.language):
        return _remarks_on(plan, entries, read, quoted)


def _remarks_on(plan: Plan, entries: Sequence[PlanEntry], read: Read, quoted: Quoted) -> list[Remark]:
    faults = list(plan.faults)
    sums, sources = Sums(), Sources(FileStates(plan.path.parent, {}))
    each, shared = prepared(plan, entries, ColumnLevels(sources, {}), read, faults)
    pieces = pieces_of(plan, each, Common(sources, sums, shared), faults)
    built = finished_pieces(_readable(pieces, sums, read, faults), faults)
    remarks = [remark for one in built for remark in _of_entry(one, faults)]
    done = {id(one.piece) for one in built}
    for report in planned_reports(plan, pieces):
        if all(id(piece) in done for piece in report.pieces.values()):
            figures_put(report, built, quoted, faults)
    noted: set[tuple[Sort, str]] = set()  # notes are about records, and several entries are made of the same ones
    kept = []
    for remark in remarks:
        if remark.sort is Sort.NOTE and (remark.sort, remark.text) in noted:
            continue
        noted.add((remark.sort, remark.text))
        kept.append(remark)
    return [*(Remark(Sort.FAULT, "", fault) for fault in dict.fromkeys(faults)), *kept]


def _readable(pieces: Sequence[Piece], sums: Sums, read: Read, faults: list[str]) -> list[Piece]:
    """The pieces whose records could be read; they are read."""
    found: list[Piece] = []
    for _, of_source in groupby(sorted(pieces, key=lambda one: id(one.opened)), key=lambda one: id(one.opened)):
        those = list(of_source)
        try:
            sums.read(those, read)
        except GrainStackError as error:
            faults.append(fault_of(those[0].entry, error))
        else:
            found += those
    readable = {piece.entry.key for piece in found}
    return [piece for piece in pieces if piece.entry.key in readable]


def _of_entry(built: Built, faults: list[str]) -> Iterator[Remark]:
    """What is to be known of one entry; a picture that cannot be drawn is added to the faults."""
    entry, made = built.piece.entry, built.made
    advice = list(made.advice)
    if entry.kind.product is Product.CHART:
        try:
            advice += advice_on_scene(made.picture(), tips=bool({"html", "svg"}.intersection(entry.formats)))
        except GrainStackError as error:
            faults.append(fault_of(entry, error))
    yield from (Remark(Sort.NOTE, entry.key, worded(note, PLANNED)) for note in made.notes)
    for one in advice:
        if one.name not in entry.no_advice:
            yield Remark(Sort.ADVICE, entry.key, worded(one.text, PLANNED), one.name)
    if small := _small_bases(made):
        yield Remark(Sort.SMALL_BASE, entry.key, small)


def _small_bases(made: Made) -> str:
    """Which cells of a table or chart rest on few records; empty for none."""
    table = made.table
    of_base: dict[tuple[int, int], list[tuple[Level, ...]]] = {}  # those of one whole have one base
    for column in table.shown:
        for cell, flags in enumerate(column.flags.tolist()):
            if Flag.SMALL_BASE in Flag(flags):
                whole = int(column.whole[cell]) if column.is_share else -1 - cell
                of_base.setdefault((whole, int(column.base[cell])), []).append(table.levels_of(cell))
    names = dict.fromkeys(f"{_in_common(cells)} ({base_in_words(base)})" for (_, base), cells in of_base.items())
    return f"{listed(names)}." if names else ""


def _in_common(cells: Sequence[tuple[Level, ...]]) -> str:
    """What some cells have in common, in words."""
    levels = [level.label for level in cells[0] if all(level in cell for cell in cells)]
    return ", ".join(levels) or "all"
