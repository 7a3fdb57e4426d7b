"""The commands, in the order people work: what each is called, does and can be asked for, and what runs it."""

from collections.abc import Callable, Mapping, Sequence
from functools import partial

from msgspec import Struct

from grainstack.advice import MessagesRequest
from grainstack.chart.picture_request import PictureRequest
from grainstack.cli.command_requests import (
    BuildRequest,
    ChangesRequest,
    CodebookRequest,
    CopyRequest,
    DemoRequest,
    DeriveOutput,
    EditRequest,
    FindingRequest,
    FindRequest,
    LikeRequest,
    LookRequest,
    OpenRequest,
    PalettesOutput,
    PictureOutput,
    PlanRequest,
    SavePlanRequest,
    TableOutput,
    ToplineRequest,
    TraceRequest,
    UndoRequest,
    WeighRequest,
)
from grainstack.later import Later
from grainstack.making.engine import EngineRequest
from grainstack.making.kind import Kind, Product
from grainstack.making.kinds import KINDS, kind_named
from grainstack.option_fields import Request
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import Requests
from grainstack.summary.options import LanguageRequest, WeightRequest


class Positional(Struct, frozen=True):
    """The field of a request that is typed without an option.

    Attributes:
        name: Of the field.
        help: For the help page.
    """

    name: str
    help: str


_RECORDS = Positional("file", "Records: paths, a pattern, - for standard input, or a database address.")
_PLAN = Positional("plan", "The plan file.")


class Command(Struct, frozen=True):
    """A command.

    Attributes:
        name: How it is called.
        summary: What it does, in the list of commands.
        models: Its request models; the first one also takes the positional argument.
        run: What it does.
        about: What it does, on its help page; the summary where that is all.
        positional: What of the first model is typed without an option; None for nothing.
        most_used: The options that the short help shows, in the order people reach for them.
        examples: What it shows besides, made for the demo data.
        repeated: Options of a single value that may be given several times all the same.
        without_defaults: Whether a codebook's defaults have no place in it.
    """

    name: str
    summary: str
    models: Sequence[type[Request]]
    run: Callable[[Requests], None]
    about: str = ""
    positional: Positional | None = _RECORDS
    most_used: tuple[str, ...] = ()
    examples: tuple[str, ...] = ()
    repeated: tuple[str, ...] = ()
    without_defaults: bool = False


