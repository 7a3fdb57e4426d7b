"""Records in a PostgreSQL database, grouped by the server where that changes no figure."""

import os
from collections.abc import Iterator, Sequence
from contextlib import closing
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from grainstack.records.sources.database import HOURS, Database, as_column, driver, quoted
from grainstack.records.sources.queries import check_changes_nothing, functions_called, volatile_sql
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
_SESSION_SQL = f"""
    SELECT set_config('default_transaction_read_only', 'on', false), CASE
        WHEN current_setting('statement_timeout') = '0' THEN set_config('statement_timeout', '{HOURS}h', false) END
"""
Integers = npt.NDArray[np.int64]


class PostgresqlSource(Database):
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
        asked = ", ".join(f"pg_typeof(records.{quoted(name)})::oid::bigint" for name in self.columns)
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
        return ", ".join(as_column(name, self._forms.get(name, "")) for name in columns)

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

    def _check_query(self, cursor: StoppableCursor, query: str) -> None:
        functions = functions_called(query) if query else ()
        if functions:
            cursor.execute(volatile_sql(functions))
            check_changes_nothing([str(row[0]) for row in cursor.fetchall()])

    def _connect(self) -> Any:  # noqa: ANN401
        dbapi = driver("adbc_driver_postgresql")
        connection = dbapi.connect(with_environment(_with_patience(self._address)))
        with closing(connection.cursor()) as cursor:
            cursor.execute(_SESSION_SQL)
            cursor.fetchall()
        connection.commit()
        return connection


def _with_patience(address: str) -> str:
    """An address that says how long its server may take to answer, unless that is said somewhere already."""
    if "connect_timeout=" in address or "service=" in address or os.environ.get("PGCONNECT_TIMEOUT"):
        return address
    return f"{address}{'&' if '?' in address else '?'}connect_timeout={_PATIENCE}"
