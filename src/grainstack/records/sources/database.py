"""Records in a database, read through ADBC without ever writing: SQLite files and PostgreSQL servers.

An address may end in `#TABLE`; a query may be given instead. Only the columns asked for are fetched.
"""

import os
import re
from collections.abc import Iterator, Sequence
from contextlib import closing, contextmanager
from importlib import import_module
from types import ModuleType
from typing import Any
from urllib.parse import quote

import numpy as np
import numpy.typing as npt
import pyarrow as pa
from adbc_driver_manager import Error

from grainstack.errors import RecordsError, RequestError, listed, nearest
from grainstack.option_names import option
from grainstack.records.arrow import HEAD_ROWS, empty_head
from grainstack.records.sources.opening import Bytes, FileBytes, kept_file
from grainstack.records.sources.queries import check_changes_nothing, check_reads_only, functions_called, volatile_sql
from grainstack.records.sources.secrets import holds_password, with_environment, without_password
from grainstack.records.sources.stoppable import StoppableCursor

_EXPOSED_NOTE = (
    "The address holds a password, which others can see in your command history: better keep it in PGPASSWORD or a "
    ".pgpass file. It is printed nowhere."
)
_WORTHWHILE = 0.9  # grouping pays where the first rows are at most so many different ones, as a share of all
_TABLE_SQL = """
    SELECT count(*) = 1 FROM pg_class
    WHERE oid = to_regclass($1) AND relkind = 'r' AND NOT EXISTS (
        SELECT 1 FROM pg_attribute JOIN pg_collation ON pg_collation.oid = attcollation
        WHERE attrelid = pg_class.oid AND NOT collisdeterministic
    )
"""
# What columns of some types of PostgreSQL are asked for as: money as numbers, what is one text to people as that.
_TEXTS = ("uuid", "macaddr", "macaddr8", "interval", "bit", "varbit", "xml", "time", "timetz", "name", "char")
_READ_AS = {"money": "{}::numeric", "inet": "abbrev({})", "cidr": "abbrev({})"} | dict.fromkeys(_TEXTS, "{}::text")
_PATIENCE = 20  # seconds until a server has to answer; libpq itself would wait for minutes
_HOURS = 1  # that a statement may take
_SESSION_SQL = f"""
    SELECT set_config('default_transaction_read_only', 'on', false), CASE
        WHEN current_setting('statement_timeout') = '0' THEN set_config('statement_timeout', '{_HOURS}h', false) END
"""
Integers = npt.NDArray[np.int64]


class _Database:
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
            self._from = f"({query.strip().rstrip(';')})" if query else _quoted(table)
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
            connection = self._connect()
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


class SqliteSource(_Database):
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
        kinds = ", ".join(f"group_concat(DISTINCT typeof({_quoted(name)}))" for name in columns) or "1"
        with self._cursor() as cursor:
            cursor.execute(f"SELECT {kinds} FROM {rows} AS records")  # noqa: S608 - names are quoted
            found = [frozenset(str(one or "").split(",")) - {"", "null"} for one in cursor.fetchone()]
        named = list(zip(columns, found, strict=False))
        before = ", ".join(_as(name, _cell_of(kind)) for name, kind in named) or "1"
        wanted = ", ".join(_as(name, _form_of(kind)) for name, kind in named) or "1"
        batches = self._rows(f"SELECT {before} UNION ALL SELECT {wanted} FROM {rows} AS records")  # noqa: S608 - likewise
        yield from (batch.slice(0 if number else 1) for number, batch in enumerate(batches))

    def _connect(self) -> Any:  # noqa: ANN401
        dbapi = _driver("adbc_driver_sqlite")
        return dbapi.connect(f"file:{quote(str(self._path))}?mode=ro")


