"""Sums that were read for one request serve another: its table is the one that reading for it alone gives."""

from importlib.resources import files
from itertools import product
from typing import Any

import numpy as np
import pytest
from msgspec.structs import replace

from grainstack.errors import RequestError
from grainstack.making.kinds import kind_named
from grainstack.making.make import Begun, begun, finished, read_into
from grainstack.records.opened import Opened, open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import filled
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.table import SummaryTable
from tests.soak import daily

COLUMNS: list[dict[str, Any]] = [
    {"by": ("route",), "split": "ticket"},
    {"by": ("route",), "split": "ticket", "measure": ("wait",)},
    {"by": ("facilities",), "split": "ticket"},
    {"by": ("route", "season")},
    {"by": ("facilities",), "measure": ("wait",)},
]
WISHES: list[dict[str, Any]] = [
    {},
    {"stat": ("count", "share")},
    {"stat": ("share",), "base": "all"},
    {"stat": ("share",), "base": "series"},
    {"stat": ("mean",), "error_bars": "none"},
    {"stat": ("median",)},
    {"stat": ("sum",)},
    {"error_bars": "confidence"},
    {"error_bars": "sd"},
    {"totals": True},
    {"compare": "pairs"},
    {"no_design": True},
    {"min_base": 50, "hide_small": True},
    {"error_bars": "confidence", "interval": "bootstrap", "repeats": 50},
]


def read(columns: dict[str, Any], wish: dict[str, Any]) -> tuple[Begun, Opened, SummaryTable] | None:
    kind = kind_named("table")
    try:
        requests = filled(
            kind.models, {"file": (str(files("grainstack.demo") / "data" / "passengers.csv"),), **columns, **wish}
        )
        opened = open_records(requests[RecordsRequest])
        one = begun(kind, requests, opened)
        read_into([one.partial], opened)
        return one, opened, finished(one, opened).table
    except RequestError:
        return None  # which cannot be asked of these columns


def check_same(one: SummaryTable, other: SummaryTable) -> None:
    assert np.array_equal(one.keys, other.keys)
    assert str(one.provenance) == str(other.provenance)
    for column, its in zip(one.columns, other.columns, strict=True):
        for name in column.__struct_fields__:
            mine, theirs = getattr(column, name), getattr(its, name)
            if isinstance(mine, np.ndarray):
                assert np.array_equal(mine, theirs, equal_nan=mine.dtype.kind == "f"), name
            else:
                assert mine == theirs, name


@pytest.mark.parametrize("columns", daily(COLUMNS, COLUMNS[:2]))
def test_sums_of_one_request_give_the_table_of_another(columns: dict[str, Any]) -> None:
    ready = [found for wish in WISHES if (found := read(columns, wish)) is not None]
    served = 0
    for (kept, _, _), (wanted, opened, table) in product(ready, ready):
        if kept.requests[RecordsRequest] != wanted.requests[RecordsRequest]:
            continue
        partial = kept.partial.serving(wanted.requests[SummaryRequest])
        if partial is not None:
            served += 1
            check_same(finished(replace(wanted, partial=partial), opened).table, table)
    assert served > 2 * len(ready), "not only each by itself"
