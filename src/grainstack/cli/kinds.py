"""Every kind of table and chart as a command: words in, files or text out."""

import os
import shutil
import sys
from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from grainstack.advice import Advice, MessagesRequest
from grainstack.cli.clipboard import CopyRequest, check_clipboard, copy
from grainstack.cli.failing import TYPED, say, show, wrapped
from grainstack.cli.progress import Progress
from grainstack.errors import IdleError
from grainstack.language import phrase, speaking
from grainstack.making.engine import EngineRequest
from grainstack.making.kind import Kind, Product
from grainstack.paint.formats import CHART_ENDINGS
from grainstack.report.formats import TABLE_ENDINGS
from grainstack.requests import Requests
from grainstack.speech import option, worded
from grainstack.visible import visible_lines
from grainstack.words import Request, word

if TYPE_CHECKING:
    from grainstack.making.make import Made, Read
    from grainstack.plan.file.saving import Extended
    from grainstack.records.opened import Opened

_WIDEST = 120  # columns: a longer line is hard to follow with the eye
_USUAL = (80, 24)  # of a terminal whose size is not known


class PictureOutput(Request, frozen=True):
    """Where a picture goes."""

    out: tuple[str, ...] = word(
        (),
        f"Write a picture; its ending picks the format: {', '.join(CHART_ENDINGS)}. Repeatable.",
        group="Output",
        metavar="FILE",
    )


class TableOutput(Request, frozen=True):
    """Where a table goes."""

    out: tuple[str, ...] = word(
        (),
        f"Write a file; its ending picks the format: {', '.join(TABLE_ENDINGS)}. Repeatable.",
        group="Output",
        metavar="FILE",
    )


class SavePlanRequest(Request, frozen=True):
    """A plan to which what was asked for is added."""

    save_plan: str | None = word(
        None, "Add this to a plan, to be made again with build.", group="Output", metavar="FILE.toml"
    )
    name: str | None = word(
        None, "Its name in the plan; derived if not given.", group="Output", metavar="NAME", needs=("save_plan",)
    )


def models_of(kind: Kind) -> tuple[type[Request], ...]:
    """What a kind's command can be asked for: what the kind can, where it goes, and what is said."""
    output = PictureOutput if kind.product is Product.CHART else TableOutput
    return (*kind.models, output, CopyRequest, SavePlanRequest, MessagesRequest, EngineRequest)


def run_kind(kind: Kind, typed: Requests) -> None:
    """Makes a table or chart and writes it, or shows it where no file is named."""
    from grainstack.summary.options import LanguageRequest  # noqa: PLC0415 - loaded by the kind

    with speaking(typed[LanguageRequest].language):
        _run(kind, typed)


def _run(kind: Kind, typed: Requests) -> None:
    from grainstack.output import check_targets  # noqa: PLC0415 - a help page needs none of this
    from grainstack.records.opened import inputs_of, open_records  # noqa: PLC0415
    from grainstack.records.request import RecordsRequest  # noqa: PLC0415

    requests = Requests(*(typed[model] for model in kind.models))
    chart = kind.product is Product.CHART
    targets = [Path(name) for name in (typed[PictureOutput] if chart else typed[TableOutput]).out]
    check_targets(targets, inputs_of(requests[RecordsRequest]), CHART_ENDINGS if chart else TABLE_ENDINGS)
    requests.check_formats([target.suffix.lower().lstrip(".") for target in targets])
    if chart and targets:
        _check_pixels(requests, targets)
    style = None
    if chart:
        from grainstack.making.house_style import styled  # noqa: PLC0415 - charts only

        requests, style = styled(requests)
    form = typed[CopyRequest].form_for(kind.product)
    clipboard = check_clipboard(form) if form else []
    plan = _planned(kind, typed, targets) if typed[SavePlanRequest].save_plan else None
    opened = open_records(requests[RecordsRequest])
    check_explain(typed[EngineRequest], opened)
    made = _made(kind, requests, opened, reading_on(typed[EngineRequest], Progress()))
    if targets:
        made = _traced(made, typed, inputs_of(requests[RecordsRequest]), opened.source.name)
    of_drawing = _write(made, targets) if targets else () if form else _show(made)
    if form:
        copy(made, form, clipboard)
    if chart:
        _say_order(made, targets)
    if opened.beside:
        say(f"Using the codebook {opened.beside}.")
    if style:
        say(f"Using the style {style}.")
    say_sent(typed[EngineRequest], opened)
    _speak(made, of_drawing, typed[MessagesRequest])
    if plan:
        again = f"Make it again: grainstack build {plan.path} {option('only', plan.name)}"
        write_drafted(plan.path, plan.text, "plan", f"Added {plan.name} to {plan.path}. {again}")


def _traced(made: "Made", typed: Requests, inputs: Sequence[Path], source: str) -> "Made":
    """What was made with where it comes from, which its files carry."""
    from msgspec.structs import replace

    from grainstack.making.trace import trace_of_command  # noqa: PLC0415

    asked = Requests(*(typed[model] for model in made.kind.models))
    return replace(made, trace=trace_of_command(made.kind.name, asked, inputs, source))


