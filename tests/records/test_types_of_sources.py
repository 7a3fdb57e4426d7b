"""One model of values behind all sources: the same records give the same figures, whatever holds them.

Every type of value in every source in every use, against the same records as CSV.
"""

import csv
import json
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import ExitStack
from datetime import UTC, date, datetime
from decimal import Decimal
from functools import cache
from pathlib import Path
from typing import Any

import openpyxl
import pyarrow as pa
import pytest
from pyarrow import parquet

from grainstack.errors import GrainStackError
from grainstack.making.kinds import kind_named
from grainstack.making.make import make
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.report.table_files import csv_of
from grainstack.requests import filled
from tests.records.servers import PROGRAMS, postgresql

ROWS: list[dict[str, Any]] = [
    {
        "k": "ab"[i % 2],
        "decimal": Decimal(f"{i + 3}.{i % 10}{i % 9 + 1}"),
        "integer": i % 5 + 1,
        "float": 0.1 * (i % 7) + 0.25,
        "text": f"t {i % 3}",
        "date": date(2025, 1 + i % 3, 1 + i),
        "time": datetime(2025, 1 + i % 3, 1 + i, 10, 30, tzinfo=UTC).replace(tzinfo=None),
        "yes": bool(i % 3),
        "answers": ["deck"] if i % 4 == 0 else ["cafe", "shop"][: i % 2 + 1],
    }
    for i in range(24)
]
NAMES = list(ROWS[0])
PARTS = ("answers",)
USES: dict[str, Callable[[str], dict[str, Any]]] = {
    "category": lambda name: {"by": (name,)},
    "mean": lambda name: {"by": ("k",), "measure": (name,)},
    "median": lambda name: {"by": ("k",), "measure": (name,), "stat": ("median",)},
    "weight": lambda name: {"by": ("k",), "weight": name, "stat": ("share",)},
    "cluster": lambda name: {"by": ("k",), "cluster": (name,), "stat": ("share",)},
    "months": lambda name: {"by": (name,), "band": (f"{name}=month",)},
    "answers": lambda name: {"by": (name,), "answers": (name,)},
    "only": lambda name: {"by": ("k",), "only": (f"{name}={_text(ROWS[3][name])}",)},
    "where": lambda name: {"by": ("k",), "where": _condition(name)},
    "formula": lambda name: {"by": ("z",), "compute": (f"z = {name}",)},
}


NO_NUMBERS = ("text", "date", "time", "answers")
REFUSED = {(use, name) for use in ("mean", "median", "weight") for name in NO_NUMBERS} | {
    ("months", name) for name in NAMES[1:] if name not in ("date", "time")
}


def _text(value: object) -> str:
    if isinstance(value, bool):
        return str(value).lower()
    return ";".join(value) if isinstance(value, list) else str(value)


def _condition(name: str) -> str:
    value = ROWS[3][name]
    number = isinstance(value, Decimal | int | float) and not isinstance(value, bool)
    return f"{name} <= {value}" if number else f"{name} = '{_text(value)}'"


