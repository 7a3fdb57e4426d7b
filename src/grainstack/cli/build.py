"""`grainstack build`: every table and chart of a plan, its records read once."""

from pathlib import Path
from typing import TYPE_CHECKING

from grainstack.cli.command_requests import BuildRequest, PlanRequest
from grainstack.cli.failing import say, say_error, show
from grainstack.cli.kinds import check_explain, reading_on, say_sent
from grainstack.cli.progress import Progress
from grainstack.endings import CHART_ENDINGS, TABLE_ENDINGS
from grainstack.errors import GrainStackError, listed
from grainstack.language import phrase
from grainstack.making.engine import EngineRequest
from grainstack.making.kind import Product
from grainstack.option_names import worded
from grainstack.plan.building.build import Tools, build
from grainstack.plan.building.pieces import Sums, chosen, engine_of
from grainstack.plan.building.watching import Watch, files_of_plan
from grainstack.plan.file.naming import PLANNED
from grainstack.plan.file.reading import read_plan
from grainstack.report.documents.writing import report_in
from grainstack.report.workers import put
from grainstack.requests import Requests

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from grainstack.making.make import Read
    from grainstack.plan.building.build import Build
    from grainstack.plan.file.plan import Formats, Plan, PlanEntry
    from grainstack.records.opened import Opened
    from grainstack.report.workers import Tried, Wanted
    from grainstack.summary.partial import Partial


def run(requests: Requests) -> None:
    """Makes the tables and charts of a plan, in the formats it names; those that would come out the same are left."""
    if requests[BuildRequest].list:
        plan = plan_of(requests[PlanRequest])
        plan.check()
        show(_listed(plan))
    elif requests[BuildRequest].watch:
        _watch(requests)
    else:
        _build(requests, Sums())


def plan_of(request: PlanRequest) -> "Plan":
    """The plan as it is; it may have faults."""
    return read_plan(Path(request.plan), known_formats(), request.params, request.for_each or "")


def known_formats() -> "Formats":
    """The formats that tables and charts of a plan can be written in."""
    endings = {Product.TABLE: TABLE_ENDINGS, Product.CHART: CHART_ENDINGS}
    return {product: tuple(ending.lstrip(".") for ending in of_it) for product, of_it in endings.items()}


def entries_of(request: PlanRequest) -> "tuple[Plan, tuple[PlanEntry, ...]]":
    """The plan, which may have faults, and those of its entries that count."""
    plan = plan_of(request)
    return plan, chosen(plan, request.only, request.allow)


def reading(plan: "Plan", request: PlanRequest, engine: EngineRequest, progress: Progress) -> "Read":
    """What reads the records of a source, and prints what was sent to a database where that is wanted.

    Args:
        plan: The plan, which may say where.
        request: Which addresses it may use.
        engine: What the command line says.
        progress: Told how far reading is.
    """
    where = engine_of(plan, engine, request.allow)
    read_on = reading_on(where, progress)

    def read(partials: "Sequence[Partial]", opened: "Opened") -> None:
        check_explain(where, opened)
        read_on(partials, opened)
        say_sent(where, opened)

    return read


def _build(requests: Requests, sums: "Sums", watch: "Watch | None" = None) -> None:
    """Builds the plan once.

    Args:
        requests: What is wanted.
        sums: What was made of records before.
        watch: Told what the plan is made of.
    """
    request = requests[BuildRequest]
    plan, entries = entries_of(requests[PlanRequest])
    plan.check()
    if watch is not None:
        watch.go_on_with(files_of_plan(plan, entries))
    folder = Path(request.out) if request.out else plan.path.parent / "out"
    progress = Progress(quiet=request.quiet)

    def drawn(made: "Wanted") -> "Iterator[Tried]":
        return progress.each(put(made, request.workers), len(made))

    read = reading(plan, requests[PlanRequest], requests[EngineRequest], progress)
    done = build(plan, entries, folder, Tools(read, drawn, report_in, sums), fresh=request.fresh)
    if not request.quiet:
        for sentence in _told(done):
            say(sentence)
        if plan.report and plan.report.of_everything:
            say("[report] has no parts: it shows every entry, in the order of the plan.")


def _watch(requests: Requests) -> None:
    """Builds the plan, and again each time somebody has saved a change, until interrupted."""
    sums, watch = Sums(), Watch([Path(requests[PlanRequest].plan)])
    while True:
        watch.look()
        try:
            _build(requests, sums, watch)
        except GrainStackError as error:
            say_error(error)
        if not requests[BuildRequest].quiet:
            say("Watching; stop with Ctrl-C.")
        watch.wait()


def _listed(plan: "Plan") -> str:
    """The params and entries of a plan, a line each."""
    lines = [f"{name} = {value!r}  (param)" for name, value in plan.params.items()]
    for one in plan.entries:
        each = f", for each {one.for_each}" if one.for_each else ""
        lines.append(f"{one.name}: {one.kind.name}, {', '.join(one.formats)}{each}")
    if plan.report:
        lines.append(f"{plan.report.name}: report, {', '.join(plan.report.formats)}")
    return "\n".join(lines)


def _told(done: "Build") -> "Iterator[str]":
    """What a build did, in sentences."""
    for one in done.written:
        for target in one.targets:
            yield phrase("Wrote {file}.", file=target)
        for advice in one.advice:
            yield worded(f"{one.key}: {advice}", PLANNED)
    if done.unchanged:
        yield phrase("Unchanged, left as they are: {names}.", names=listed(done.unchanged))
    if done.left_over:
        yield f"In the plan no more, left as they are: {', '.join(map(str, done.left_over))}."


def built_quietly(path: Path) -> list[str]:
    """Builds a plan for somebody who waits elsewhere, in its folder `out`.

    Args:
        path: The plan.

    Returns:
        What is told of it, advice included.

    Raises:
        GrainStackError: It cannot be built.
    """
    request, progress = PlanRequest(plan=str(path)), Progress(quiet=True)
    plan, entries = entries_of(request)
    plan.check()

    def drawn(made: "Wanted") -> "Iterator[Tried]":
        return put(made, 1)

    read = reading(plan, request, EngineRequest(), progress)
    return list(_told(build(plan, entries, plan.path.parent / "out", Tools(read, drawn, report_in, Sums()))))
