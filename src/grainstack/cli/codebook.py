"""`grainstack codebook`: drafts a codebook, checks one against the records, or writes it in another form."""

from math import inf
from pathlib import Path
from typing import TYPE_CHECKING

import typer
from msgspec.structs import replace

from grainstack.cli.failing import show
from grainstack.errors import RequestError, listed
from grainstack.records.request import RecordsRequest, large_files, records_of
from grainstack.requests import Requests
from grainstack.words import Request, word

if TYPE_CHECKING:
    from grainstack.records.codebook.codebook import Codebook
    from grainstack.records.codebook.draft import Finding
    from grainstack.records.sources import Source

ENDINGS = (".toml", ".json")


class CodebookRequest(Request, frozen=True):
    """What is done with a codebook."""

    file: tuple[str, ...] = ()
    codebook: str | None = word(None, "Check this codebook against the records.", group="Codebook", metavar="FILE")
    sheet: str | None = word(None, "The sheet of a spreadsheet file.", group="Codebook", metavar="NAME")
    header_row: int | None = word(
        None, "The row of a spreadsheet that names the columns.", group="Codebook", metavar="N", within=(1, inf)
    )
    query: str | None = word(None, "Rows of a database.", group="Codebook", metavar="SQL")
    allow_large: bool = large_files("Codebook")
    out: str | None = word(
        None,
        "Write it: .toml, or .json for a Table Schema. A file that exists is kept.",
        group="Output",
        metavar="FILE",
    )


MODELS = (CodebookRequest,)


def run(requests: Requests) -> None:
    """Drafts a codebook, or checks one."""
    from grainstack.cli.kinds import write_drafted  # noqa: PLC0415 - a help page needs none of this
    from grainstack.output import check_targets  # noqa: PLC0415
    from grainstack.plan.file.schema import line_for  # noqa: PLC0415
    from grainstack.records.codebook.draft import as_toml, drafted  # noqa: PLC0415
    from grainstack.records.codebook.file import read_codebook  # noqa: PLC0415
    from grainstack.records.codebook.table_schema import schema_from_codebook  # noqa: PLC0415
    from grainstack.records.opened import inputs_of, source_of  # noqa: PLC0415

    request: CodebookRequest = requests[CodebookRequest]
    target = Path(request.out) if request.out else None
    if target is not None:
        check_targets([target], inputs_of(RecordsRequest(file=request.file)), ENDINGS)
        if target.exists():
            raise RequestError(f"{target} exists; a codebook is never overwritten.", "Write to another name.")
    codebook = read_codebook(Path(request.codebook)) if request.codebook else None
    source = source_of(records_of(request))
    decimal = source.decimal if codebook is None else codebook.decimal_in(source.decimal)
    records, findings = _looked(source, decimal)
    fits = codebook is None or _checked(codebook, source, findings, decimal)
    about = f"Drafted from {source.name} ({records:,} records).\nChange what is wrong, delete what you do not need."
    written = codebook or drafted(findings, decimal)
    toml = as_toml(written, () if codebook else findings, "" if codebook else about)
    if target is not None:
        is_json = target.suffix.lower() == ".json"
        text = schema_from_codebook(written) if is_json else line_for("codebook").encode() + toml
        write_drafted(target, text.decode(), "codebook", f"Wrote {target}.")
    elif codebook is None:
        show(toml.decode())
    if not fits:
        raise typer.Exit(1)


def _checked(codebook: "Codebook", source: "Source", findings: "list[Finding]", decimal: str) -> bool:
    """Shows what of a codebook does not fit the records; tells whether everything does."""
    from grainstack.records.codebook.check import check_codebook, elsewhere  # noqa: PLC0415
    from grainstack.records.codebook.codebook import Design  # noqa: PLC0415

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
    from grainstack.records.codebook.draft import Finding  # noqa: PLC0415
    from grainstack.summary.profile import profiled  # noqa: PLC0415

    looked = profiled(source.columns, source.batches(source.columns), decimal=decimal)
    findings = [Finding(one.name, one.kind, dict(one.levels), one.no_answer) for one in looked.profiles]
    return looked.records, findings
