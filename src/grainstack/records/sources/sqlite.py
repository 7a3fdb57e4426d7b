"""Records in an SQLite file, whose cells have types of their own."""

from collections.abc import Iterator, Sequence
from typing import Any
from urllib.parse import quote

import pyarrow as pa

from grainstack.records.sources.database import Database, as_column, driver, quoted
from grainstack.records.sources.opening import Bytes, FileBytes, kept_file


class SqliteSource(Database):
    """An SQLite file, opened read-only.

    It sorts to group, which takes longer than reading all rows of a file at hand: so it is never asked to.
    """

    tables_sql = "SELECT name FROM sqlite_master WHERE type IN ('table', 'view') AND name NOT LIKE 'sqlite_%'"

    def __init__(self, content: Bytes, table: str, query: str | None) -> None:
        self._path = content.path if isinstance(content, FileBytes) else kept_file(content)
        super().__init__(content.name, table, query)

    def _asked(self, columns: Sequence[str], rows: str) -> Iterator[pa.RecordBatch]:
        """Columns in one type each: a cell of SQLite has a type of its own, and its driver goes by the first ones.

        So a row with a cell of the right type in each column goes before the others, and is dropped again.
        """
        kinds = ", ".join(f"group_concat(DISTINCT typeof({quoted(name)}))" for name in columns) or "1"
        with self._cursor() as cursor:
            cursor.execute(f"SELECT {kinds} FROM {rows} AS records")  # noqa: S608 - names are quoted
            found = [frozenset(str(one or "").split(",")) - {"", "null"} for one in cursor.fetchone()]
        named = list(zip(columns, found, strict=False))
        before = ", ".join(as_column(name, _cell_of(kind)) for name, kind in named) or "1"
        wanted = ", ".join(as_column(name, _form_of(kind)) for name, kind in named) or "1"
        batches = self._rows(f"SELECT {before} UNION ALL SELECT {wanted} FROM {rows} AS records")  # noqa: S608 - likewise
        yield from (batch.slice(0 if number else 1) for number, batch in enumerate(batches))

    def _connect(self) -> Any:  # noqa: ANN401
        dbapi = driver("adbc_driver_sqlite")
        return dbapi.connect(f"file:{quote(str(self._path))}?mode=ro")


def _cell_of(kinds: frozenset[str]) -> str:
    """A cell of SQLite of the type in which cells of some types are asked for."""
    if "blob" in kinds:
        return "x'00'"
    if "text" in kinds:
        return "''"
    return "0.5" if "real" in kinds else "0"


def _form_of(kinds: frozenset[str]) -> str:
    """What cells of SQLite of some types are asked for as; empty where they are of one.

    Numbers among texts are written with as many digits as give the same number again.
    """
    if len(kinds) < 2:
        return ""
    if "blob" in kinds:
        return "CAST({} AS BLOB)"
    if kinds == {"integer", "real"}:
        return "CAST({} AS REAL)"
    text = "CAST({0} AS TEXT)"
    exact = f"CASE WHEN CAST({text} AS REAL) = {{0}} THEN {text} ELSE printf('%!.17g', {{0}}) END"
    return f"CASE typeof({{0}}) WHEN 'real' THEN {exact} WHEN 'null' THEN NULL ELSE {text} END"
