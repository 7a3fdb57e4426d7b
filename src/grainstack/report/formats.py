"""The formats of tables: one writer each, found by the ending of a file and loaded when it is asked for."""

from grainstack.later import Later
from grainstack.making.make import Made

_WRITERS = {
    ".csv": Later("report.table_files", "csv_of"),
    ".json": Later("report.table_files", "json_of"),
    ".md": Later("report.print_request", "markdown_of"),
    ".xlsx": Later("report.workbook", "workbook_of"),
    ".parquet": Later("report.table_files", "parquet_of"),
    ".html": Later("report.documents.page", "table_page"),
}


def table_as(ending: str, made: Made) -> bytes:
    """A table in the format of a file ending, one of `TABLE_ENDINGS`."""
    content: bytes = _WRITERS[ending](made)
    return content
