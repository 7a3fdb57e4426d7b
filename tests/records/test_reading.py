"""Reading on several cores: every record once, under its number, and the first of several failures."""

import time
from collections.abc import Callable, Iterator, Sequence
from functools import partial
from pathlib import Path

import pyarrow as pa
import pytest

from grainstack.errors import RecordsError
from grainstack.records.reading import read_blocks
from grainstack.records.source import Stretch
from grainstack.records.sources import decoding, open_source
from grainstack.records.sources.pieces import kernel
from grainstack.records.view import Block


def gathering(rows: dict[int, str]) -> Callable[[Block], None]:
    """Takes down the values of a column under the numbers of their records."""

    def absorb(block: Block) -> None:
        rows.update(enumerate(block.records.column("k").to_pylist(), block.first))

    return absorb


@pytest.mark.skipif(kernel is None, reason="nothing was compiled")
def test_every_record_is_read_once_under_its_number(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(decoding, "_FIRST", 40)
    monkeypatch.setattr(decoding, "CHUNK", 64)
    values = [
        f"a{number}" if number % 7 else f'"long, {number}\n' + "and longer " * (number % 9) + '"'
        for number in range(600)
    ]
    path = tmp_path / "r.csv"
    path.write_text("k,n\n" + "".join(f"{value},{number}\n" for number, value in enumerate(values)), "utf-8")
    mine: dict[int, str] = {}
    theirs: list[dict[int, str]] = []

    def another() -> Callable[[Block], None]:
        theirs.append({})
        return gathering(theirs[-1])

    read_blocks(open_source([str(path)]), ("k",), gathering(mine), another)
    assert sum(map(len, theirs)) + len(mine) == len(values)
    for other in theirs:
        mine.update(other)
    assert [mine[number] for number in range(len(values))] == [value.strip('"') for value in values]


class Failing:
    """A source of six stretches of which some fail, the first of them last."""

    name, columns, notes, decimal = "failing", ("k",), (), "."

    def stretches(self, columns: Sequence[str]) -> Iterator[Stretch]:
        return (partial(self.read, columns[0], number) for number in range(6))

    def read(self, column: str, number: int) -> pa.RecordBatch:
        time.sleep(0.05 if number == 2 else 0.0)
        if number in (2, 3, 5):
            raise RecordsError(f"stretch {number}")
        return pa.RecordBatch.from_pydict({column: ["x"]})

    def batches(self, columns: Sequence[str]) -> Iterator[pa.RecordBatch]:
        return (stretch() for stretch in self.stretches(columns))

    def head(self) -> pa.RecordBatch:
        return pa.RecordBatch.from_pydict({"k": ["x"]})

    def place(self, record: int) -> str:
        return f"record {record}"


def test_of_several_failures_the_first_in_the_file_is_told() -> None:
    rows: dict[int, str] = {}
    with pytest.raises(RecordsError, match="stretch 2"):
        read_blocks(Failing(), ("k",), gathering(rows), lambda: gathering({}))
