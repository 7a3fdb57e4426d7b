"""A last row that adds up all others, as tables of offices have it: it is no record, and is left out and told."""

from collections.abc import Iterator, Sequence
from math import fsum, isnan

import pyarrow as pa

from grainstack.language import phrase
from grainstack.option_names import option
from grainstack.records.numerals import form_of, parsed
from grainstack.records.source import Measured, Source
from grainstack.records.values import as_texts

TOTALS = ("total", "totals", "grand total", "sum", "overall", "gesamt", "insgesamt", "summe", "all", "alle")
LARGEST = 1 << 17  # bytes of a file that is looked at whole: tables with a total are short
_FEWEST = 3  # rows besides: two numbers add up to a third by chance
_MOST = 1000  # rows: a source that has more shows its first ones only, some two thousand
_ROUNDING = 1e-6  # of a sum, by which figures may be off as they were written


class WithoutTotals:
    """A source without its last row.

    Args:
        source: The whole.
        rows: How many rows are records.
        label: What the last row is called; may be empty.
    """

    def __init__(self, source: Source, rows: int, label: str) -> None:
        self._source, self._rows, self._label = source, rows, label
        self.name, self.columns, self.decimal = source.name, source.columns, source.decimal
        self.units = source.units if isinstance(source, Measured) else {}

    @property
    def notes(self) -> tuple[str, ...]:
        """What had to be assumed to read it."""
        called = f" ({self._label})" if self._label else ""
        text = phrase(
            "The last row of {file}{called} adds up all others and is left out; {keep} keeps it.",
            file=self.name,
            called=called,
            keep=option("keep_totals"),
        )
        return (*self._source.notes, text)

    def batches(self, columns: Sequence[str]) -> Iterator[pa.RecordBatch]:
        """Its rows in order, with only these columns."""
        left = self._rows
        for batch in self._source.batches(columns):
            kept = _first(batch, left)
            left -= kept.num_rows
            yield kept
            if not left:
                return

    def head(self) -> pa.RecordBatch:
        """Its first rows."""
        return _first(self._source.head(), self._rows)

    def place(self, record: int) -> str:
        """Where a record stands."""
        return self._source.place(record)


def _first(batch: pa.RecordBatch, rows: int) -> pa.RecordBatch:
    """The first rows of a batch; texts of the others are not even in its dictionaries."""
    if rows >= batch.num_rows:
        return batch
    kept = batch.slice(0, rows)
    columns = [
        one.cast(one.type.value_type).dictionary_encode() if pa.types.is_dictionary(one.type) else one
        for one in kept.columns
    ]
    return pa.RecordBatch.from_arrays(columns, names=kept.schema.names)


def without_totals(source: Source) -> Source:
    """A short source without its last row if that adds up all others; else the source.

    Args:
        source: The source.
    """
    head = source.head()
    if head.num_rows >= _MOST:
        return source
    found = totals_label(head, source.decimal)
    if found is None or sum(batch.num_rows for batch in source.batches(source.columns[:1])) != head.num_rows:
        return source
    return WithoutTotals(source, head.num_rows - 1, found)


def totals_label(rows: pa.RecordBatch, decimal: str) -> str | None:
    """What the last row is called if it adds up all others; None if it does not.

    Its labels are blank or say so, and its numbers are the sums of those above: one of them where it says so, all of
    them where it says nothing.

    Args:
        rows: All rows.
        decimal: The sign before decimals.
    """
    if rows.num_rows <= _FEWEST:
        return None
    last_row = rows.slice(rows.num_rows - 1)
    ends = {name: (as_texts(last_row.column(name), name)[0].as_py() or "").strip() for name in rows.schema.names}
    if not any(not text or _says_total(text) for text in ends.values()):
        return None
    labels: list[str] = []
    sums: list[tuple[bool, bool]] = []  # whether the last number is the sum of the others, and larger than each
    for name, last in ends.items():
        others = [(text or "").strip() for text in as_texts(rows.column(name), name).to_pylist()[:-1]]
        numbers = _numbers(others, decimal)
        value = parsed(last, form_of(others, decimal).signs) if numbers is not None and last else None
        if numbers is None or value is None:
            labels.append(last)
            continue
        total = fsum(numbers)
        adds_up = total != 0 and abs(value - total) <= _ROUNDING * abs(total)
        sums.append((adds_up, abs(total) > max(map(abs, numbers))))
    named = next((label for label in labels if _says_total(label)), "")
    if not labels or not sums or any(label and not _says_total(label) for label in labels):
        return None
    if named:
        return named if any(adds_up for adds_up, _ in sums) else None
    return "" if all(adds_up and is_largest for adds_up, is_largest in sums) else None


def _says_total(label: str) -> bool:
    return label.casefold().rstrip(":. ") in TOTALS


def _numbers(texts: Sequence[str], decimal: str) -> list[float] | None:
    """The numbers of a column; None where it holds others than numbers, or fewer than two."""
    signs = form_of(texts, decimal).signs
    values = [parsed(text, signs) for text in texts if text]
    known = [value for value in values if value is not None and not isnan(value)]
    return known if len(known) == len(values) > 1 else None
