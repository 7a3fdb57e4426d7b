"""Tables side by side: the same categories by several splits, or as shares of several bases, from one pass."""

from collections.abc import Mapping, Sequence

from msgspec.structs import replace

from grainstack.errors import RequestError
from grainstack.language import phrase
from grainstack.making.kind import Kind, Product
from grainstack.making.kinds.table import TableRequest, is_tested, nets_of
from grainstack.making.make import Begun, Made, Read, begun, finished, read_into
from grainstack.option_names import option
from grainstack.records.opened import Opened
from grainstack.records.readers.shared import SharedReaders
from grainstack.records.records_request import RecordsRequest
from grainstack.records.variable import EVERYTHING, Level
from grainstack.requests import Requests
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.table import SummaryTable


def make_blocks(kind: Kind, requests: Requests, opened: Opened, read: Read | None = None) -> Made:
    """Makes a table with a block for each split and each base it was asked for.

    Args:
        kind: The kind of tables.
        requests: What it is asked for.
        opened: The records.
        read: Has the records read once; see `make`.

    Raises:
        RequestError: A request that cannot be met, or more than side-by-side blocks have room for.
    """
    each = begun_blocks(kind, requests, opened)
    (read or read_into)([one.partial for one in each], opened)
    return finished_blocks(each, requests, opened)


def begun_blocks(kind: Kind, requests: Requests, opened: Opened, shared: SharedReaders | None = None) -> list[Begun]:
    """A table or chart before any record was read; a table with side-by-side blocks is several.

    Args:
        kind: Its kind.
        requests: What it is asked for.
        opened: The records.
        shared: What others that are made of the same records read them with; none if it is not given.

    Raises:
        RequestError: As `make_blocks`.
    """
    summary = requests[SummaryRequest]
    sections = banner_sections(kind, requests)
    records = replace(requests[RecordsRequest], for_several=True)
    if sections:
        shared = shared or SharedReaders()
        return [begun(kind, one.having(records), opened, shared) for section in sections for one in section]
    blocks = _blocks(kind, requests)
    if len(blocks) < 2:
        return [begun(kind, requests, opened, shared)]
    _check_blocks(summary, blocks)
    shared = shared or SharedReaders()
    each = (requests.having(replace(summary, split=split, base=base), records) for split, base in blocks)
    return [begun(kind, one, opened, shared) for one in each]


def finished_blocks(
    each: Sequence[Begun],
    requests: Requests,
    opened: Opened,
    shared: Mapping[str, tuple[Level, ...]] | None = None,
) -> Made:
    """What `begun_blocks` began, once all records were read.

    Args:
        each: What has taken the records in.
        requests: What was asked for.
        opened: The records.
        shared: The levels of columns that other charts show too; see `finished`.

    Raises:
        RequestError: As `make_blocks`.
        ChartError: Figures that cannot be drawn like that.
    """
    first, *others = (finished(one, opened, shared) for one in each)
    sections = banner_sections(each[0].kind, requests)
    if not others and not sections:
        return first
    blocks = _blocks(each[0].kind, requests)
    notes = tuple(dict.fromkeys(note for made in (first, *others) for note in made.notes))
    advice = tuple(dict.fromkeys(one for made in (first, *others) for one in made.advice))
    if sections:
        tables = [made.table for made in (first, *others)]
        wide = len(sections[0])
        banner = tuple(tuple(tables[start : start + wide]) for start in range(0, len(tables), wide))
        return replace(first, notes=notes, advice=advice, banner=banner)
    every = zip((first, *others), blocks, strict=True)
    titled = tuple((_title(made.table, base, blocks), made.table) for made, (_, base) in every)
    return replace(first, notes=notes, advice=advice, blocks=titled)


def banner_sections(kind: Kind, requests: Requests) -> list[list[Requests]]:
    """What a banner table is made of: for each question, and each number, a table for each of its columns.

    Args:
        kind: What is made.
        requests: What it is asked for.
    """
    table = requests.usual(TableRequest) if kind.product is Product.TABLE else TableRequest()
    if not table.banner:
        return []
    summary, stat = requests[SummaryRequest], table.of_measures
    plain = replace(summary, measure=(), net=(), stat=("share",))
    answers = [replace(plain, by=(one,), base="series") for one in table.questions]
    letters = replace(summary.comparison, letters=is_tested(stat))
    of_number = replace(plain, by=(EVERYTHING,), base=None)
    numbers = [replace(of_number, measure=(one,), stat=stat, comparison=letters) for one in table.measures]
    sections = []
    for one in (*answers, *numbers):
        nets = {split: nets_of(table.nets, (*one.by, split)) for split in table.banner}
        sections.append([requests.having(replace(one, split=split, net=net)) for split, net in nets.items()])
    return sections


def _blocks(kind: Kind, requests: Requests) -> list[tuple[str | None, str | None]]:
    """The split and the base of each block; one for a chart."""
    if kind.product is not Product.TABLE:
        return [(None, None)]
    return requests[TableRequest].blocks(requests[SummaryRequest])


def _check_blocks(summary: SummaryRequest, blocks: list[tuple[str | None, str | None]]) -> None:
    twice = next((block for block in blocks if blocks.count(block) > 1), None)
    if twice:
        raise RequestError(f"`{' '.join(name for name in twice if name)}` is asked for twice.", "Name it once.")
    given = [name for name in summary.spread.given() if name == "error_bars" and summary.spread.error_bars != "none"]
    if given:
        raise RequestError(
            f"{option(given[0])}: tables side by side have no room for limits in columns of their own.",
            f"Show them in the cells: {option('in_cell', 'share (limits)')}.",
        )
    if summary.comparison.compare:
        raise RequestError(
            f"{option('compare')} lists the differences of one table.", f"Use {option('letters')}, or a single split."
        )


def _title(table: SummaryTable, base: str | None, blocks: list[tuple[str | None, str | None]]) -> str:
    """What stands over a block: its split, its base, or both."""
    parts = []
    if len({split for split, _ in blocks}) > 1 and table.series is not None:
        parts.append(table.series.variable.label)
    if len({one for _, one in blocks}) > 1:
        named = {
            "category": " × ".join(one.variable.in_sentence for one in table.categories),
            "series": table.series.variable.in_sentence if table.series else phrase("series"),
            "panel": table.panel.variable.in_sentence if table.panel else "",
        }.get(base or "", "")
        parts.append(phrase("% of each {whole}", whole=named) if named else phrase("% of all"))
    return ", ".join(parts)
