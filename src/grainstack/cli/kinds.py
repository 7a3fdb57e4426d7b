"""Every kind of table and chart as a command: words in, files or text out."""

import os
import shutil
import sys
from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

import typer
from msgspec.structs import replace

from grainstack.advice import Advice, MessagesRequest
from grainstack.chart.picture_request import PictureRequest
from grainstack.cli.command_requests import CopyRequest, OpenRequest, PictureOutput, SavePlanRequest, TableOutput
from grainstack.cli.failing import TYPED, say, show, wrapped
from grainstack.cli.progress import Progress
from grainstack.endings import CHART_ENDINGS, TABLE_ENDINGS
from grainstack.errors import IdleError, reason_of
from grainstack.language import phrase, speaking
from grainstack.later import Later
from grainstack.making.engine import EngineRequest
from grainstack.making.kind import Kind, Product
from grainstack.making.make import make
from grainstack.option_names import option, worded
from grainstack.records.opened import inputs_of, open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.records.source import Queried
from grainstack.requests import Requests
from grainstack.summary.options import LanguageRequest
from grainstack.summary.order import OrderRequest
from grainstack.visible import visible_lines
from grainstack.whole_files import check_targets, write_all

if TYPE_CHECKING:
    from grainstack.making.kind import Outputs
    from grainstack.making.make import Made, Read
    from grainstack.plan.file.saving import Extended
    from grainstack.records.opened import Opened

# What only some commands need, which most should not wait for.
_CHECK_CLIPBOARD, _COPY = Later("cli.clipboard", "check_clipboard"), Later("cli.clipboard", "copy")
_MAKE_BLOCKS = Later("making.blocks", "make_blocks")
_OUTPUTS_OF = Later("report.output_formats", "outputs_of")
_EXTENDED, _NEW_ENTRY = Later("plan.file.saving", "extended"), Later("plan.file.saving", "NewEntry")
_READ_ON_CLUSTER = Later("making.cluster", "read_on_cluster")
_STYLED = Later("making.house_style", "styled")
_TABLE_TEXT, _TERMINAL_PAINT = Later("report.print_request", "table_text"), Later("paint.terminal", "paint")
_TRACE = Later("making.trace", "trace_of_command")
_WIDEST = 120  # columns: a longer line is hard to follow with the eye
_USUAL = (80, 24)  # of a terminal whose size is not known


def run_kind(kind: Kind, typed: Requests) -> None:
    """Makes a table or chart and writes it, or shows it where no file is named."""
    with speaking(typed.usual(LanguageRequest).language):
        _run(kind, typed)


def _run(kind: Kind, typed: Requests) -> None:

    requests = Requests(*(typed[model] for model in kind.models))
    chart = kind.product is Product.CHART
    targets = _checked_targets(kind, typed, requests)
    style = None
    if chart:
        requests, style = _STYLED(requests)
    form = typed[CopyRequest].form_for(kind.product)
    clipboard = _CHECK_CLIPBOARD(form, writes=bool(targets)) if form else []
    plan = _planned(kind, typed, targets) if typed[SavePlanRequest].save_plan else None
    opened = open_records(requests[RecordsRequest])
    check_explain(typed[EngineRequest], opened)
    made = _made(kind, requests, opened, reading_on(typed[EngineRequest], Progress()))
    if targets:
        made = _traced(made, typed, inputs_of(requests[RecordsRequest]), opened.source.name)
    of_drawing = _write(made, targets) if targets else () if form else _show(made)
    if form:
        _COPY(made, form, clipboard)
    if chart:
        _say_order(made, targets)
    if opened.beside:
        say(phrase("Using the codebook {file}.", file=opened.beside))
    if style:
        say(phrase("Using the style {file}.", file=style))
    say_sent(typed[EngineRequest], opened)
    _speak(made, of_drawing, typed[MessagesRequest])
    if typed[OpenRequest].open_:
        _open(targets)
    if plan:
        _save(plan)


def _save(plan: "Extended") -> None:
    """Writes a plan with what was asked for, and says what changed and what can be done next."""
    changed, *others = plan.write()
    again = f"Make it again: grainstack build {plan.path} {option('only', plan.name)}."
    undo = "" if plan.changes is None else f" Take it back: grainstack undo {plan.path}."
    for sentence in (f"{changed} {again}{undo}", *others):
        say(sentence)


def _checked_targets(kind: Kind, typed: Requests, requests: Requests) -> list[Path]:
    """The files to write, once it is sure that they can be and that all that was asked for makes a difference there.

    Raises:
        RequestError: A file that cannot be written, or is being read.
        IdleError: Something that makes no difference in what is written.
    """
    chart = kind.product is Product.CHART
    targets = [Path(name) for name in (typed[PictureOutput] if chart else typed[TableOutput]).out]
    check_targets(targets, inputs_of(requests[RecordsRequest]), CHART_ENDINGS if chart else TABLE_ENDINGS)
    if typed[OpenRequest].open_ and not targets:
        raise IdleError(f"{option('open_')} opens what is written, and nothing is.", f"Add {option('out')} FILE.")
    requests.check_formats([target.suffix.lower().lstrip(".") for target in targets])
    if chart and targets:
        _check_pixels(requests, targets)
    return targets


