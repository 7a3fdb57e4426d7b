"""Delimited text in pieces: whatever it holds and wherever it is cut, it gives what a plain reader gives."""

import csv
import io
import math
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from grainstack.errors import RecordsError
from grainstack.records.numerals import parsed
from grainstack.records.sources.pieces import Cutting, Piece, kernel, pieces_of
from grainstack.records.values import as_numbers

pytestmark = pytest.mark.skipif(kernel is None, reason="nothing was compiled")
TEXT = st.text(alphabet='ab1.,;"\r\n é', max_size=12)
VALUES = st.one_of(TEXT, st.text(alphabet="abcdefgh", min_size=5, max_size=20))


def refused(reason: Exception) -> RecordsError:
    return RecordsError(f"cut: {reason!r}")


def closed() -> None:
    """Takes a value that is never closed for what it is."""


def short(size: int) -> None:
    """No record of these tests is too long."""
    assert size < 1 << 20


def cut(text: bytes, chunks: Sequence[int], varied: Sequence[bool]) -> list[list[str]]:
    """The rows of a text of some columns, read in chunks of these sizes, on two cores."""
    names = [f"c{place}" for place in range(len(varied))]
    cutting = Cutting(ord(","), names, list(enumerate(varied)), refused, closed, short)
    ends = [sum(chunks[: place + 1]) for place in range(len(chunks))]
    parts = [text[start:end] for start, end in zip([0, *ends], [*ends, len(text)], strict=True)]
    with ThreadPoolExecutor(2) as cores:
        batches = list(cores.map(Piece.__call__, pieces_of(filter(None, parts), cutting)))
    return [list(row.values()) for batch in batches for row in batch.to_pylist()]


@given(st.data(), st.integers(2, 4), st.lists(st.integers(1, 40), max_size=12), st.sampled_from(["\n", "\r\n", "\r"]))
def test_written_rows_are_read_back(data: st.DataObject, columns: int, chunks: list[int], end: str) -> None:
    rows = data.draw(st.lists(st.lists(VALUES, min_size=columns, max_size=columns), max_size=8))
    varied = data.draw(st.lists(st.booleans(), min_size=columns, max_size=columns))
    text = io.StringIO(newline="")
    every = end != "\r\n" or data.draw(st.booleans())  # the library quotes no line ends but its own by itself
    writer = csv.writer(text, lineterminator=end, quoting=csv.QUOTE_ALL if every else csv.QUOTE_MINIMAL)
    writer.writerows([[f"c{place}" for place in range(columns)], *rows])
    assert cut(text.getvalue().encode(), chunks, varied) == rows


@given(st.text(alphabet='ab,"\r\n', max_size=60), st.lists(st.integers(1, 20), max_size=8), st.booleans())
def test_odd_text_is_read_as_by_the_library(body: str, chunks: list[int], varied: bool) -> None:  # noqa: FBT001
    text = f"x,y\n{body}"
    rows = [row for row in csv.reader(io.StringIO(text, newline="")) if row][1:]
    if any(len(row) != 2 for row in rows):
        with pytest.raises(RecordsError, match="Ragged"):
            cut(text.encode(), chunks, [varied, varied])
    else:
        assert cut(text.encode(), chunks, [varied, varied]) == rows


@given(st.lists(st.one_of(st.floats(allow_nan=False).map(repr), st.text(alphabet="+-0123456789.eE _x", max_size=24))))
def test_numbers_are_read_to_the_same_bits(texts: list[str]) -> None:
    numbers, strays = as_numbers(pa.array(texts, pa.string()), "c")
    expected = [parsed(text) for text in texts]
    assert strays == [(row, text) for row, text in enumerate(texts) if expected[row] is None]
    same = [math.nan if value is None else value for value in expected]
    assert [one.hex() for one in numbers.tolist()] == [one.hex() for one in same]
