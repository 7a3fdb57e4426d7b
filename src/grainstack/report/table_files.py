"""Tables as files of figures: CSV, JSON and Parquet."""

from io import BytesIO
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq

from grainstack.errors import RequestError
from grainstack.making.kinds.table import TableRequest
from grainstack.making.make import Made
from grainstack.making.trace import KEYWORD
from grainstack.option_names import option
from grainstack.report.cells import arrow_table, as_csv, as_json, block_rows
from grainstack.report.wide import as_wide_csv


def figure_rows(made: Made) -> list[dict[str, Any]]:
    """A row for each figure of a table or chart, of those beside it too.

    Args:
        made: The table or chart.
    """
    figures = made.requests.usual(TableRequest).design_figures
    return block_rows(made.blocks or [("", made.table)], design_figures=figures, banner=made.banner)


def figures_as_arrow(made: Made) -> pa.Table:
    """The same as an Arrow table: in its metadata stands how all was worked out, and where it comes from."""
    trace = {KEYWORD.lower(): str(made.trace)} if made.trace else {}
    return arrow_table(figure_rows(made), {"provenance": made.table.provenance.sentence()} | trace)


def csv_of(made: Made) -> bytes:
    """A table as CSV, in one row for each figure or as it is printed.

    Raises:
        RequestError: A table of differences, which would be lost.
    """
    _check_differences(made, ".csv")
    request = made.requests[TableRequest]
    if request.wide:
        return as_wide_csv(made.blocks or (("", made.table),), plain=request.plain_csv)
    return as_csv(figure_rows(made), plain=request.plain_csv)


def parquet_of(made: Made) -> bytes:
    """A table as Parquet; raises as `csv_of`."""
    _check_differences(made, ".parquet")
    target = BytesIO()
    pq.write_table(figures_as_arrow(made), target)
    return target.getvalue()


def json_of(made: Made) -> bytes:
    """A table as JSON."""
    return as_json(made.table, figure_rows(made), of_banner=bool(made.banner))


def _check_differences(made: Made, ending: str) -> None:
    """Refuses a format of figures for a table of differences.

    Raises:
        RequestError: They would be lost.
    """
    if made.table.comparison is not None and not any(column.letters for column in made.table.columns):
        raise RequestError(
            f"A {ending} has a row for each figure and none for differences.",
            f"Write .json or .md, or give figures their letters with {option('letters')}.",
        )