def _planned(kind: Kind, typed: Requests, targets: Sequence[Path]) -> "Extended":
    """The plan with what was asked for, checked before anything is made."""
    from grainstack.output import check_targets  # noqa: PLC0415 - loaded by then
    from grainstack.plan.file.saving import NewEntry, extended  # noqa: PLC0415 - few runs are kept

    asked = typed[SavePlanRequest]
    path = Path(asked.save_plan or "")
    check_targets([path], targets, (".toml",))
    formats = tuple(dict.fromkeys(target.suffix.lower().lstrip(".") for target in targets))
    return extended(path, NewEntry(kind, Requests(*(typed[model] for model in kind.models)), formats, asked.name))


def _made(kind: Kind, requests: Requests, opened: "Opened", read: "Read") -> "Made":
    if kind.product is Product.CHART:
        from grainstack.making.make import make  # noqa: PLC0415 - a help page needs none of this

        return make(kind, requests, opened, read)
    from grainstack.making.blocks import make_blocks  # noqa: PLC0415 - charts need none of it

    return make_blocks(kind, requests, opened, read)


def reading_on(asked: EngineRequest, progress: Progress) -> "Read":
    """What reads the records: this machine, or a cluster where that was asked for."""
    if asked.engine == "here" or asked.scheduler is None:
        return progress.read
    from grainstack.making.cluster import read_on_cluster  # noqa: PLC0415 - few have a cluster

    return partial(read_on_cluster, scheduler=asked.scheduler, progress=progress.parts)


def check_explain(asked: EngineRequest, opened: "Opened") -> None:
    """Refuses to show queries where none are sent.

    Raises:
        IdleError: The records are in no database.
    """
    from grainstack.records.source import Queried  # noqa: PLC0415 - a help page needs none of this

    if asked.explain and not isinstance(opened.source, Queried):
        raise IdleError(
            f"{option('explain')} makes no difference: {opened.source.name} is no database.", "Leave it out."
        )


def write_drafted(target: Path, text: str, file: str, told: str) -> None:
    """Writes a drafted file, before it the schema beside it if the file names it, and says so.

    Args:
        target: The file.
        text: Its content.
        file: What it is, one of `FILES` of the schemas.
        told: What is said of it.

    Raises:
        OutputError: One of them cannot be written; then the file is not there either.
    """
    from grainstack.output import write_whole  # noqa: PLC0415 - few runs draft a file
    from grainstack.plan.file.schema import line_for, write_beside  # noqa: PLC0415

    schema = write_beside(target, file) if text.startswith(line_for(file)) else None
    write_whole(target, text.encode())
    say(told)
    if schema:
        say(f"Wrote {schema}, by which editors complete and check {target.name}.")


def say_sent(asked: EngineRequest, opened: "Opened") -> None:
    """Prints the queries that were sent to a database, where that was asked for."""
    from grainstack.records.source import Queried  # noqa: PLC0415 - a help page needs none of this

    if asked.explain and isinstance(opened.source, Queried):
        for sql in opened.source.sent:
            say(f"Sent: {sql}")


def _check_pixels(requests: Requests, targets: Sequence[Path]) -> None:
    """Refuses a number of pixels where no target is made of them, and the size is not given in them."""
    from grainstack.chart.picture_request import PictureRequest  # noqa: PLC0415 - loaded by the kind

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
    from grainstack.output import write_all  # noqa: PLC0415 - a help page needs none of this
    from grainstack.report.outputs import outputs_of  # noqa: PLC0415

    outputs = outputs_of(made, [target.suffix.lower() for target in targets])
    write_all(targets, outputs.contents)
    for target in targets:
        say(f"Wrote {target}.")
    return outputs.advice


def _show(made: "Made") -> Sequence[Advice]:
    """Shows it in the terminal, or to whatever reads what the command prints; advice is on its figures alone."""
    if made.kind.product is Product.CHART:
        from grainstack.paint.terminal import paint  # noqa: PLC0415 - pictures need none of it

        columns, colors = terminal_width()
        show(paint(made.rows(columns), colors=colors))
        return ()
    from grainstack.report.formats import table_text  # noqa: PLC0415 - files need none of it

    width = shutil.get_terminal_size(_USUAL).columns if sys.stdout.isatty() else None
    table, gap, notes = table_text(made, width).partition("\n\n")
    show(visible_lines(table + gap + wrapped(worded(notes, TYPED), sys.stdout)))
    return ()


def _say_order(made: "Made", targets: Sequence[Path]) -> None:
    """Says in which order levels stand, and by which rule, when a picture was written that does not say it."""
    from grainstack.summary.order import OrderRequest  # noqa: PLC0415 - loaded by the kind

    if OrderRequest not in made.kind.models:
        return
    shown = [one for one in made.table.dimensions if len(one.all_levels) > 1]
    if shown and targets:
        say(phrase("Order: {orders}.", orders="; ".join(f"{one.variable.label} {one.ordered_by}" for one in shown)))
