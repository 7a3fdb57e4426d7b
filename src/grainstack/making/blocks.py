"""Tables side by side: the same categories by several splits, or as shares of several bases, from one pass."""

from dataclasses import replace

from grainstack.errors import IdleError, RequestError
from grainstack.making.kind import Kind
from grainstack.making.kinds.table import TableRequest
from grainstack.making.make import Made, Read, begun, finished, make, read_into
from grainstack.records.opened import Opened
from grainstack.requests import Requests
from grainstack.speech import option
from grainstack.summary.request import SummaryRequest
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
    summary = requests[SummaryRequest]
    blocks = requests[TableRequest].blocks(summary)
    if len(blocks) < 2:
        return make(kind, requests, opened, read)
    _check_blocks(summary, blocks)
    each = [begun(kind, requests.having(replace(summary, split=split, base=base)), opened) for split, base in blocks]
    (read or read_into)([one.partial for one in each], opened)
    first, *others = (finished(one, opened) for one in each)
    notes = tuple(dict.fromkeys(note for made in (first, *others) for note in made.notes))
    advice = tuple(dict.fromkeys(one for made in (first, *others) for one in made.advice))
    every = zip((first, *others), blocks, strict=True)
    titled = tuple((_title(made.table, base, blocks), made.table) for made, (_, base) in every)
    return replace(first, notes=notes, advice=advice, blocks=titled)


def _check_blocks(summary: SummaryRequest, blocks: list[tuple[str | None, str | None]]) -> None:
    twice = next((block for block in blocks if blocks.count(block) > 1), None)
    if twice:
        raise RequestError(f"`{' '.join(name for name in twice if name)}` is asked for twice.", "Name it once.")
    given = [name for name in summary.spread.given() if name == "error_bars" and summary.spread.error_bars != "none"]
    if given:
        raise IdleError(
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
            "series": table.series.variable.in_sentence if table.series else "series",
            "panel": table.panel.variable.in_sentence if table.panel else "",
        }.get(base or "", "")
        parts.append(f"% of each {named}" if named else "% of all")
    return ", ".join(parts)
