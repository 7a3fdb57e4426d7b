"""A report alone: all that it shows is made, and nothing but the report comes of it."""

from msgspec import Struct
from msgspec.structs import replace

from grainstack.language import phrase, speaking
from grainstack.making.kind import Outputs
from grainstack.making.make import Read
from grainstack.plan.building.color_orders import in_plan_colors
from grainstack.plan.building.levels import ColumnLevels
from grainstack.plan.building.pieces import Built, Common, Piece, Sums, finished_pieces, pieces_of
from grainstack.plan.building.preparing import prepared
from grainstack.plan.building.record import FileStates
from grainstack.plan.building.reports import PutReport, outputs_of_report, planned_reports
from grainstack.plan.building.sources import Sources
from grainstack.plan.file.plan import Plan, PlanError
from grainstack.plan.file.references import literal
from grainstack.plan.file.report import Part


class Alone(Struct, frozen=True):
    """A report that was made.

    Attributes:
        outputs: It in its formats, with the advice its pictures give.
        left_out: Why entries could not be made, a line each; the report goes without them.
    """

    outputs: Outputs
    left_out: tuple[str, ...]


def report_alone(plan: Plan, read: Read, put: PutReport) -> Alone:
    """The report of a plan, without whatever of it cannot be made: one question must not cost all the others.

    Args:
        plan: The plan; it has a report.
        read: Has the records of a source read.
        put: Puts a report into its formats.

    Raises:
        PlanError: The report cannot be made, or nothing of what it shows.
        RecordsError: Records that cannot be read.
    """
    with speaking(plan.language):
        return _report_alone(plan, read, put)


def _report_alone(plan: Plan, read: Read, put: PutReport) -> Alone:
    faults: list[str] = []
    sums, sources = Sums(), Sources(FileStates(plan.path.parent, {}))
    each, shared = prepared(plan, plan.entries, ColumnLevels(sources, {}), read, faults)
    pieces = pieces_of(plan, each, Common(sources, sums, shared), faults)
    if faults and not pieces:
        raise PlanError.of(faults, plan.path)
    sums.read(pieces, read)
    built, _ = in_plan_colors(finished_pieces(pieces, faults), {})
    done = {one.piece.entry.name for one in built}
    outputs = _outputs(_without(plan, done), [one.piece for one in built], built, put)
    return Alone(outputs, tuple(faults))


def _outputs(plan: Plan, pieces: list[Piece], built: list[Built], put: PutReport) -> Outputs:
    """The report in its formats.

    Raises:
        PlanError: It cannot be made.
    """
    faults: list[str] = []
    reports = planned_reports(plan, pieces)
    outputs = [outputs_of_report(one, built, put, faults) for one in reports]
    if faults or not outputs:
        raise PlanError.of(faults or ["There is nothing to show."], plan.path)
    return outputs[0]


def _without(plan: Plan, done: set[str]) -> Plan:
    """The plan with a report that shows only what was made, and says what could not be.

    Parts that name figures of anything else are left out.
    """
    if plan.report is None:
        return plan

    def kept(part: Part) -> Part:
        rows = (tuple(name for name in row if name in done) for row in part.rows)
        return replace(part, rows=tuple(row for row in rows if row))

    parts = [part for part in plan.report.parts if done.issuperset(plan.report.named_in(part))]
    shown = [kept(part) for part in parts if not part.rows or any(name in done for row in part.rows for name in row)]
    lost = [name for name in plan.report.shown if name not in done]
    notes = [Part(text=phrase("Could not be shown: {names}.", names=literal(", ".join(lost))))] if lost else []
    return replace(plan, report=replace(plan.report, parts=(*shown, *notes)))
