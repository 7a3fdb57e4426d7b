"""From a typed request to its table: the one way every command takes."""

from pathlib import Path

from grainstack.cli.failing import say
from grainstack.records.request import RecordsRequest
from grainstack.summary.order import OrderRequest
from grainstack.summary.request import SummaryRequest
from grainstack.summary.table import SummaryTable


def table_for(records: RecordsRequest, summary: SummaryRequest, order: OrderRequest) -> SummaryTable:
    """Reads the records once and sums them up; says what had to be assumed on the way."""
    from grainstack.records.scan import Scan  # noqa: PLC0415 - a help page needs no Arrow
    from grainstack.summary.accumulator import Accumulator, needs_of  # noqa: PLC0415
    from grainstack.summary.finish import table_of  # noqa: PLC0415
    from grainstack.summary.provenance import Origin  # noqa: PLC0415

    scan = Scan(records, needs_of(summary))
    accumulator = Accumulator(summary)
    for batch in scan:
        accumulator.absorb(batch)
    for note in scan.notes:
        say(note)
    origin = Origin(scan.source_name, scan.account.read, scan.account.filtered, records.filters_in_words())
    return table_of(accumulator.finish(), scan.found(), order, origin)


def inputs_of(records: RecordsRequest) -> list[Path]:
    """The files a command reads, which it must not write."""
    return [] if records.file == "-" else [Path(records.file)]
