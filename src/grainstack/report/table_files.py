"""Tables as files of figures: CSV, JSON and Parquet."""

from grainstack.errors import RequestError
from grainstack.making.kinds.table import TableRequest
from grainstack.making.make import Made
from grainstack.option_names import option
from grainstack.report.cells import as_csv, as_json, as_parquet
from grainstack.report.wide import as_wide_csv


def csv_of(made: Made) -> bytes:
    """A table as CSV, in one row for each figure or as it is printed.

    Raises:
        RequestError: A table of differences, which would be lost.
    """
    _check_differences(made, ".csv")
    request = made.requests[TableRequest]
    if request.wide:
        return as_wide_csv(made.blocks or (("", made.table),), plain=request.plain_csv)
    return as_csv(
        made.table,
        design_figures=request.design_figures,
        blocks=made.blocks,
        banner=made.banner,
        plain=request.plain_csv,
    )


def parquet_of(made: Made) -> bytes:
    """A table as Parquet; raises as `csv_of`."""
    _check_differences(made, ".parquet")
    trace = str(made.trace) if made.trace else ""
    figures = made.requests[TableRequest].design_figures
    return as_parquet(made.table, design_figures=figures, blocks=made.blocks, banner=made.banner, trace=trace)


def json_of(made: Made) -> bytes:
    """A table as JSON."""
    figures = made.requests[TableRequest].design_figures
    return as_json(made.table, design_figures=figures, blocks=made.blocks, banner=made.banner)


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
