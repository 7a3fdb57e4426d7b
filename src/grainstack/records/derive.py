"""Records with bands, recodes, labels or long form added, for further work elsewhere."""

from collections.abc import Callable, Iterator, Sequence
from functools import partial
from typing import Protocol

import numpy as np
import pyarrow as pa
from msgspec import Struct

from grainstack.errors import RequestError, nearest
from grainstack.records.arrow import list_offsets, number_column, places_of, text_column
from grainstack.records.codebook.codebook import Codebook
from grainstack.records.filters.filters import Filters
from grainstack.records.kinds import guessed_kind
from grainstack.records.readers.column_readers import ColumnReaders
from grainstack.records.readers.levels import Rows
from grainstack.records.readers.plain import LevelReader
from grainstack.records.reading import blocks_of
from grainstack.records.records_request import RecordsRequest
from grainstack.records.sources import Source
from grainstack.records.values import Strays, as_numbers, as_texts
from grainstack.records.variable import Kind, Variable
from grainstack.records.view import sampled_kinds_of

_LONG = 16  # digits: shorter whole numbers are exact among double precision numbers


class Added(Struct, frozen=True):
    """A column to add.

    Attributes:
        name: Its name.
        reader: How it is read.
    """

    name: str
    reader: LevelReader


class Extra(Protocol):
    """One more column of numbers that is worked out from others."""

    @property
    def name(self) -> str:
        """What it is called."""

    def read(self, raw: pa.RecordBatch, rows: Rows) -> None:
        """Learns what it has to know of a batch, before any of its numbers are wanted."""

    def column(self, raw: pa.RecordBatch, rows: Rows) -> pa.Array:
        """Its numbers for a batch."""


class Derived:
    """The records of a request with the columns it derives.

    They are read twice: labels and types are settled first, and then written.

    Args:
        request: Filters, bands, recodes, several answers, long form.
        codebook: Labels and missing codes.
        source: Where the records are.
        labels: Whether columns with labels in the codebook get a column of labels.
        extra: Makes one more column of numbers, from what reads the others.

    Attributes:
        numbers: The columns that hold numbers.
        exact: Columns of whole numbers that stay text in every format, as they are too long to be numbers.
    """

    def __init__(
        self,
        request: RecordsRequest,
        codebook: Codebook,
        source: Source,
        *,
        labels: bool,
        extra: "Callable[[ColumnReaders], Extra] | None" = None,
    ) -> None:
        self._request = request
        self._source = source
        self._columns = ColumnReaders(request, codebook, source)
        self._added = self._readers(codebook, labels=labels)
        self._extra = extra(self._columns) if extra else None
        self.read = self.kept = 0
        self.exact: tuple[str, ...] = ()
        self.numbers = self._first_pass()
        self._variables = [added.reader.variable() for added in self._added]
        self._check_names()

    @property
    def columns(self) -> tuple[str, ...]:
        """The columns written: those of the source, then those added."""
        pairs = zip(self._added, self._variables, strict=True)
        added = (name for added, variable in pairs for name in _names(added, variable))
        return (*self._columns.columns, *added, *((self._extra.name,) if self._extra else ()))

    @property
    def notes(self) -> tuple[str, ...]:
        """What had to be assumed."""
        long = tuple(
            f"`{name}` holds whole numbers too long to be exact as numbers: it stays text." for name in self.exact
        )
        return (*self._source.notes, *self._columns.notes(), *long)

    def batches(self, *, typed: bool) -> Iterator[pa.RecordBatch]:
        """The records with their added columns; `typed` gives columns of numbers as numbers rather than as text."""
        for raw, rows, _ in self._kept_batches():
            arrays: dict[str, pa.Array] = {}
            for name in self._columns.columns:
                if typed and name in self.numbers:
                    arrays[name] = self._number(raw, name)
                else:
                    arrays[name] = as_texts(raw.column(name), name).cast(pa.string())
            for added, variable in zip(self._added, self._variables, strict=True):
                arrays |= _derived(added, variable, raw, rows, typed=typed)
            if self._extra:
                numbers = self._extra.column(raw, rows)
                arrays[self._extra.name] = numbers if typed else pa.array([f"{n:.15g}" for n in numbers.to_pylist()])
            yield pa.RecordBatch.from_pydict(arrays)

    def _check_names(self) -> None:
        """Refuses a derived column that would take the place of another.

        Raises:
            RequestError: Names the column.
        """
        names = self.columns
        for name in names:
            if names.count(name) > 1:
                raise RequestError(
                    f"A column `{name}` would be derived, but there is one: a column is never overwritten.",
                    f"Rename `{name}` in {self._source.name}, or leave out what derives it.",
                )

    def _readers(self, codebook: Codebook, *, labels: bool) -> tuple[Added, ...]:
        request, columns = self._request, self._columns
        banded = [text.partition("=")[0].partition(":") for text in request.band]
        recoded = [text.partition(":")[0].strip() for text in request.recode]
        several = [text.partition("=")[0].strip() for text in request.answers]
        for text, name in zip(request.answers, several, strict=True):
            if "=" not in text and name not in columns.columns:
                raise RequestError(f"{self._source.name} has no column `{name}`.", nearest(name, list(columns.columns)))
        added = [
            Added(name.strip() if colon else f"{name.strip()}_band", columns.levels(name.strip()))
            for name, colon, _ in banded
        ]
        added += [Added(f"{name}_recoded", columns.levels(name, banded=False)) for name in recoded]
        added += [Added(name, columns.levels(name)) for name in several]
        if labels:
            labelled = [
                name
                for name in columns.columns
                if codebook.variable(name).levels
                and name not in recoded
                and codebook.variable(name).kind is not Kind.MULTI
            ]
            added += [Added(f"{name}_label", columns.levels(name, banded=False)) for name in labelled]
        return tuple(added)

    def _first_pass(self) -> frozenset[str]:
        """Reads everything once, so that labels and types are settled; gives the columns that hold numbers."""
        seen: dict[str, dict[str, int]] = {name: {} for name in self._columns.columns}
        inexact: set[str] = set()
        for raw, rows, place in self._kept_batches(count=True):
            for added in self._added:
                _, strays = added.reader.read(raw, rows)
                self._columns.refuse(strays, added.reader.raw[0], partial(_numbered_place, rows, place))
            if self._extra:
                self._extra.read(raw, rows)
            for name, codes in seen.items():
                texts = [text.strip() for text in as_texts(raw.column(name), name).dictionary.to_pylist() if text]
                if any(len(text) >= _LONG and _is_inexact(text) for text in texts):
                    inexact.add(name)
                if len(codes) < 100_000:
                    codes.update(dict.fromkeys(filter(None, texts), 1))
        numbers = {
            name for name, codes in seen.items() if codes and guessed_kind(codes, self._columns.decimal) is Kind.NUMBER
        }
        self.exact = tuple(name for name in seen if name in numbers & inexact)
        return frozenset(numbers - inexact)

    def _kept_batches(self, *, count: bool = False) -> Iterator[tuple[pa.RecordBatch, Rows, Callable[[int], str]]]:
        """The records kept, which of the source they are, and where a record of it stands in words."""
        source, columns = self._source, self._columns
        filters = Filters(self._request, columns, partial(sampled_kinds_of, source, columns), source)
        long = self._columns.long
        for block in blocks_of(self._source, self._source.columns):
            raw, first, place = block.records, block.first, block.place
            if long is not None:
                raw, first = long.unfolded(raw, self._columns.columns, keep_missing=True), first * len(long.names)
                place = partial(long.place, place_of_row=block.place)

            def refuse(strays: Strays, name: str, first: int = first, place: Callable[[int], str] = place) -> None:
                self._columns.refuse(strays, name, lambda row: place(first + row))

            kept = filters.mask(raw, Rows(first), refuse)
            kept = np.ones(raw.num_rows, dtype=bool) if kept is None else kept
            if count:
                self.read += raw.num_rows
                self.kept += int(kept.sum())
            rows = Rows(first, np.flatnonzero(kept))
            yield (raw if kept.all() else raw.take(pa.array(rows.kept))), rows, place
        filters.check()

    def _number(self, raw: pa.RecordBatch, name: str) -> pa.Array:
        numbers, strays = as_numbers(raw.column(name), name, self._columns.decimal)
        if strays:
            return as_texts(raw.column(name), name).cast(pa.string())
        column = number_column(numbers)
        missing = np.isnan(numbers)
        return pa.array(np.where(missing, 0, numbers), mask=missing) if missing.any() else column


