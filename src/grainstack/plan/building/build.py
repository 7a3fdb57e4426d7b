"""What a build writes: all of it is made before the first file is written, and a record of it stays beside it."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from pathlib import Path

from msgspec import Struct

from grainstack.advice import Advice
from grainstack.digests import digest_of_bytes, digest_of_file
from grainstack.errors import GrainStackError, OutputError, RequestError
from grainstack.language import speaking
from grainstack.making.kind import Outputs
from grainstack.making.make import Made, Read
from grainstack.plan.building.color_orders import in_plan_colors
from grainstack.plan.building.figures import figures_in
from grainstack.plan.building.levels import ColumnLevels
from grainstack.plan.building.pieces import Built, Common, Piece, Sums, fault_of, finished_pieces, pieces_of
from grainstack.plan.building.preparing import prepared
from grainstack.plan.building.record import (
    RECORD,
    BuildRecord,
    EntryRecord,
    FigureRecord,
    FileStates,
    read_record,
    record_as_json,
)
from grainstack.plan.building.reports import PlannedReport, PutReport, outputs_of_report, planned_reports
from grainstack.plan.building.sources import Sources
from grainstack.plan.file.plan import Plan, PlanEntry, PlanError
from grainstack.records.opened import inputs_of
from grainstack.records.records_request import RecordsRequest
from grainstack.whole_files import check_place, make_folder, write_all, write_whole

Put = Callable[[Sequence[tuple[Made, Sequence[str]]]], "Iterable[Outputs | GrainStackError]"]


class Tools(Struct, frozen=True):
    """How a build reads and writes.

    Attributes:
        read: Has the records of one source read.
        put: Puts tables and charts into formats, named by their endings; gives for each the outputs, or why not.
        report: Puts a report into its formats.
        sums: What was made of records before.
    """

    read: Read
    put: Put
    report: PutReport
    sums: Sums


class Written(Struct, frozen=True):
    """An entry or a report that was made.

    Attributes:
        key: What tells it from others.
        targets: The files it was written into.
        advice: What an analyst should know of it.
    """

    key: str
    targets: tuple[Path, ...]
    advice: tuple[Advice, ...]


class Build(Struct, frozen=True):
    """What a build did.

    Attributes:
        written: The entries that were made, in the order of the plan.
        unchanged: The names of those that would come out the same and were left as they are.
        left_over: Files of entries that the plan has no more.
    """

    written: tuple[Written, ...]
    unchanged: tuple[str, ...]
    left_over: tuple[Path, ...]


def build(plan: Plan, entries: Sequence[PlanEntry], folder: Path, tools: Tools, *, fresh: bool = False) -> Build:
    """Makes the entries of a plan that are not there already as they would come out.

    Args:
        plan: The plan.
        entries: Which of its entries.
        folder: Where they are written; it is made if there is none.
        tools: How records are read and outputs are made.
        fresh: Whether all of them are made, whatever is there.

    Raises:
        PlanError: Entries that cannot be made; all of them are named, and nothing is written.
        RecordsError: Records that cannot be read.
        OutputError: A file that cannot be written, lies outside the folder or is being read.
    """
    with speaking(plan.language):
        return _build(plan, entries, folder, tools, fresh=fresh)


def _build(plan: Plan, entries: Sequence[PlanEntry], folder: Path, tools: Tools, *, fresh: bool) -> Build:
    before = read_record(folder)
    states = FileStates(plan.path.parent, {} if fresh else before.files, ahead=True)
    levels = ColumnLevels(Sources(states), {} if fresh else before.levels)
    faults: list[str] = []
    each, shared = prepared(plan, entries, levels, tools.read, faults)
    taken = _taken(plan, folder)
    targets = {
        entry.key: _free(folder, [folder / f"{entry.key}.{ending}" for ending in entry.formats], taken)
        for entry in each
    }
    pieces = pieces_of(plan, each, Common(levels.sources, tools.sums, shared), faults)
    _check(plan, faults)
    there = _There(folder, before, fresh=fresh)
    waiting = {piece.entry.key for piece in pieces if not there.has(piece.entry.key, piece, targets[piece.entry.key])}
    reports = planned_reports(plan, pieces)
    due = [one for one in reports if not there.has(one.key, one, _free(folder, one.targets(folder), taken))]
    shown = {piece.entry.key for one in due for piece in one.pieces.values()}
    needed = [piece for piece in pieces if piece.entry.key in waiting | shown]
    tools.sums.read(needed, tools.read)
    built, colors = in_plan_colors(finished_pieces(needed, faults), before.colors)
    new = [one for one in built if one.piece.entry.key in waiting]
    outputs = _outputs(new, tools.put, faults)
    _check(plan, faults)
    pages = [outputs_of_report(one, built, tools.report, faults) for one in due]
    _check(plan, faults)
    tools.sums.forget_all_but(pieces)
    written, records = [], {}
    for one, output in zip(new, outputs, strict=True):
        key = one.piece.entry.key
        records[key] = _written(folder, one.piece.made_of, targets[key], output.contents, figures_in(one.made))
        written.append(Written(key, targets[key], _spoken(one, output)))
    for report, output in zip(due, pages, strict=True):
        files = report.targets(folder)
        records[report.key] = _written(folder, report.made_of, files, output.contents)
        spared = report.report.no_advice
        written.append(Written(report.key, files, tuple(one for one in output.advice if one.name not in spared)))
    gone = _gone(plan, [*each, *reports], before)
    _write_record(plan, folder, before, BuildRecord(states.known, records, levels.known, colors), gone)
    left_over = tuple(
        folder / name for key in gone for name in before.entries[key].outputs if (folder / name).is_file()
    )
    keys = [*(entry.key for entry in each), *(one.key for one in reports)]
    return Build(tuple(written), tuple(key for key in keys if key not in records), left_over)


def _written(
    folder: Path,
    made_of: str,
    targets: Sequence[Path],
    contents: Sequence[bytes],
    figures: tuple[FigureRecord, ...] = (),
) -> EntryRecord:
    """Writes the files of an entry or a report, and gives what the record keeps of them."""
    make_folder(targets[0].parent)
    write_all(targets, contents)
    names = (_name_in(folder, target) for target in targets)
    return EntryRecord(made_of, dict(zip(names, map(digest_of_bytes, contents), strict=True)), figures)


def _check(plan: Plan, faults: Sequence[str]) -> None:
    """Refuses to go on with faults.

    Raises:
        PlanError: Names all of them.
    """
    if faults:
        raise PlanError.of(faults, plan.path)


def _spoken(one: Built, output: Outputs) -> tuple[Advice, ...]:
    """The advice on an entry that it does not ask to be spared."""
    spared = one.piece.entry.no_advice
    return tuple(advice for advice in (*one.made.advice, *output.advice) if advice.name not in spared)


def _taken(plan: Plan, folder: Path) -> dict[Path, str]:
    """The files that nothing of a build may be written over, with what they are: all that any entry reads, and more."""
    read = [plan.path, *(path for entry in plan.entries for path in _inputs_of(entry))]
    read += list(map(Path, plan.report.templates)) if plan.report else []
    return {
        (folder / RECORD).resolve(): "it is where the build keeps its record",
        **{path.resolve(): "it is being read" for path in read},
    }


def _inputs_of(entry: PlanEntry) -> list[Path]:
    """The files an entry reads; none where they cannot be found, which is told when they are opened."""
    try:
        return inputs_of(entry.requests[RecordsRequest])
    except RequestError:
        return []


def _free(folder: Path, targets: Sequence[Path], taken: Mapping[Path, str]) -> tuple[Path, ...]:
    """Files that lie in a folder, whatever links there are, and that nobody else needs.

    Raises:
        OutputError: One does not, or is needed.
    """
    for target in targets:
        whole = target.resolve()
        if not whole.is_relative_to(folder.resolve()):
            raise OutputError(f"{target} leads out of {folder}.", "Remove the link there, or name another folder.")
        if whole in taken:
            raise OutputError(f"Cannot write {target}: {taken[whole]}.", "Give it another name in the plan.")
        check_place(target)
    return tuple(targets)


def _name_in(folder: Path, target: Path) -> str:
    return target.relative_to(folder).as_posix()


class _There(Struct, frozen=True):
    """What is there from before.

    Attributes:
        folder: Where it is.
        record: What it was made of.
        fresh: Whether it does not count.
    """

    folder: Path
    record: BuildRecord
    fresh: bool

    def has(self, key: str, one: Piece | PlannedReport, targets: Sequence[Path]) -> bool:
        """Whether files are there just as they would be made."""
        record = self.record.entries.get(key)
        if self.fresh or record is None or not record.made_of or record.made_of != one.made_of:
            return False
        outputs = [(target, record.outputs.get(_name_in(self.folder, target))) for target in targets]
        return all(target.is_file() and digest == digest_of_file(target) for target, digest in outputs)


def _outputs(built: Sequence[Built], put: Put, faults: list[str]) -> list[Outputs]:
    """What was made in the formats of its entries; what cannot be drawn is added to the faults."""
    wanted = [(one.made, [f".{ending}" for ending in one.piece.entry.formats]) for one in built]
    found = []
    for one, output in zip(built, put(wanted), strict=True):
        if isinstance(output, GrainStackError):
            faults.append(fault_of(one.piece.entry, output))
        else:
            found.append(output)
    return found


def _names(plan: Plan) -> list[str]:
    """The names of what is made of a plan, in their order."""
    return [*(entry.name for entry in plan.entries), *([plan.report.name] if plan.report else [])]


def _gone(plan: Plan, each: Sequence[PlanEntry | PlannedReport], before: BuildRecord) -> list[str]:
    """What was made once and is in the plan no more, or for a level that no record has any more."""
    keys = {one.key for one in each}
    planned, made = set(_names(plan)), {key.rpartition("/")[2] for key in keys}
    names = {key: key.rpartition("/")[2] for key in before.entries}
    return [key for key, name in names.items() if name not in planned or (name in made and key not in keys)]


def _write_record(plan: Plan, folder: Path, before: BuildRecord, made: BuildRecord, gone: Sequence[str]) -> None:
    """Writes the record, if it is another: what was made now, and what is still there from before."""
    places = {name: place for place, name in enumerate(_names(plan))}
    known = {key: entry for key, entry in {**before.entries, **made.entries}.items() if key not in gone}
    entries = {key: known[key] for key in sorted(known, key=lambda key: (places[key.rpartition("/")[2]], key))}
    record = record_as_json(BuildRecord({**before.files, **made.files}, entries, made.levels, made.colors))
    target = folder / RECORD
    if entries and not (target.is_file() and target.read_bytes() == record):
        make_folder(folder)
        write_whole(target, record)