class PostgresqlSource(_Database):
    """A PostgreSQL database, in sessions that may only read."""

    tables_sql = """
        SELECT table_name FROM information_schema.tables
        WHERE table_schema NOT IN ('pg_catalog', 'information_schema')
    """

    def __init__(self, address: str, query: str | None) -> None:
        self._address, _, table = address.partition("#")
        super().__init__(without_password(self._address), table, query)
        self._forms, self._enums = self._types()
        if holds_password(self._address):
            self.notes = (_EXPOSED_NOTE,)

    def orders(self) -> dict[str, tuple[str, ...]]:
        """The values of columns of enumerated types, in their order."""
        return self._enums

    def _types(self) -> tuple[dict[str, str], dict[str, tuple[str, ...]]]:
        """The types that columns of others are asked for as, and the values of columns of enumerated ones."""
        asked = ", ".join(f"pg_typeof(records.{_quoted(name)})::oid::bigint" for name in self.columns)
        with self._cursor() as cursor:
            nothing = f"(SELECT * FROM {self._from} AS whole WHERE false)"  # noqa: S608 - as in `batches`
            one = f"SELECT {asked} FROM (SELECT 1) AS one LEFT JOIN {nothing} AS records ON true"  # noqa: S608 - likewise
            cursor.execute(one)
            numbers = dict(zip(self.columns, map(int, cursor.fetchone()), strict=True))
            cursor.execute("SELECT oid::bigint, typname::text FROM pg_type")
            types = {int(number): str(name) for number, name in cursor.fetchall()}
            cursor.execute("SELECT enumtypid::bigint, enumlabel::text FROM pg_enum ORDER BY enumsortorder")
            labels: dict[int, list[str]] = {}
            for number, label in cursor.fetchall():
                labels.setdefault(int(number), []).append(str(label))
        forms = {name: _READ_AS.get(types.get(number, ""), "") for name, number in numbers.items()}
        enums = {name: tuple(labels[number]) for name, number in numbers.items() if number in labels}
        return forms | dict.fromkeys(enums, "{}::text"), enums

    def _asked(self, columns: Sequence[str], rows: str) -> Iterator[pa.RecordBatch]:
        yield from self._rows(f"SELECT {self._selected(columns) or '1'} FROM {rows} AS records")  # noqa: S608 - names are quoted

    def _selected(self, columns: Sequence[str]) -> str:
        return ", ".join(_as(name, self._forms.get(name, "")) for name in columns)

    def counted(self, columns: Sequence[str]) -> Iterator[tuple[pa.RecordBatch, Integers]] | None:
        """The different rows and how often each occurs, grouped by the server; see `Countable`.

        Different rows come in the order of the places of their first records, so that levels stand as they would
        without grouping. Only rows of a table have a place; those of a view or a query are read one by one.
        """
        first = [repr(tuple(row.values())) for row in self.head().select(list(columns)).to_pylist()]
        if not columns or not self._is_table() or len(set(first)) > len(first) * _WORTHWHILE:
            return None
        wanted = self._selected(columns)
        places = ", ".join(str(place) for place in range(1, len(columns) + 1))
        return self._counted(
            f"SELECT {wanted}, count(*) FROM {self._from} AS records "  # noqa: S608 - names are quoted
            f"GROUP BY {places} ORDER BY min(records.ctid)"
        )

    def _counted(self, sql: str) -> Iterator[tuple[pa.RecordBatch, Integers]]:
        for batch in self._rows(sql):
            counts = np.asarray(batch.column(batch.num_columns - 1).to_numpy(zero_copy_only=False), dtype=np.int64)
            yield batch.select(list(range(batch.num_columns - 1))), counts

    def _is_table(self) -> bool:
        """Whether the rows are those of one ordinary table, without collations that take different texts as equal."""
        if self._from.startswith("("):
            return False
        with self._cursor() as cursor:
            cursor.execute(_TABLE_SQL, (self._from,))
            return bool(cursor.fetchone()[0])

    def _check_query(self, cursor: Any, query: str) -> None:  # noqa: ANN401
        functions = functions_called(query) if query else ()
        if functions:
            cursor.execute(volatile_sql(functions))
            check_changes_nothing([str(row[0]) for row in cursor.fetchall()])

    def _connect(self) -> Any:  # noqa: ANN401
        dbapi = _driver("adbc_driver_postgresql")
        connection = dbapi.connect(with_environment(_with_patience(self._address)))
        with closing(connection.cursor()) as cursor:
            cursor.execute(_SESSION_SQL)
            cursor.fetchall()
        connection.commit()
        return connection


def _as(name: str, form: str) -> str:
    """A column in a form, under its own name."""
    return f"{form.format(_quoted(name))} AS {_quoted(name)}" if form else _quoted(name)


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


def _driver(package: str) -> ModuleType:
    return import_module(f"{package}.dbapi")


def _with_patience(address: str) -> str:
    """An address that says how long its server may take to answer, unless that is said somewhere already."""
    if "connect_timeout=" in address or "service=" in address or os.environ.get("PGCONNECT_TIMEOUT"):
        return address
    return f"{address}{'&' if '?' in address else '?'}connect_timeout={_PATIENCE}"


def _quoted(name: str) -> str:
    return '"' + name.replace('"', '""') + '"'


def _remedy(message: str) -> str:
    low = message.casefold()
    if "statement timeout" in low:
        return f"A statement may take {_HOURS} hour, or what PGOPTIONS='-c statement_timeout=2h' says."
    if "read-only" in low or "readonly" in low:
        return "Databases are only read, never written."
    if "password" in low or "authentication" in low:
        return "Check the user, and the password in PGPASSWORD or .pgpass."
    if re.search(r"\b(certificate|ssl|tls)", low):
        return "Check sslmode and sslrootcert in the address, or PGSSLMODE and PGSSLROOTCERT."
    if "connect" in low or "translate host" in low or "refused" in low:
        return "Check host, port and name in postgresql://USER@HOST:PORT/NAME, and that the server runs."
    return ""
