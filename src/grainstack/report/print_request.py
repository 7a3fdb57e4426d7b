"""How a table that was made is printed."""

from collections.abc import Callable

from msgspec.structs import replace

from grainstack.making.kinds.table import TableRequest
from grainstack.making.make import Made
from grainstack.report.banner import printed_banner
from grainstack.report.printed import as_markdown, as_text, notes_of, printed, text_width
from grainstack.report.printing import Printed, PrintRequest
from grainstack.summary.figures.small import SMALL_BASE
from grainstack.summary.options import RoundingRequest
from grainstack.summary.summary_request import SummaryRequest


def table_printed(made: Made, columns: int | None = None) -> list[Printed]:
    """A table as text in cells.

    Args:
        made: The table.
        columns: The width there is, in characters; None where there is no end of it.
    """
    request = print_request(made, columns)
    if made.banner:
        every = (table for tables in made.banner for table in tables)
        quiet = [replace(one, provenance=replace(one.provenance, intervals=())) for one in every]  # none are shown
        return _banner_printed(made, notes_of(quiet, request), columns)
    return printed(made.table, request, made.blocks)


def _banner_printed(made: Made, notes: tuple[str, ...], columns: int | None) -> list[Printed]:
    """A banner table as text; where it is wider than the room there is, its headings one under the other."""
    whole = printed_banner(made.banner, notes)
    if columns is None or text_width(whole) <= columns:
        return [whole]
    parts: list[list[int]] = [[]]
    for number in range(len(made.banner[0])):
        if parts[-1] and text_width(printed_banner(made.banner, (), [*parts[-1], number])) > columns:
            parts.append([])
        parts[-1].append(number)
    last = len(parts) - 1
    return [printed_banner(made.banner, notes if at == last else (), part) for at, part in enumerate(parts)]


def behind_printed(made: Made) -> list[Printed]:
    """What a chart shows besides the figures of its table, as text in cells: quartiles, or bands."""
    rows = made.behind()
    if not rows:
        return []
    names = tuple(rows[0])
    cells = tuple(tuple(row[name][1] for name in names) for row in rows)
    right = tuple(all(not isinstance(row[name][0], str) for row in rows) for name in names)
    return [Printed(names, cells, right)]


def print_request(made: Made, columns: int | None = None) -> PrintRequest:
    """How a table is printed, from what it was asked for."""
    summary = made.requests[SummaryRequest]
    return PrintRequest(
        limits=summary.spread.error_bars not in (None, "none"),
        design_figures=made.requests.usual(TableRequest).design_figures,
        in_cell=made.requests.usual(TableRequest).in_cell,
        columns=columns,
        add_up=made.requests.usual(RoundingRequest).add_up,
        least=summary.small.min_base or SMALL_BASE,
    )


def table_text(made: Made, columns: int | None = None, note_form: Callable[[str], str] = str) -> str:
    """A table for a terminal, or whatever has so many columns of characters; see `as_text`."""
    return as_text(table_printed(made, columns), note_form)


def markdown_of(made: Made) -> bytes:
    """A table as Markdown."""
    return as_markdown(table_printed(made))
