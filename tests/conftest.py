"""Shared ways to make records, tables and scenes from a few literal values."""

from collections.abc import Mapping, Sequence
from pathlib import Path

import hypothesis
import pytest

from grainstack.records.request import RecordsRequest
from grainstack.records.scan import Scan
from grainstack.summary.accumulator import Accumulator, needs_of
from grainstack.summary.finish import table_of
from grainstack.summary.order import OrderRequest
from grainstack.summary.provenance import Origin
from grainstack.summary.request import SummaryRequest
from grainstack.summary.table import SummaryTable

hypothesis.settings.register_profile("repeatable", derandomize=True, deadline=None, print_blob=False)
hypothesis.settings.load_profile("repeatable")


class Records:
    """A folder in which records are written as CSV files and summed up the way the program does it."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def write(self, columns: Mapping[str, Sequence[object]], name: str = "records.csv") -> Path:
        rows = [
            ",".join(columns),
            *(",".join(_quoted(value) for value in row) for row in zip(*columns.values(), strict=True)),
        ]
        path = self.folder / name
        path.write_text("\n".join(rows) + "\n", "utf-8")
        return path

    def table(
        self, columns: Mapping[str, Sequence[object]], request: SummaryRequest, order: OrderRequest | None = None
    ) -> SummaryTable:
        scan = Scan(RecordsRequest(str(self.write(columns))), needs_of(request))
        accumulator = Accumulator(request)
        for batch in scan:
            accumulator.absorb(batch)
        origin = Origin(scan.source_name, scan.account.read, scan.account.filtered)
        return table_of(accumulator.finish(), scan.found(), order or OrderRequest(), origin)


def _quoted(value: object) -> str:
    text = str(value)
    return f'"{text}"' if any(mark in text for mark in ',"\n') else text


@pytest.fixture
def records(tmp_path: Path) -> Records:
    return Records(tmp_path)
