"""`grainstack build`: every table and chart of a plan, its records read once."""

from pathlib import Path
from typing import TYPE_CHECKING

from grainstack.cli.failing import say, say_error, show
from grainstack.cli.options import Positional
from grainstack.cli.progress import Progress
from grainstack.errors import GrainStackError, RequestError
from grainstack.making.engine import EngineRequest
from grainstack.quick import dataclass
from grainstack.requests import Requests
from grainstack.speech import option, worded
from grainstack.words import Request, switch, word

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from grainstack.making.make import Read
    from grainstack.plan.build import Sums
    from grainstack.plan.plan_file import Plan
    from grainstack.plan.watching import Watch
    from grainstack.plan.writing import Build
    from grainstack.records.opened import Opened
    from grainstack.report.workers import Asked, Tried
    from grainstack.summary.partial import Partial


@dataclass(frozen=True, slots=True)
class BuildRequest(Request):
    """A plan file, and what is to be made of it.

    Raises:
        RequestError: A param that is not written `name=value`.
    """

    plan: str = ""
    only: tuple[str, ...] = word((), "Make this entry only; repeatable.", group="Plan", metavar="NAME")
    param: tuple[str, ...] = word(
        (), "A value for a param of the plan; repeatable.", group="Plan", metavar="NAME=VALUE"
    )
    list: bool = switch("Show entries and params, and make nothing.", group="Plan")
    workers: int | None = word(
        None,
        "How many processes draw at once; as many as there are cores where that is faster.",
        group="Output",
        metavar="N",
        within=(1, 64),
    )
    watch: bool = switch("Build again whenever a change is saved.", group="Plan")
    quiet: bool = switch("Say nothing but what went wrong.", group="Output")
    fresh: bool = switch("Make all entries, whatever is there already.", group="Plan")
    out: str | None = word(
        None, "The folder for what is made; `out` beside the plan.", group="Output", metavar="FOLDER"
    )
    allow: tuple[str, ...] = word(
        (), "A database or network address the plan may read; repeatable.", group="Plan", metavar="ADDRESS"
    )

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        for text in self.param:
            if "=" not in text:
                raise RequestError(f"{option('param')} {text} has no value.", "Write it like year=2026.")

    @property
    def params(self) -> dict[str, str]:
        """The params typed, by name."""
        return {text.partition("=")[0].strip(): text.partition("=")[2].strip() for text in self.param}


MODELS = (BuildRequest, EngineRequest)
POSITIONAL = Positional("plan", "The plan file.")


def run(requests: Requests) -> None:
    """Makes the tables and charts of a plan, in the formats it names; those that would come out the same are left."""
    from grainstack.plan.build import Sums  # noqa: PLC0415 - a help page needs none of it

    asked: BuildRequest = requests[BuildRequest]
    if asked.list:
        show(_listed(plan_of(asked)))
        return
    if asked.watch:
        _watch(asked, requests[EngineRequest])
        return
    _build(asked, requests[EngineRequest], Sums())


def plan_of(asked: BuildRequest) -> "Plan":
    """The plan, read and checked."""
    from grainstack.making.kind import Product  # noqa: PLC0415 - a help page needs none of it
    from grainstack.paint.formats import PICTURE_ENDINGS  # noqa: PLC0415
    from grainstack.plan.plan_file import read_plan  # noqa: PLC0415
    from grainstack.report.formats import TABLE_ENDINGS  # noqa: PLC0415

    endings = {Product.TABLE: TABLE_ENDINGS, Product.CHART: PICTURE_ENDINGS}
    formats = {product: tuple(ending.lstrip(".") for ending in of_it) for product, of_it in endings.items()}
    return read_plan(Path(asked.plan), formats, asked.params)


def _build(asked: BuildRequest, engine: EngineRequest, sums: "Sums", watch: "Watch | None" = None) -> None:
    """Builds the plan once.

    Args:
        asked: What is wanted.
        engine: Where records are read.
        sums: What was made of records before.
        watch: Told what the plan is made of.
    """
    from grainstack.plan.build import chosen, engine_of  # noqa: PLC0415 - a help page needs none of it
    from grainstack.plan.writing import Tools, build  # noqa: PLC0415
    from grainstack.report.workers import put  # noqa: PLC0415

    plan = plan_of(asked)
    entries = chosen(plan, asked.only, asked.allow)
    if watch is not None:
        watch.go_on_with(entries)
    folder = Path(asked.out) if asked.out else plan.path.parent / "out"
    progress = Progress(quiet=asked.quiet)
    read = _reading(engine_of(plan, engine, asked.allow), progress)

    def drawn(made: "Asked") -> "Iterator[Tried]":
        return progress.each(put(made, asked.workers), len(made))

    done = build(plan, entries, folder, Tools(read, drawn, sums), fresh=asked.fresh)
    if not asked.quiet:
        _tell(done)


def _watch(asked: BuildRequest, engine: EngineRequest) -> None:
    """Builds the plan, and again each time somebody has saved a change, until interrupted."""
    from grainstack.plan.build import Sums  # noqa: PLC0415 - loaded by then
    from grainstack.plan.watching import Watch  # noqa: PLC0415

    sums, watch = Sums(), Watch(Path(asked.plan))
    while True:
        watch.look()
        try:
            _build(asked, engine, sums, watch)
        except GrainStackError as error:
            say_error(error)
        if not asked.quiet:
            say("Watching; stop with Ctrl-C.")
        watch.wait()


def _reading(engine: EngineRequest, progress: Progress) -> "Read":
    """What reads the records of a source, and prints what was sent to a database where that is wanted."""
    from grainstack.cli.kinds import check_explain, reading_on, say_sent  # noqa: PLC0415 - a help page needs none of it

    read_on = reading_on(engine, progress)

    def read(partials: "Sequence[Partial]", opened: "Opened") -> None:
        check_explain(engine, opened)
        read_on(partials, opened)
        say_sent(engine, opened)

    return read


def _listed(plan: "Plan") -> str:
    """The params and entries of a plan, a line each."""
    lines = [f"{name} = {value!r}  (param)" for name, value in plan.params.items()]
    lines += [f"{one.name}: {one.kind.name}, {', '.join(one.formats)}" for one in plan.entries]
    return "\n".join(lines)


def _tell(done: "Build") -> None:
    """Says what a build did."""
    from grainstack.plan.speech import PLANNED  # noqa: PLC0415 - loaded by then

    for one in done.written:
        for target in one.targets:
            say(f"Wrote {target}.")
        for advice in one.advice:
            say(worded(f"{one.built.piece.entry.name}: {advice}", PLANNED))
    if done.unchanged:
        say(f"Unchanged, left as they are: {', '.join(done.unchanged)}.")
    if done.left_over:
        say(f"In the plan no more, left as they are: {', '.join(map(str, done.left_over))}.")