def _is_inexact(text: str) -> bool:
    """Whether a whole number has no exact place among double precision numbers."""
    digits = text.removeprefix("-")
    return digits.isascii() and digits.isdigit() and int(float(digits)) != int(digits)


def _numbered_place(rows: Rows, place: Callable[[int], str], row: int) -> str:
    """Where a row of a batch stands in the source."""
    return place(rows.number(row))


def _names(added: Added, variable: Variable) -> list[str]:
    if variable.kind is Kind.MULTI:
        return [f"{added.name}_{level.code}" for level in variable.levels]
    return [added.name]


def _derived(added: Added, variable: Variable, raw: pa.RecordBatch, rows: Rows, *, typed: bool) -> dict[str, pa.Array]:
    column, _ = added.reader.read(raw, rows)
    coding = added.reader.coding()
    if variable.kind is Kind.MULTI:
        return _indicators(added, variable, column, [coding.codes[rank] for rank in coding.ranks], typed=typed)
    labels = {level.code: "" if level.is_no_band else level.label for level in variable.levels}
    texts = [labels[coding.codes[rank]] for rank in coding.ranks.tolist()] + [""]
    return {added.name: text_column([texts[place] for place in places_of(column)]).cast(pa.string())}


def _indicators(
    added: Added, variable: Variable, column: pa.ListArray, codes: Sequence[str], *, typed: bool
) -> dict[str, pa.Array]:
    """A 0/1 column for each answer; empty where the question was not answered."""
    offsets = list_offsets(column)
    owners = np.repeat(np.arange(len(column)), np.diff(offsets))
    places = places_of(column.values)[offsets[0] : offsets[-1]]
    answered = np.asarray(column.is_valid())
    arrays = {}
    for level in variable.levels:
        chosen = np.zeros(len(column), dtype=np.int64)
        if level.code in codes:
            chosen[owners[places == codes.index(level.code)]] = 1
        array = pa.array(chosen, mask=~answered)
        arrays[f"{added.name}_{level.code}"] = array if typed else array.cast(pa.string())
    return arrays
