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
    FindingRequest,
    LookRequest,
    PalettesOutput,
    PictureOutput,
    PlanRequest,
    SavePlanRequest,
    TableOutput,
    ToplineRequest,
    TraceRequest,
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
        repeated: Options of a single value that may be given several times all the same.
    """

    name: str
    summary: str
    models: Sequence[type[Request]]
    run: Callable[[Requests], None]
    about: str = ""
    positional: Positional | None = _RECORDS
    repeated: tuple[str, ...] = ()


def _own(
    name: str, summary: str, models: Sequence[type[Request]], about: str = "", positional: Positional | None = _RECORDS
) -> Command:
    """A command with a module of its own, which is loaded once it runs."""
    return Command(name, summary, models, Later(f"cli.{name}", "run"), about or summary, positional)


_BEFORE_KINDS = (
    _own("look", "What is in the records, and what to try next.", (LookRequest,)),
    _own("codebook", "Drafts a codebook, or checks one.", (CodebookRequest,)),
    _own("derive", "Writes the records with bands, recodes or labels.", (RecordsRequest, DeriveOutput)),
)
_AFTER_KINDS = (
    _own(
        "topline",
        "Every question in one document, with charts and tables.",
        (RecordsRequest, ToplineRequest, LanguageRequest, EngineRequest),
        "Every question of the records, in the order of the codebook, in the chart and the tables that suit it.",
    ),
    _own(
        "build",
        "Every table and chart of a plan.",
        (PlanRequest, BuildRequest, EngineRequest),
        "Makes the tables and charts of a plan, in the formats it names; those that would come out the same are left.",
        _PLAN,
    ),
    _own(
        "check",
        "What is to be known of a plan before it is built.",
        (PlanRequest, FindingRequest, EngineRequest),
        "Makes everything but the files of a plan, and tells what is to be known of it.",
        _PLAN,
    ),
    _own(
        "changes",
        "What is different between two builds.",
        (ChangesRequest, FindingRequest),
        "Lists figures, levels, bases and flags that differ between two builds of a plan.",
        Positional("folders", "The folder of the old build, and that of the new one."),
    ),
    _own(
        "trace",
        "Where a picture or document comes from, and whether that still gives it.",
        (TraceRequest, FindingRequest),
        "From which records and which words a file was made, and whether it would still come out the same.",
        Positional("file", "A picture or a document."),
    ),
    _own(
        "weigh",
        "Weights with which the records stand for known totals.",
        (RecordsRequest, WeightRequest, WeighRequest),
        "Writes the records with weights that meet known totals.",
    ),
    _own(
        "palettes",
        "All palettes, and how they look to colour-blind readers.",
        (PalettesOutput, PictureRequest),
        "Shows the palettes in ordinary and three dichromatic visions.",
        None,
    ),
    _own(
        "demo",
        "Writes demo data and all that can be made of it.",
        (DemoRequest,),
        positional=Positional(
            "folder", "Where the demo goes. It is made if it is missing; files of the same names in it are replaced."
        ),
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
    every: tuple[type[Request], ...] = (CopyRequest, SavePlanRequest, MessagesRequest, EngineRequest)
    run = partial(Later("cli.kinds", "run_kind"), kind)
    return Command(
        kind.name, KINDS[kind.name], (*kind.models, output, *every), run, kind.summary, repeated=kind.repeated
    )
