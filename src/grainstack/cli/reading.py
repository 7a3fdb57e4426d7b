"""From a typed request to its table: the one way every command takes."""

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from grainstack.cli.failing import say
from grainstack.errors import RequestError, listed
from grainstack.records.request import RecordsRequest
from grainstack.report.request import MessagesRequest
from grainstack.summary.order import OrderRequest
from grainstack.summary.request import SummaryRequest
from grainstack.words import names_in

if TYPE_CHECKING:
    from grainstack.records.codebook import Codebook
    from grainstack.records.scan import Scan
    from grainstack.records.sources import Source
    from grainstack.report.advice import Advice
    from grainstack.summary.finish import SeveralRowsError
    from grainstack.summary.table import SummaryTable


def opened(records: RecordsRequest, *, quiet: bool = False) -> "tuple[Source, Codebook]":
    """The source of a request and the codebook that goes with it; says when one was found beside the records."""
    from grainstack.records.codebook import Codebook  # noqa: PLC0415 - a help page needs no Arrow
    from grainstack.records.sources import open_source  # noqa: PLC0415

    path = Path(records.codebook) if records.codebook else _codebook_beside(records)
    codebook = Codebook()
    if path is not None:
        from grainstack.records.codebook_file import read_codebook  # noqa: PLC0415

        codebook = read_codebook(path)
        if not records.codebook and not quiet:
            say(f"Using the codebook {path}.")
    return open_source(records.file, sheet=records.sheet, query=records.query), codebook


def table_for(records: RecordsRequest, summary: SummaryRequest, order: OrderRequest) -> "SummaryTable":
    """Reads the records once and sums them up; says what had to be assumed on the way."""
    from grainstack.records.scan import Scan  # noqa: PLC0415 - a help page needs no Arrow
    from grainstack.summary.accumulator import Accumulator, needs_of  # noqa: PLC0415
    from grainstack.summary.finish import SeveralRowsError, table_of  # noqa: PLC0415
    from grainstack.summary.provenance import Origin  # noqa: PLC0415

    source, codebook = opened(records)
    summary = with_design(summary, codebook, source.columns)
    scan = Scan(records, needs_of(summary), source, codebook)
    accumulator = Accumulator(summary)
    for batch in scan:
        accumulator.absorb(batch)
    for note in scan.notes:
        say(note)
    account = scan.account
    meaning = scan.found()
    origin = Origin(
        scan.source_name, account.read, account.filtered, scan.filters_in_words, codebook.noun(scan.source_name)
    )
    try:
        return table_of(accumulator.finish(), meaning, order, origin)
    except SeveralRowsError as error:
        raise _told_apart(error, scan) from None


def say_order(table: "SummaryTable", targets: Sequence[Path]) -> None:
    """Says in which order levels stand, and by which rule, when a picture was written that does not say it."""
    said = [f"{one.variable.label} {one.ordered_by}" for one in table.dimensions if len(one.all_levels) > 1]
    if said and targets:
        say(f"Order: {'; '.join(said)}.")


def _told_apart(error: "SeveralRowsError", scan: "Scan") -> RequestError:
    """The error that several rows stand for one bar, with the columns in which those rows differ."""
    differing = scan.differing(error.cell)
    said = f" They differ in {listed(differing)}: choose one level with --only, or split by it." if differing else ""
    return RequestError(error.message, error.remedy + said)


def advise(
    table: "SummaryTable", records: RecordsRequest, messages: MessagesRequest, also: "Sequence[Advice]" = ()
) -> None:
    """Says what an analyst should know before using a table or chart.

    Args:
        table: The figures.
        records: Where they come from.
        messages: What is not to be said, and whether records are accounted for.
        also: Advice on a chart.
    """
    from grainstack.report.advice import adds_up_measures, advice_on, needs_number_columns  # noqa: PLC0415

    numbers: list[str] = []
    if needs_number_columns(table):
        from grainstack.records.sample import number_columns  # noqa: PLC0415

        source, _ = opened(replace(records, codebook=None), quiet=True)
        numbers = number_columns(source, [dimension.variable.name for dimension in table.dimensions])
    years: dict[str, list[str]] = {}
    if adds_up_measures(table):
        from grainstack.records.sample import year_columns  # noqa: PLC0415

        source, _ = opened(replace(records, codebook=None), quiet=True)
        chosen = [text.partition("=")[0] for text in (*records.only, *records.except_)]
        used = [dimension.variable.name for dimension in table.dimensions]
        years = year_columns(source, [*used, *chosen]) if not records.where and not records.to_long else {}
    for advice in [*advice_on(table, numbers, years), *also]:
        if advice.name not in messages.no_advice:
            say(str(advice))
    if messages.account:
        say(table.provenance.account() + ".")


def with_design(summary: SummaryRequest, codebook: "Codebook", columns: Sequence[str]) -> SummaryRequest:
    """The request with the codebook's design where it names none of its own.

    A codebook may cover several files; a part of the design counts in those that have its column.

    Raises:
        RequestError: No column matches the replicate weights.
    """
    asked, said = summary.design, codebook.design
    names: dict[str, Any] = {}
    if not asked.is_complex and not asked.no_design and not summary.value and not summary.times:
        parts = ("weight", "strata", "cluster", "population")
        names = {part: name for part in parts if (name := getattr(said, part)) in columns}
        if said.replicates and _matching(said.replicates, columns):
            names = {"weight": names.get("weight"), "replicates": said.replicates}
            names["replicate_scale"] = asked.replicate_scale or said.replicate_scale
    replicates = names.get("replicates", asked.replicates)
    if replicates:
        found = _matching(replicates, columns)
        if not found:
            raise RequestError(
                f"No column matches --replicates {replicates}.", "Name columns, or a pattern such as rep_*."
            )
        names["replicates"] = ",".join(found)
    return replace(summary, design=replace(asked, **names)) if names else summary


def _matching(patterns: str, columns: Sequence[str]) -> list[str]:
    from fnmatch import fnmatchcase  # noqa: PLC0415 - few surveys have replicate weights

    wanted = names_in(patterns)
    return [name for name in columns if any(fnmatchcase(name, pattern) for pattern in wanted)]


def inputs_of(records: RecordsRequest) -> list[Path]:
    """The files a command reads, which it must not write."""
    from grainstack.records.sources.choosing import input_files  # noqa: PLC0415

    files = input_files(records.file)
    beside = Path(records.codebook) if records.codebook else _codebook_beside(records)
    return [*files, *([beside] if beside else [])]


def _codebook_beside(records: RecordsRequest) -> Path | None:
    """A codebook in the folder of the first file."""
    first = records.file[0] if records.file else "-"
    if first == "-" or "://" in first:
        return None
    path = Path(first.partition("#")[0]).parent / "codebook.toml"
    return path if path.is_file() else None
