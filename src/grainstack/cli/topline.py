"""`grainstack topline`: every question of some records in one document."""

from pathlib import Path
from typing import TYPE_CHECKING, Any

from grainstack.cli.build import known_formats
from grainstack.cli.command_requests import ToplineRequest
from grainstack.cli.drafted import write_drafted
from grainstack.cli.failing import say
from grainstack.cli.kinds import reading_on
from grainstack.cli.progress import Progress
from grainstack.endings import TOPLINE_FORMATS
from grainstack.errors import IdleError, RequestError, nearest
from grainstack.language import phrase, speaking
from grainstack.making.engine import EngineRequest
from grainstack.option_names import option, worded
from grainstack.plan.building.alone import report_alone
from grainstack.plan.file.naming import PLANNED
from grainstack.plan.file.reading import plan_from
from grainstack.plan.file.saving import path_in_plan, words_of_records
from grainstack.plan.topline.drafting import Topline, left_out_text, plan_text
from grainstack.plan.topline.questions import chosen, questions_of
from grainstack.records.opened import inputs_of, open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.records.sample import columns_of_values
from grainstack.report.documents.writing import report_in
from grainstack.requests import Requests
from grainstack.summary.options import LanguageRequest
from grainstack.summary.profile import profile_with, profiled
from grainstack.whole_files import check_targets, write_all

if TYPE_CHECKING:
    from collections.abc import Sequence

    from grainstack.plan.building.alone import Alone
    from grainstack.records.opened import Opened
    from grainstack.summary.profile import Looked

_USUAL = "topline.html"


def run(requests: Requests) -> None:
    """Every question of the records, in the order of the codebook, in the chart and the tables that suit it."""
    request, records = requests[ToplineRequest], requests[RecordsRequest]
    if records.items or records.to_long:
        named = "items" if records.items else "to_long"
        raise IdleError(f"{option(named)}: a topline puts questions of one scale together itself.", "Leave it out.")
    targets = [Path(name) for name in request.out] or ([] if request.save_plan else [Path(_USUAL)])
    inputs = [*inputs_of(records), *([Path(request.template)] if request.template else [])]
    check_targets(targets, inputs, [f".{one}" for one in TOPLINE_FORMATS])
    plan_path = Path(request.save_plan) if request.save_plan else None
    if plan_path is not None:
        check_targets([plan_path], inputs, [".toml"])
        if plan_path.exists():
            raise RequestError(f"{plan_path} exists; a plan is never written over.", "Name another file.")
    opened = open_records(records)
    if opened.beside:
        say(phrase("Using the codebook {file}.", file=opened.beside))
    folder = plan_path.parent if plan_path else Path()
    formats = [target.suffix.lower().lstrip(".") for target in targets]
    with speaking(requests[LanguageRequest].language):
        text, left_out = _drafted(requests, opened, formats or ["html"], folder)
    plan = plan_from(text, folder / (plan_path.name if plan_path else "topline.toml"), known_formats())
    plan.check()
    if left_out:
        say(left_out)
    if targets:
        done = report_alone(plan, reading_on(requests[EngineRequest], Progress()), report_in)
        of_format = dict(zip(plan.report.formats if plan.report else (), done.outputs.contents, strict=True))
        write_all(targets, [of_format[form] for form in formats])
        _tell(done, targets)
    if plan_path is not None:
        write_drafted(plan_path, text, "plan", f"Wrote {plan_path}; build it: grainstack build {plan_path}.")


def _drafted(requests: Requests, opened: "Opened", formats: "Sequence[str]", folder: Path) -> tuple[str, str]:
    """The plan of the topline, and what is no question, in a sentence.

    Args:
        requests: What was asked.
        opened: The records.
        formats: The formats of the report.
        folder: The folder of the plan.

    Raises:
        RequestError: A column there is not, or no question is left.
    """
    request, codebook = requests[ToplineRequest], opened.codebook
    looked = _looked(opened)
    profiles = {one.name: one for one in looked.profiles}
    known = [*profiles, *(name for name, one in codebook.variables.items() if one.columns)]
    for names, there in ((request.split, list(profiles)), ((*request.question, *request.leave_out), known)):
        for name in names:
            if name not in there:
                raise RequestError(f"{opened.source.name} has no column `{name}`.", nearest(name, there))
    questions, left_out = questions_of(looked.profiles, codebook, looked.records)
    wanted = chosen(questions, request.question, request.leave_out)
    if not wanted:
        raise RequestError(f"No question of {opened.source.name} is left.", "Leave fewer out.")
    splits = {name: len(profile_with(profiles[name], codebook.variable(name)).levels) for name in request.split}
    more: dict[str, Any] = {"template": path_in_plan(folder, request.template)} if request.template else {}
    if requests[LanguageRequest].language:
        more["language"] = requests[LanguageRequest].language
    topline = Topline(
        records=words_of_records(requests[RecordsRequest], folder),
        questions=wanted,
        splits=splits,
        title=request.title or phrase("Topline of {file}", file=opened.source.name),
        formats=list(dict.fromkeys(formats)),
        noun=opened.noun,
        left_out=[] if request.question else left_out,
        sampled=not opened.is_complete,
        report=more,
    )
    return plan_text(topline), left_out_text(left_out) if left_out and not request.question else ""


def _looked(opened: "Opened") -> "Looked":
    """What is in every column."""
    source = opened.source
    decimal = opened.codebook.decimal_in(source.decimal)
    columns, left_aside = columns_of_values(source)
    for sentence in left_aside:
        say(sentence)
    looked = profiled(columns, source.batches(columns), decimal=decimal)
    if not looked.records:
        raise RequestError(f"{source.name} has no records.", "Name another file.")
    return looked


def _tell(done: "Alone", targets: "Sequence[Path]") -> None:
    """Says what was written, and what could not be."""
    for fault in done.left_out:
        say(f"Left out: {fault}")
    for target in targets:
        say(phrase("Wrote {file}.", file=target))
    for one in done.outputs.advice:
        say(worded(str(one), PLANNED))
