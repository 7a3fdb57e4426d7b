"""The formats of tables: one writer each, found by the ending of a file."""

from typing import TYPE_CHECKING

from grainstack.errors import RequestError
from grainstack.speech import option

if TYPE_CHECKING:
    from collections.abc import Callable

    from grainstack.making.kinds.table import TableRequest
    from grainstack.making.make import Made
    from grainstack.report.printing import Printed, PrintRequest


def _csv(made: "Made") -> bytes:
    from grainstack.report.cells import as_csv  # noqa: PLC0415 - formats load when asked for

    _check_differences(made, ".csv")
    if _table_request(made).wide:
        from grainstack.report.wide import as_wide_csv  # noqa: PLC0415 - formats load when asked for

        return as_wide_csv(made.blocks or (("", made.table),), plain=_table_request(made).plain_csv)
    figures, plain = print_request(made).design_figures, _table_request(made).plain_csv
    return as_csv(made.table, design_figures=figures, blocks=made.blocks, plain=plain)


def _check_differences(made: "Made", ending: str) -> None:
    """Refuses a format of figures for a table of differences.

    Raises:
        RequestError: They would be lost.
    """
    if made.table.comparison is not None and not any(column.letters for column in made.table.columns):
        raise RequestError(
            f"A {ending} has a row for each figure and none for differences.",
            f"Write .json or .md, or give figures their letters with {option('letters')}.",
        )


def _parquet(made: "Made") -> bytes:
    from grainstack.report.cells import as_parquet  # noqa: PLC0415 - formats load when asked for

    _check_differences(made, ".parquet")
    trace = str(made.trace) if made.trace else ""
    return as_parquet(made.table, design_figures=print_request(made).design_figures, blocks=made.blocks, trace=trace)


def _page(made: "Made") -> bytes:
    from grainstack.report.documents.page import table_page  # noqa: PLC0415 - formats load when asked for

    return table_page(made)


def _json(made: "Made") -> bytes:
    from grainstack.report.cells import as_json  # noqa: PLC0415 - formats load when asked for

    return as_json(made.table, design_figures=print_request(made).design_figures, blocks=made.blocks)


def _markdown(made: "Made") -> bytes:
    from grainstack.report.printed import as_markdown  # noqa: PLC0415 - formats load when asked for

    return as_markdown(table_printed(made))


def table_printed(made: "Made", columns: int | None = None) -> "list[Printed]":
    """A table as text in cells.

    Args:
        made: The table.
        columns: The width there is, in characters; None where there is no end of it.
    """
    from grainstack.report.printed import printed  # noqa: PLC0415 - formats load when asked for

    return printed(made.table, print_request(made, columns), made.blocks)


def _workbook(made: "Made") -> bytes:
    from grainstack.report.workbook import as_workbook  # noqa: PLC0415 - formats load when asked for

    trace = str(made.trace) if made.trace else ""
    return as_workbook(made.blocks or (("", made.table),), table_printed(made), print_request(made), trace)


_WRITERS: "dict[str, Callable[[Made], bytes]]" = {
    ".csv": _csv,
    ".json": _json,
    ".md": _markdown,
    ".xlsx": _workbook,
    ".parquet": _parquet,
    ".html": _page,
}
TABLE_ENDINGS = tuple(_WRITERS)


def table_as(ending: str, made: "Made") -> bytes:
    """A table in the format of a file ending, one of `TABLE_ENDINGS`."""
    return _WRITERS[ending](made)


def table_text(made: "Made", columns: int | None = None) -> str:
    """A table for a terminal, or whatever has so many columns of characters."""
    from grainstack.report.printed import as_text  # noqa: PLC0415 - files need none of it

    return as_text(table_printed(made, columns))


def _table_request(made: "Made") -> "TableRequest":
    from grainstack.making.kinds.table import TableRequest  # noqa: PLC0415 - known endings alone need none of this

    return made.requests[TableRequest]


def print_request(made: "Made", columns: int | None = None) -> "PrintRequest":
    """How a table is printed, from what it was asked for."""
    from grainstack.report.printing import PrintRequest  # noqa: PLC0415 - known endings alone need none of this
    from grainstack.summary.figures.small import SMALL_BASE  # noqa: PLC0415
    from grainstack.summary.options import RoundingRequest  # noqa: PLC0415
    from grainstack.summary.request import SummaryRequest  # noqa: PLC0415

    summary = made.requests[SummaryRequest]
    return PrintRequest(
        limits=summary.spread.error_bars not in (None, "none"),
        design_figures=_table_request(made).design_figures,
        in_cell=_table_request(made).in_cell,
        columns=columns,
        add_up=made.requests[RoundingRequest].add_up,
        least=summary.small.min_base or SMALL_BASE,
    )
