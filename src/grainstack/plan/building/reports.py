"""The reports of a build: one of all entries, or one for each level that its entries are made for."""

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import TypeVar

from msgspec import Struct
from msgspec.structs import replace

from grainstack.digests import digest_of, digest_of_file
from grainstack.errors import GrainStackError, OutputError
from grainstack.making.kind import Outputs, Product
from grainstack.making.make import Made
from grainstack.making.trace import Trace, TracedPlan
from grainstack.option_names import worded
from grainstack.plan.building.pieces import Built, Piece
from grainstack.plan.file.naming import PLANNED
from grainstack.plan.file.plan import Plan, PlanError
from grainstack.plan.file.report import Part, Report

_SHOWN = ("png", "svg")  # pictures that readers of Markdown show among text
Result = TypeVar("Result")
Quoted = Callable[[Report, Mapping[str, Made]], Report]
PutReport = Callable[[Report, Mapping[str, Made], Mapping[str, str]], Outputs]


class PlannedReport(Struct, frozen=True):
    """A report that waits for what it shows.

    Attributes:
        report: What it says and shows.
        pieces: What it shows, by the names of entries.
        folder: The folder of the level it is about; empty where it is about none.
    """

    report: Report
    pieces: Mapping[str, Piece]
    folder: str

    @property
    def made_of(self) -> str:
        """The digest of everything it is made of; empty where that cannot be told."""
        digests = [piece.made_of for piece in self.pieces.values()]
        digests += [digest_of_file(one) for one in map(Path, self.report.templates) if one.is_file()]
        return digest_of(replace(self.report, templates=(), places={}, no_advice=()), digests) if all(digests) else ""

    @property
    def trace(self) -> Trace:
        """Where it comes from, as its files carry it."""
        traces = [piece.trace for piece in self.pieces.values()]
        records = tuple(dict.fromkeys(file for one in traces for file in one.records))
        return Trace("report", {}, records, traces[0].plan if traces else TracedPlan(), self.key, self.words)

    @property
    def words(self) -> str:
        """The digest of everything it is made of but the records."""
        about = replace(self.report, templates=(), places={}, no_advice=())
        return digest_of(about, [piece.asked for piece in self.pieces.values()])

    @property
    def key(self) -> str:
        """What tells it from everything else that is made of the plan."""
        return f"{self.folder}/{self.report.name}" if self.folder else self.report.name

    def targets(self, folder: Path) -> tuple[Path, ...]:
        """Its files."""
        return tuple(folder / f"{self.key}.{ending}" for ending in self.report.formats)


def planned_reports(plan: Plan, pieces: Sequence[Piece]) -> list[PlannedReport]:
    """The reports that can be made of some entries: none unless all that it shows is among them.

    Args:
        plan: The plan.
        pieces: The entries.
    """
    report = plan.report
    if report is None:
        return []
    shown = {name: [piece for piece in pieces if piece.entry.name == name] for name in report.shown}
    if not all(shown.values()):
        return []
    levels = {
        piece.entry.folder: piece.entry.level for of_it in shown.values() for piece in of_it if piece.entry.folder
    }
    found = []
    for folder, level in (levels or {"": ""}).items():
        of_it = {
            name: next((piece for piece in those if piece.entry.folder in (folder, "")), None)
            for name, those in shown.items()
        }
        chosen = {name: piece for name, piece in of_it.items() if piece is not None}
        if len(chosen) == len(shown):
            found.append(PlannedReport(_about(report, chosen, level), chosen, folder))
    return found


def _about(report: Report, pieces: Mapping[str, Piece], level: str) -> Report:
    """The report of one level, which stands in its texts as `{column}`."""
    column = next((piece.entry.for_each for piece in pieces.values() if piece.entry.for_each), "")
    if not column:
        return report

    def put(text: str) -> str:
        return text.replace(f"{{{column}}}", level)

    def about(part: Part) -> Part:
        return replace(part, heading=put(part.heading), text=put(part.text), caption=put(part.caption))

    places = {put(text): place for text, place in report.places.items()}
    return replace(report, title=put(report.title), parts=tuple(map(about, report.parts)), places=places)


def outputs_of_report(one: PlannedReport, built: Sequence[Built], put: PutReport, faults: list[str]) -> Outputs:
    """A report in its formats; what cannot be shown is added to the faults.

    Args:
        one: The report.
        built: What was made, all that it shows among it.
        put: Puts a report into its formats.
        faults: What is wrong, a line each.
    """
    files = {name: _file_of(piece, one.folder) for name, piece in one.pieces.items()}
    return _caught(
        one, faults, lambda: put(replace(one.report, trace=str(one.trace)), _made(one, built), files)
    ) or Outputs(())


def figures_put(one: PlannedReport, built: Sequence[Built], quoted: Quoted, faults: list[str]) -> Report | None:
    """A report with figures in its texts; None where some cannot be, which is added to the faults.

    Args:
        one: The report.
        built: What was made, all that it names among it.
        quoted: Puts figures into the texts of a report.
        faults: What is wrong, a line each.
    """
    return _caught(one, faults, lambda: quoted(one.report, _made(one, built)))


def _made(one: PlannedReport, built: Sequence[Built]) -> dict[str, Made]:
    """What a report shows, by the names of entries."""
    return {name: next(each.made for each in built if each.piece is piece) for name, piece in one.pieces.items()}


def _caught(one: PlannedReport, faults: list[str], done: Callable[[], Result]) -> Result | None:
    """What comes of a report; None where it cannot be, and the faults say why."""
    try:
        return done()
    except PlanError as error:
        faults += error.faults
    except OutputError:
        raise  # it is no fault of the plan
    except GrainStackError as error:
        faults.append(f"report {one.key}: {worded(f'{error.message} {error.remedy}'.rstrip(), PLANNED)}")
    return None


def _file_of(piece: Piece, folder: str) -> str:
    """The file of a chart, from the folder of a report."""
    if piece.entry.kind.product is Product.TABLE:
        return ""
    up = "../" if folder and not piece.entry.folder else ""
    formats = piece.entry.formats
    shown = next((ending for ending in formats if ending in _SHOWN), formats[0])  # few readers show one among text
    return f"{up}{piece.entry.name}.{shown}"
