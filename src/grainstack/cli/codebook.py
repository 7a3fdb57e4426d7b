"""`grainstack codebook`: drafts a codebook, checks one against the records, or writes it in another form."""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

import typer
from msgspec.structs import replace

from grainstack.cli.command_requests import CodebookRequest
from grainstack.cli.deciding import Deciding
from grainstack.cli.drafted import write_drafted
from grainstack.cli.failing import say, show
from grainstack.endings import CODEBOOK_ENDINGS, DESCRIPTION_ENDINGS, METADATA_ENDING, SURVEY_ENDINGS
from grainstack.errors import RequestError, listed
from grainstack.plan.file.schema import line_for
from grainstack.records.codebook.check import check_codebook, elsewhere
from grainstack.records.codebook.codebook import Design
from grainstack.records.codebook.descriptions import description_of
from grainstack.records.codebook.draft import Finding, as_toml, drafted
from grainstack.records.codebook.file import read_codebook
from grainstack.records.codebook.questions import asked
from grainstack.records.opened import inputs_of, source_of
from grainstack.records.records_request import RecordsRequest, records_of
from grainstack.records.sample import columns_of_values
from grainstack.records.source import Measured
from grainstack.requests import Requests
from grainstack.summary.profile import profiled
from grainstack.whole_files import check_targets

if TYPE_CHECKING:
    from grainstack.records.codebook.codebook import Codebook
    from grainstack.records.sources import Source


def run(requests: Requests) -> None:
    """Drafts a codebook, or checks one."""
    request: CodebookRequest = requests[CodebookRequest]
    target = Path(request.out) if request.out else None
    if target is not None:
        check_targets([target], inputs_of(RecordsRequest(file=request.file)), CODEBOOK_ENDINGS)
        if target.exists():
            raise RequestError(f"{target} exists; a codebook is never overwritten.", "Write to another name.")
    if len(request.file) == 1 and request.file[0].lower().endswith((".toml", *SURVEY_ENDINGS, METADATA_ENDING)):
        _convert(Path(request.file[0]), target)
        return
    codebook = read_codebook(Path(request.codebook)) if request.codebook else None
    source = source_of(records_of(request))
    decimal = source.decimal if codebook is None else codebook.decimal_in(source.decimal)
    records, findings = _looked(source, decimal)
    asks = request.ask or request.decisions is not None
    if asks:
        deciding = Deciding(request.decisions, is_read=request.file == ("-",))
        written = asked(drafted(findings, decimal), codebook, findings, decimal, deciding.answer)
        deciding.check()
    else:
        written = codebook or drafted(findings, decimal)
    fits = asks or codebook is None or _checked(codebook, source, findings, decimal)
    is_draft = asks or codebook is None
    written = written.with_units(source.units if isinstance(source, Measured) and is_draft else {})
    about = f"{'Asked of' if asks else 'Drafted from'} {source.name} ({records:,} records).\n"
    about += "Change what is wrong, delete what you do not need."
    toml = as_toml(written, findings if is_draft else (), about if is_draft else "")
    if target is not None:
        _write(target, written, toml, source.name, source.columns)
    elif is_draft:
        show(toml.decode())
    if not fits:
        raise typer.Exit(1)


def _convert(file: Path, target: Path | None) -> None:
    """Writes a codebook, or a description of an open standard, in another form."""
    codebook = read_codebook(file)
    toml = as_toml(codebook)
    if target is None:
        show(toml.decode())
    else:
        _write(target, codebook, toml, file.stem, ())


def _write(target: Path, codebook: "Codebook", toml: bytes, file: str, columns: Sequence[str]) -> None:
    if target.suffix.lower() in DESCRIPTION_ENDINGS:
        text = description_of(codebook, target, file, columns)
    else:
        text = line_for("codebook").encode() + toml
    write_drafted(target, text.decode(), "codebook", f"Wrote {target}.")


def _checked(codebook: "Codebook", source: "Source", findings: "list[Finding]", decimal: str) -> bool:
    """Shows what of a codebook does not fit the records; tells whether everything does."""
    if codebook.is_complete(source.name):
        codebook = replace(codebook, design=Design())  # it is that of other records
    counts = {finding.name: finding.counts for finding in findings}
    wrong = check_codebook(codebook, source.columns, counts, decimal)
    for sentence in wrong:
        show(sentence)
    other = elsewhere(codebook, source.columns)
    if other:
        show(f"Described but not in {source.name}: {listed(other)}.")
    if not wrong:
        show(f"{codebook.name} fits {source.name}.")
    return not wrong


def _looked(source: "Source", decimal: str) -> "tuple[int, list[Finding]]":
    """How many records there are, and what stands in each column of values; says what was found of the file."""
    columns, left_aside = columns_of_values(source)
    for sentence in (*source.notes, *left_aside):
        say(sentence)
    looked = profiled(columns, source.batches(columns), decimal=decimal)
    findings = [Finding(one.name, one.kind, dict(one.levels), one.no_answer) for one in looked.profiles]
    return looked.records, findings
