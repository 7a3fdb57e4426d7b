"""One reading of the records serves every request on them."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from inspect import signature
from pathlib import Path

import pyarrow as pa
import pytest

from grainstack.chart.bars.bar_request import BarRequest
from grainstack.later import Later
from grainstack.making.kind import Product
from grainstack.making.kinds import KINDS, kind_named
from grainstack.making.make import begun, finished, make, read_into
from grainstack.paint.terminal import paint
from grainstack.records.codebook.codebook import Codebook
from grainstack.records.opened import Opened
from grainstack.records.records_request import RecordsRequest
from grainstack.records.source import Source
from grainstack.records.sources import open_source
from grainstack.report.table_files import json_of
from grainstack.requests import Requests, filled
from grainstack.summary.summary_request import SummaryRequest

ASKED: list[tuple[str, dict[str, object]]] = [
    ("table", {"by": ("route",), "measure": ("wait",), "only": ("ticket=app",)}),
    ("bar", {"by": ("ticket",), "split": "route", "layout": "percent"}),
    ("dot", {"by": ("route",), "measure": ("wait",), "stat": ("median",)}),
    ("pie", {"by": ("route",)}),
    ("treemap", {"by": ("route", "ticket")}),
    ("distribution", {"by": ("route",), "measure": ("wait",), "where": "wait < 30"}),
    ("table", {"by": ("wait",), "band": ("wait=auto",)}),
]


@dataclass(slots=True)
class Watched:
    """A source that counts how often its records are read, and which columns."""

    source: Source
    reads: list[tuple[str, ...]] = field(default_factory=list)

    @property
    def name(self) -> str:
        return self.source.name

    @property
    def columns(self) -> tuple[str, ...]:
        return self.source.columns

    @property
    def notes(self) -> tuple[str, ...]:
        return self.source.notes

    @property
    def decimal(self) -> str:
        return self.source.decimal

    def batches(self, columns: Sequence[str]) -> Iterator[pa.RecordBatch]:
        self.reads.append(tuple(columns))
        return self.source.batches(columns)

    def head(self) -> pa.RecordBatch:
        return self.source.head()

    def place(self, record: int) -> str:
        return self.source.place(record)


@pytest.fixture
def opened(tmp_path: Path) -> Opened:
    rows = [f"{'Osk' if n % 3 else 'Pell'},{('app', 'web', 'desk')[n % 7 % 3]},{n * n % 41}" for n in range(200)]
    path = tmp_path / "p.csv"
    path.write_text("route,ticket,wait\n" + "\n".join(rows) + "\n", "utf-8")
    return Opened(Watched(open_source([str(path)])), Codebook())


def test_several_requests_share_one_reading_and_give_what_each_gives_alone(opened: Opened) -> None:
    asked = [
        (kind_named(name), filled(kind_named(name).models, {"file": ("p.csv",), **values})) for name, values in ASKED
    ]
    waiting = [begun(kind, requests, opened) for kind, requests in asked]
    read_into([one.partial for one in waiting], opened)
    assert isinstance(opened.source, Watched)
    assert len(opened.source.reads) == 1
    assert set(opened.source.reads[0]) == {"route", "ticket", "wait"}
    for one, (kind, requests) in zip(waiting, asked, strict=True):
        together, alone = finished(one, opened), make(kind, requests, opened)
        assert json_of(together) == json_of(alone)
        assert (together.notes, together.advice) == (alone.notes, alone.advice)
        if kind.name != "table":
            assert paint(together.rows(80), colors=False) == paint(alone.rows(80), colors=False)


def test_only_the_columns_asked_for_are_read(opened: Opened) -> None:
    make(kind_named("bar"), Requests(RecordsRequest(("p.csv",)), SummaryRequest(by=("route",)), BarRequest()), opened)
    assert isinstance(opened.source, Watched)
    assert opened.source.reads == [("route",)]


def test_every_kind_has_a_name_a_summary_and_its_steps() -> None:
    for name, summary in KINDS.items():
        kind = kind_named(name)
        assert (kind.name, kind.summary) == (name, summary)
        steps = ((kind.picture, 2), (kind.rows, 3), (kind.advise, 2))
        for step, count in steps if kind.product is Product.CHART else ():
            assert isinstance(step, Later)
            assert len(signature(step.function).parameters) == count