def _open(targets: Sequence[Path]) -> None:
    """Opens files in the system's viewer."""
    for target in targets:
        try:
            typer.launch(str(target))
        except OSError as error:
            say(f"{target} was written and cannot be opened here: {reason_of(error)}.")


def _traced(made: "Made", typed: Requests, inputs: Sequence[Path], source: str) -> "Made":
    """What was made with where it comes from, which its files carry."""
    request = Requests(*(typed[model] for model in made.kind.models))
    return replace(made, trace=_TRACE(made.kind.name, request, inputs, source))


def _planned(kind: Kind, typed: Requests, targets: Sequence[Path]) -> "Extended":
    """The plan with what was asked for, checked before anything is made."""
    request = typed[SavePlanRequest]
    path = Path(request.save_plan or "")
    formats = tuple(dict.fromkeys(target.suffix.lower().lstrip(".") for target in targets))
    plan: Extended = _EXTENDED(
        path, _NEW_ENTRY(kind, Requests(*(typed[model] for model in kind.models)), formats, request.name)
    )
    return plan


def _made(kind: Kind, requests: Requests, opened: "Opened", read: "Read") -> "Made":
    if kind.product is Product.CHART:
        return make(kind, requests, opened, read)

    made: Made = _MAKE_BLOCKS(kind, requests, opened, read)
    return made


def reading_on(request: EngineRequest, progress: Progress) -> "Read":
    """What reads the records: this machine, or a cluster where that was asked for."""
    if request.engine == "here" or request.scheduler is None:
        return progress.read

    return partial(_READ_ON_CLUSTER.function, scheduler=request.scheduler, progress=progress.parts)


def check_explain(request: EngineRequest, opened: "Opened") -> None:
    """Refuses to show queries where none are sent.

    Raises:
        IdleError: The records are in no database.
    """
    if request.explain and not isinstance(opened.source, Queried):
        raise IdleError(
            f"{option('explain')} makes no difference: {opened.source.name} is no database.", "Leave it out."
        )


def say_sent(request: EngineRequest, opened: "Opened") -> None:
    """Prints the queries that were sent to a database, where that was asked for."""
    if request.explain and isinstance(opened.source, Queried):
        for sql in opened.source.sent:
            say(f"Sent: {sql}")


def _check_pixels(requests: Requests, targets: Sequence[Path]) -> None:
    """Refuses a number of pixels where no target is made of them, and the size is not given in them."""
    picture = requests[PictureRequest]
    pixels = any(target.suffix.lower() == ".png" for target in targets) or picture.size_named.rstrip().endswith("px")
    if "dpi" in picture.given() and not pixels:
        raise IdleError(
            f"{option('dpi')} makes no difference: nothing here is measured in pixels.",
            f"Name a .png, or give {option('size')} in px.",
        )


def terminal_width() -> tuple[int, bool]:
    """Columns of the terminal (80 when unknown, at most 120), and whether it shows colours."""
    columns = min(shutil.get_terminal_size(_USUAL).columns, _WIDEST)
    colors = sys.stdout.isatty() and "NO_COLOR" not in os.environ and os.environ.get("TERM") != "dumb"
    return columns, colors


def _speak(made: "Made", of_drawing: Sequence[Advice], messages: MessagesRequest) -> None:
    for note in made.notes:
        say(note)
    for advice in (*made.advice, *of_drawing):
        if advice.name not in messages.no_advice:
            say(str(advice))
    if messages.account:
        say(made.table.provenance.account() + ".")


def _write(made: "Made", targets: Sequence[Path]) -> Sequence[Advice]:
    """Writes it into files, and gives the advice that only its outputs can."""
    outputs: Outputs = _OUTPUTS_OF(made, [target.suffix.lower() for target in targets])
    write_all(targets, outputs.contents)
    for target in targets:
        say(phrase("Wrote {file}.", file=target))
    return outputs.advice


def _show(made: "Made") -> Sequence[Advice]:
    """Shows it in the terminal, or to whatever reads what the command prints; advice is on its figures alone."""
    if made.kind.product is Product.CHART:
        columns, colors = terminal_width()
        show(_TERMINAL_PAINT.function(made.rows(columns), colors=colors))
        return ()

    width = shutil.get_terminal_size(_USUAL).columns if sys.stdout.isatty() else None
    show(visible_lines(_TABLE_TEXT(made, width, lambda note: wrapped(worded(note, TYPED), sys.stdout))))
    return ()


def _say_order(made: "Made", targets: Sequence[Path]) -> None:
    """Says in which order levels stand, and by which rule, when a picture was written that does not say it."""
    if OrderRequest not in made.kind.models:
        return
    shown = [one for one in made.table.dimensions if len(one.all_levels) > 1]
    if shown and targets:
        orders = (f"{one.variable.label}: {one.ordered_by}" for one in shown)
        say(phrase("Order – {orders}.", orders="; ".join(orders)))