_BEFORE_KINDS = (
    Command(
        "look",
        "What is in the records, and what to try next.",
        (LookRequest,),
        Later("cli.look", "run"),
        "What is in the records, and what to try next.",
        most_used=("rows", "codebook", "sheet", "header_row", "query"),
        examples=("look passengers.csv", "look costs.csv --rows 0"),
    ),
    Command(
        "codebook",
        "Drafts a codebook, or checks one.",
        (CodebookRequest,),
        Later("cli.codebook", "run"),
        "Drafts a codebook, or checks one.",
        most_used=("out", "codebook", "sheet", "header_row", "query"),
        examples=("codebook passengers.csv", "codebook passengers.csv --codebook codebook.toml"),
    ),
    Command(
        "derive",
        "Writes the records with bands, recodes or labels.",
        (RecordsRequest, DeriveOutput),
        Later("cli.derive", "run"),
        "Writes the records with bands, recodes or labels.",
        most_used=("band", "recode", "labels", "to_long", "only", "where", "out"),
        examples=(
            "derive passengers.csv --band age=10 --labels --out labelled.csv",
            "derive passengers.csv --only season=summer --out summer.parquet",
        ),
    ),
)
_AFTER_KINDS = (
    Command(
        "topline",
        "Every question in one document, with charts and tables.",
        (RecordsRequest, ToplineRequest, LanguageRequest, EngineRequest),
        Later("cli.topline", "run"),
        "Every question of the records, in the order of the codebook, in the chart and the tables that suit it.",
        most_used=("split", "question", "leave_out", "where", "title", "template", "out", "save_plan"),
        examples=(
            "topline passengers.csv --split season --out topline.docx",
            "topline passengers.csv --question ticket --question wait --out topline.pdf --save-plan topline.toml",
        ),
    ),
    Command(
        "build",
        "Every table and chart of a plan.",
        (PlanRequest, BuildRequest, EngineRequest),
        Later("cli.build", "run"),
        "Makes the tables and charts of a plan, in the formats it names; those that would come out the same are left.",
        _PLAN,
        most_used=("only", "param", "watch", "fresh", "list", "out"),
        examples=("build plan.toml --only tickets", "build plan.toml --list --param year=2024"),
    ),
    Command(
        "check",
        "Check a plan for problems before building.",
        (PlanRequest, FindingRequest, EngineRequest),
        Later("cli.check", "run"),
        "Makes everything but the files of a plan, and reports faults, notes, advice and small bases.",
        _PLAN,
        most_used=("only", "param", "strict", "json"),
        examples=("check plan.toml", "check plan.toml --only wait --json"),
    ),
    Command(
        "changes",
        "What is different between two builds.",
        (ChangesRequest, FindingRequest),
        Later("cli.changes", "run"),
        "Lists figures, levels, bases and flags that differ between two builds of a plan.",
        Positional("folders", "The folder of the old build, and that of the new one."),
        most_used=("strict", "json"),
        examples=(
            "build plan.toml --only revenue --out 2025",
            "build plan.toml --only revenue --out 2024 --param year=2024",
            "changes 2024 2025",
        ),
    ),
    Command(
        "trace",
        "Where a picture or document comes from, and whether those inputs still reproduce it.",
        (TraceRequest, FindingRequest),
        Later("cli.trace", "run"),
        "From which records and which words a file was made, and whether it would still come out the same.",
        Positional("file", "A picture or a document."),
        most_used=("plan", "strict", "json"),
        examples=("bar passengers.csv --by route --out route.png", "trace route.png"),
    ),
    Command(
        "weigh",
        "Weights with which the records stand for known totals.",
        (RecordsRequest, WeightRequest, WeighRequest),
        Later("cli.weigh", "run"),
        "Writes the records with weights that meet known totals.",
        most_used=("target", "weight", "lowest", "highest", "weight_name", "recode", "out"),
        examples=(
            "weigh passengers.csv --target targets.csv --out weighed.csv",
            "weigh passengers.csv --target 'season: Spring=24, Summer=37, Autumn=24, Winter=15' --out weighed.csv",
        ),
    ),
    Command(
        "edit",
        "A page on this machine where a chart is made while it is seen.",
        (EditRequest,),
        Later("cli.edit", "run"),
        "Serves a page for this machine alone: each change is drawn as the command would draw it, and kept in a plan.",
        Positional("file", "Records; or a plan, and the name of one of its entries."),
        most_used=("codebook", "no_browser"),
        examples=("edit passengers.csv", "edit plan.toml tickets_by_route"),
        without_defaults=True,
    ),
    Command(
        "undo",
        "Takes back the last change of a plan.",
        (UndoRequest,),
        Later("cli.undo", "run"),
        "Gives a plan the version it had before the program last wrote it; again, and one more is taken back.",
        _PLAN,
        most_used=(),
        examples=(
            "bar passengers.csv --by route --save-plan mine.toml --name routes",
            "bar passengers.csv --by route --order largest-first --save-plan mine.toml --name routes",
            "undo mine.toml",
        ),
    ),
    Command(
        "palettes",
        "All palettes, and how they look to colour-blind readers.",
        (PalettesOutput, PictureRequest),
        Later("cli.palettes", "run"),
        "Shows the palettes in ordinary and three dichromatic visions.",
        None,
        most_used=("style", "size", "out"),
        examples=("palettes", "palettes --out palettes.png"),
    ),
    Command(
        "find",
        "Which option does what you have in mind.",
        (FindRequest,),
        Later("cli.find", "run"),
        "Which option, plan key or style key does what you have in mind, in words of your own.",
        Positional("text", "What you want: rotate names, top 10, hide the legend."),
        most_used=(),
        examples=('find "rotate names"', "find top 10"),
    ),
    Command(
        "demo",
        "Writes demo data and all that can be made of it.",
        (DemoRequest,),
        Later("cli.demo", "run"),
        "Writes demo data and all that can be made of it.",
        Positional(
            "folder", "Where the demo goes. It is made if it is missing; files of the same names in it are replaced."
        ),
        most_used=(),
        examples=("demo demo-out",),
    ),
)
COMMANDS: Mapping[str, str] = {
    **{one.name: one.summary for one in _BEFORE_KINDS},
    **KINDS,
    **{one.name: one.summary for one in _AFTER_KINDS},
}


def command_named(name: str) -> Command:
    """The command of a name, one of `COMMANDS`; that of a kind is made of what the kind can be asked for."""
    found = next((one for one in (*_BEFORE_KINDS, *_AFTER_KINDS) if one.name == name), None)
    return found or _of_kind(kind_named(name))


def _of_kind(kind: Kind) -> Command:
    output: type[Request] = PictureOutput if kind.product is Product.CHART else TableOutput
    every: tuple[type[Request], ...] = (OpenRequest, CopyRequest, SavePlanRequest, MessagesRequest, EngineRequest)
    every = (LikeRequest, *every) if kind.product is Product.CHART else every
    run = partial(Later("cli.kinds", "run_kind"), kind)
    return Command(
        kind.name,
        KINDS[kind.name],
        (*kind.models, output, *every),
        run,
        kind.summary,
        most_used=kind.most_used,
        examples=kind.examples,
        repeated=kind.repeated,
    )