def write_csv(folder: Path) -> str:
    with (folder / "r.csv").open("w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file)
        writer.writerows([NAMES, *([_text(row[name]) for name in NAMES] for row in ROWS)])
    return str(folder / "r.csv")


def write_json_lines(folder: Path) -> str:
    def known(value: object) -> object:
        return float(value) if isinstance(value, Decimal) else str(value) if isinstance(value, date) else value

    lines = [json.dumps({name: known(value) for name, value in row.items()}) for row in ROWS]
    (folder / "r.jsonl").write_text("\n".join(lines), "utf-8")
    return str(folder / "r.jsonl")


def table() -> pa.Table:
    return pa.table({name: [row[name] for row in ROWS] for name in NAMES})


def write_parquet(folder: Path) -> str:
    parquet.write_table(table(), folder / "r.parquet")
    return str(folder / "r.parquet")


def write_arrow(folder: Path) -> str:
    with pa.ipc.new_file(folder / "r.arrow", table().schema) as writer:
        writer.write_table(table())
    return str(folder / "r.arrow")


def write_xlsx(folder: Path) -> str:
    book = openpyxl.Workbook()
    assert book.active is not None
    book.active.append(NAMES)
    for row in ROWS:
        book.active.append([_text(value) if isinstance(value, list) else value for value in row.values()])
    book.save(folder / "r.xlsx")
    return str(folder / "r.xlsx")


def write_sqlite(folder: Path) -> str:
    connection = sqlite3.connect(folder / "r.sqlite")
    kinds = ("TEXT", "DECIMAL(8,2)", "INTEGER", "REAL", "TEXT", "DATE", "TIMESTAMP", "TEXT", "TEXT")
    connection.execute(f"CREATE TABLE r ({', '.join(map(' '.join, zip(NAMES, kinds, strict=True)))})")
    kept = ("integer", "float")
    values = [[row[name] if name in kept else _text(row[name]) for name in NAMES] for row in ROWS]
    connection.executemany(f"INSERT INTO r VALUES ({', '.join('?' * len(NAMES))})", values)  # noqa: S608 - our own
    connection.commit()
    connection.close()
    return str(folder / "r.sqlite")


def fill_postgresql(address: str) -> str:
    from adbc_driver_postgresql import dbapi  # noqa: PLC0415

    kinds = ("text", "numeric(8,2)", "int", "float8", "text", "date", "timestamp", "boolean", "text")
    with dbapi.connect(address) as connection, connection.cursor() as cursor:
        cursor.execute(f"CREATE TABLE r ({', '.join(map(' '.join, zip(NAMES, kinds, strict=True)))})")
        rows = (", ".join(f"'{_text(row[name])}'" for name in NAMES) for row in ROWS)
        cursor.execute(f"INSERT INTO r VALUES {', '.join(f'({row})' for row in rows)}")  # noqa: S608 - our own
        connection.commit()
    return f"{address}#r"


FILES = {
    "json lines": write_json_lines,
    "parquet": write_parquet,
    "arrow": write_arrow,
    "xlsx": write_xlsx,
    "sqlite": write_sqlite,
}
SOURCES = [*FILES, *(["postgresql"] if PROGRAMS else [])]


@pytest.fixture(scope="module")
def addresses(tmp_path_factory: pytest.TempPathFactory) -> Iterator[dict[str, str]]:
    folder = tmp_path_factory.mktemp("types")
    with ExitStack() as stack:
        found = {name: write(folder) for name, write in FILES.items()} | {"csv": write_csv(folder)}
        if PROGRAMS:
            found["postgresql"] = fill_postgresql(stack.enter_context(postgresql()))
        yield found


def outcome(address: str, asked: dict[str, Any]) -> str:
    """The table as CSV, or what is refused without where in the source it stands."""
    kind = kind_named("table")
    try:
        requests = filled(kind.models, {"file": (address,), **asked})
        return csv_of(make(kind, requests, open_records(requests[RecordsRequest]))).decode()
    except GrainStackError as error:
        return type(error).__name__


@cache
def of_csv(address: str, name: str, use: str) -> str:
    """The same of the CSV file, once for all that is held to it."""
    return outcome(address, USES[use](name))


@pytest.mark.parametrize("use", USES)
@pytest.mark.parametrize("name", NAMES[1:])
@pytest.mark.parametrize("source", SOURCES)
def test_a_value_is_the_same_whatever_holds_it(addresses: dict[str, str], source: str, name: str, use: str) -> None:
    asked = USES[use](name)
    wanted = of_csv(addresses["csv"], name, use)
    assert (wanted == "RecordsError") == ((use, name) in REFUSED)
    assert outcome(addresses[source], asked) == wanted


@pytest.mark.parametrize("write", ["json lines", "parquet"])
def test_what_is_no_value_hinders_only_who_asks_for_it(tmp_path: Path, write: str) -> None:
    if write == "parquet":
        nested = {"k": ["a", "b"], "s": [{"x": 1}, {"x": 2}], "b": [b"1", b"2"], "l": [[{"x": 1}], []]}
        parquet.write_table(pa.table(nested), tmp_path / "n")
    else:
        lines = [{"k": "a", "s": {"x": 1}, "b": [1, {"y": 2}], "l": [[1]]}, {"k": "b", "s": None, "b": [], "l": []}]
        (tmp_path / "n").write_text("\n".join(map(json.dumps, lines)), "utf-8")
    assert "estimate" in outcome(str(tmp_path / "n"), {"by": ("k",)})
    for name in ("s", "b", "l"):
        assert outcome(str(tmp_path / "n"), {"by": (name,)}) == "RecordsError"
