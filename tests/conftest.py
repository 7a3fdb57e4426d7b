"""Shared ways to make records, tables and scenes from a few literal values."""

import os
import signal
import sys
import tempfile
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

import hypothesis
import pytest

from grainstack.making.make import read_into
from grainstack.records.codebook.codebook import Codebook
from grainstack.records.codebook.file import codebook_from_toml
from grainstack.records.opened import Opened
from grainstack.records.records_request import RecordsRequest
from grainstack.records.sources import open_source
from grainstack.records.view import View
from grainstack.summary.order import OrderRequest
from grainstack.summary.partial import Partial
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.sums.accumulator import Accumulator, needs_of
from grainstack.summary.table import SummaryTable
from tests.soak import SOAK

if (
    signal.getsignal(signal.SIGINT) is signal.SIG_IGN
):  # as of a job in the background, whose programs would ignore it too
    signal.signal(signal.SIGINT, signal.default_int_handler)

hypothesis.settings.register_profile("repeatable", derandomize=True, deadline=None, print_blob=False)
hypothesis.settings.register_profile("soak", derandomize=False, deadline=None, print_blob=True)
hypothesis.settings.load_profile("repeatable" if SOAK == 1 else "soak")

# The program is tested as a user has it, with its byte code cached: compiling it anew takes longer than most tests.
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
os.environ.setdefault("PYTHONPYCACHEPREFIX", str(Path(tempfile.gettempdir()) / "grainstack-bytecode"))
sys.dont_write_bytecode = False
sys.pycache_prefix = os.environ["PYTHONPYCACHEPREFIX"]

Values = Mapping[str, Sequence[Any]]


class Records:
    """A folder in which records are written as CSV files and summed up the way the program does it."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def write(self, columns: Values, name: str = "records.csv") -> Path:
        rows = [",".join(columns)]
        rows += [",".join(_quoted(value) for value in row) for row in zip(*columns.values(), strict=True)]
        path = self.folder / name
        path.write_text("\n".join(rows) + "\n", "utf-8")
        return path

    def table(
        self,
        columns: Values,
        request: SummaryRequest,
        order: OrderRequest | None = None,
        codebook: str = "",
        **options: Any,  # noqa: ANN401
    ) -> SummaryTable:
        """The table of some columns; `options` are those of `RecordsRequest`, `codebook` is TOML."""
        path = self.write(columns)
        known = codebook_from_toml(codebook, "codebook.toml") if codebook else Codebook()
        opened = Opened(open_source([str(path)]), known)
        view = View(RecordsRequest((str(path),), **options), needs_of(request), opened.source, known)
        partial = Partial(view, Accumulator(request))
        read_into([partial], opened)
        return partial.table(order or OrderRequest(), opened.noun)


def figures(table: SummaryTable, column: int = 0) -> dict[tuple[str, ...], float]:
    """The estimates of a column by the labels of their cell."""
    names = [tuple(level.label for level in table.levels_of(cell)) for cell in range(len(table.keys))]
    return dict(zip(names, table.columns[column].estimate.tolist(), strict=True))


def first_labels(table: SummaryTable) -> list[str]:
    """The labels of the first dimension in the order shown."""
    return [level.label for level in table.dimensions[0].levels]


def _quoted(value: object) -> str:
    text = str(value)
    return f'"{text}"' if any(mark in text for mark in ',"\n') else text


@pytest.fixture
def records(tmp_path: Path) -> Records:
    return Records(tmp_path)
