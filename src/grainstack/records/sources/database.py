"""Records in a database, read through ADBC without ever writing.

An address may end in `#TABLE`; a query may be given instead. Only the columns asked for are fetched.
"""

import re
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from importlib import import_module
from types import ModuleType
from typing import Any

import pyarrow as pa
from adbc_driver_manager import Error

from grainstack.errors import RecordsError, RequestError, listed, nearest
from grainstack.option_names import option
from grainstack.records.arrow import HEAD_ROWS, empty_head
from grainstack.records.sources.queries import check_reads_only
from grainstack.records.sources.secrets import without_password
from grainstack.records.sources.stoppable import StoppableCursor, beside_signals

HOURS = 1  # that a statement may take


class Database:
    """A table or query of a database; how to connect and list tables is left to its kinds."""

    tables_sql = ""

    decimal = "."

    def __init__(self, name: str, table: str, query: str | None) -> None:
        self.name = name
        self._head: pa.RecordBatch | None = None
        self.sent: list[str] = []  # the queries for rows, in the order they were sent
        self.notes: tuple[str, ...] = ()
        if table and query:
            raise RequestError(
                f"Both a table in the address and {option('query')} were given.", "Leave one of them out."
            )
        if query:
            check_reads_only(query)
        with self._cursor() as cursor:
            table = table or ("" if query else self._only_table(cursor))
            self._from = f"({query.strip().rstrip(';')})" if query else quoted(table)
            self._check_table(cursor, table)
            self._check_query(cursor, query or "")
            cursor.execute(f"SELECT * FROM {self._from} AS records WHERE 1 = 0")  # noqa: S608 - as in `batches`
            self.columns = tuple(str(column[0]) for column in cursor.description)

    def batches(self, columns: Sequence[str]) -> Iterator[pa.RecordBatch]:
        """The rows as the database gives them, in its own types."""
        yield from self._asked(columns, self._from)

    def _rows(self, sql: str) -> Iterator[pa.RecordBatch]:
        self.sent.append(sql)
        with self._cursor() as cursor:
            cursor.execute(sql)
            yield from cursor.batches()

    def head(self) -> pa.RecordBatch:
        """The first rows with all columns."""
        if self._head is None:
            some = f"(SELECT * FROM {self._from} AS whole LIMIT {HEAD_ROWS})"  # noqa: S608 - names are quoted
            sent = len(self.sent)
            first = next(self._asked(self.columns, some), None)
            del self.sent[sent:]  # which is told of rows that are read, not of those looked at
            self._head = first if first is not None else empty_head(self.columns)
        return self._head

    def _asked(self, columns: Sequence[str], rows: str) -> Iterator[pa.RecordBatch]:
        """Some columns as they are asked for.

        Args:
            columns: Which.
            rows: The rows they are asked of, in SQL.
        """
        raise NotImplementedError

    def place(self, record: int) -> str:
        """The number of a record as it was fetched, counted from 1."""
        return f"record {record + 1:,}"

    def _connect(self) -> Any:  # noqa: ANN401 - ADBC connections carry no types
        raise NotImplementedError

    def _only_table(self, cursor: StoppableCursor) -> str:
        tables = self._tables(cursor)
        if len(tables) != 1:
            message = f"has {len(tables)} tables: {listed(tables)}" if tables else "has no tables"
            raise RequestError(
                f"{self.name} {message}.", f"Name one after the address: ADDRESS#TABLE, or give {option('query')}."
            )
        return tables[0]

    def _check_table(self, cursor: Any, table: str) -> None:  # noqa: ANN401
        if table:
            tables = self._tables(cursor)
            if table not in tables:
                raise RequestError(f"{self.name} has no table `{table}`.", nearest(table, tables))

    def _check_query(self, cursor: Any, query: str) -> None:  # noqa: ANN401
        """Refuses what only the database itself knows to do more than read."""

    def _tables(self, cursor: StoppableCursor) -> list[str]:
        cursor.execute(self.tables_sql)
        return sorted(str(row[0]) for row in cursor.fetchall())

    @contextmanager
    def _cursor(self) -> Iterator[StoppableCursor]:
        """A cursor that is closed again; whatever the database says is passed on without a password."""
        try:
            connection = beside_signals(self._connect)
            cursor = StoppableCursor(connection.cursor())
            try:
                yield cursor
            finally:
                cursor.close()
                if not cursor.is_busy:
                    connection.close()
        except (Error, pa.ArrowException, OSError) as reason:  # the last while rows are on their way
            message = without_password(" ".join(str(reason).split())).removesuffix(".")
            raise RecordsError(f"{self.name}: {message}.", _remedy(message)) from None


def as_column(name: str, form: str) -> str:
    """A column in a form, under its own name."""
    return f"{form.format(quoted(name))} AS {quoted(name)}" if form else quoted(name)


def driver(package: str) -> ModuleType:
    """The driver of a kind of database, loaded once one is read."""
    return import_module(f"{package}.dbapi")


def quoted(name: str) -> str:
    """A name as SQL takes it literally."""
    return '"' + name.replace('"', '""') + '"'


def _remedy(message: str) -> str:
    low = message.casefold()
    if "statement timeout" in low:
        return f"A statement may take {HOURS} hour, or what PGOPTIONS='-c statement_timeout=2h' says."
    if "read-only" in low or "readonly" in low:
        return "Databases are only read, never written."
    if "password" in low or "authentication" in low:
        return "Check the user, and the password in PGPASSWORD or .pgpass."
    if re.search(r"\b(certificate|ssl|tls)", low):
        return "Check sslmode and sslrootcert in the address, or PGSSLMODE and PGSSLROOTCERT."
    if "connect" in low or "translate host" in low or "refused" in low:
        return "Check host, port and name in postgresql://USER@HOST:PORT/NAME, and that the server runs."
    return ""
