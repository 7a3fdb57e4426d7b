"""Records with bands, recodes, labels or long form added, for further work elsewhere."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import pyarrow as pa

from grainstack.records.arrow import list_offsets, number_column, places_of, text_column
from grainstack.records.codebook import Codebook
from grainstack.records.columns import Columns
from grainstack.records.filters import Filters
from grainstack.records.kinds import guessed_kind
from grainstack.records.reading import LevelReader
from grainstack.records.request import RecordsRequest
from grainstack.records.sources import Source
from grainstack.records.values import Strays, as_numbers, as_texts
from grainstack.records.variable import NO_BAND, Kind


@dataclass(frozen=True, slots=True)
class Added:
    """A column to add.

    Attributes:
        name: Its name.
        reader: How it is read.
    """

    name: str
    reader: LevelReader


class Derived:
    """The records of a request with the columns it derives.

    Args:
        request: Filters, bands, recodes, several answers, long form.
        codebook: Labels and missing codes.
        source: Where the records are.
        labels: Whether columns with labels in the codebook get a column of labels.
    """

    def __init__(self, request: RecordsRequest, codebook: Codebook, source: Source, *, labels: bool) -> None:
        self._request = request
        self._columns = Columns(request, codebook, source)
        self.added = self._added(codebook, labels=labels)
        self.read = self.kept = 0
        self.numbers = self._first_pass()

    @property
    def columns(self) -> tuple[str, ...]:
        """The columns written: those of the source, then those added."""
        return (*self._columns.source.columns, *(name for added in self.added for name in self._names(added)))

    @property
    def notes(self) -> tuple[str, ...]:
        """What had to be assumed."""
        return (*self._columns.source.notes, *self._columns.notes())

    def batches(self, *, typed: bool) -> Iterator[pa.RecordBatch]:
        """The records with their added columns; `typed` gives columns of numbers as numbers rather than as text."""
        for raw in self._kept_batches():
            arrays: dict[str, pa.Array] = {}
            for name in self._columns.source.columns:
                if typed and name in self.numbers:
                    arrays[name] = self._number(raw, name)
                else:
                    arrays[name] = as_texts(raw.column(name), name).cast(pa.string())
            for added in self.added:
                arrays |= self._derived(added, raw, typed=typed)
            yield pa.RecordBatch.from_pydict(arrays)

    def _added(self, codebook: Codebook, *, labels: bool) -> tuple[Added, ...]:
        request = self._request
        banded = [text.partition("=")[0].strip() for text in request.band]
        recoded = [text.partition(":")[0].strip() for text in request.recode]
        several = [text.partition("=")[0].strip() for text in request.answers]
        added = [Added(f"{name}_band", self._columns.levels(name)) for name in banded]
        added += [Added(f"{name}_recoded", self._columns.levels(name, banded=False)) for name in recoded]
        added += [Added(name, self._columns.levels(name)) for name in several]
        if labels:
            labelled = [
                name
                for name in self._columns.source.columns
                if codebook.variable(name).levels
                and name not in recoded
                and codebook.variable(name).kind is not Kind.MULTI
            ]
            added += [Added(f"{name}_label", self._columns.levels(name, banded=False)) for name in labelled]
        return tuple(added)

    def _first_pass(self) -> frozenset[str]:
        """Reads everything once, so that labels and types are settled; gives the columns that hold numbers."""
        seen: dict[str, dict[str, int]] = {name: {} for name in self._columns.source.columns}
        for raw in self._kept_batches(count=True):
            for added in self.added:
                added.reader.read(raw)
                strays = getattr(added.reader, "strays", [])
                self._columns.refuse(strays, added.reader.raw[0], self.read - raw.num_rows)
            for name, codes in seen.items():
                if len(codes) < 100_000:
                    texts = as_texts(raw.column(name), name).dictionary.to_pylist()
                    codes.update(dict.fromkeys((text.strip() for text in texts if text and text.strip()), 1))
        return frozenset(name for name, codes in seen.items() if codes and guessed_kind(codes) is Kind.NUMBER)

    def _kept_batches(self, *, count: bool = False) -> Iterator[pa.RecordBatch]:
        filters = Filters(self._request, self._columns)
        first = 0

        def refuse(strays: Strays, name: str) -> None:
            self._columns.refuse(strays, name, first)

        for raw in self._columns.source.batches(self._columns.source.columns):
            kept = filters.mask(raw, refuse)
            first += raw.num_rows
            if count:
                self.read += raw.num_rows
                self.kept += int(kept.sum())
            yield raw if kept.all() else raw.take(pa.array(np.flatnonzero(kept)))
        filters.check()

    def _number(self, raw: pa.RecordBatch, name: str) -> pa.Array:
        numbers, strays = as_numbers(raw.column(name), name, self._columns.decimal)
        if strays:
            return as_texts(raw.column(name), name).cast(pa.string())
        column = number_column(numbers)
        missing = np.isnan(numbers)
        return pa.array(np.where(missing, 0, numbers), mask=missing) if missing.any() else column

    def _names(self, added: Added) -> list[str]:
        variable = added.reader.variable()
        if variable.kind is Kind.MULTI:
            return [f"{added.name}_{level.code}" for level in variable.levels]
        return [added.name]

    def _derived(self, added: Added, raw: pa.RecordBatch, *, typed: bool) -> dict[str, pa.Array]:
        column = added.reader.read(raw)
        variable = added.reader.variable()
        if variable.kind is Kind.MULTI:
            return _indicators(added, column, typed=typed)
        labels = {level.code: "" if level == NO_BAND else level.label for level in variable.levels}
        texts = [labels[code] for code in added.reader.codes()] + [""]
        return {added.name: text_column([texts[place] for place in places_of(column)]).cast(pa.string())}


def _indicators(added: Added, column: pa.ListArray, *, typed: bool) -> dict[str, pa.Array]:
    """A 0/1 column for each answer; empty where the question was not answered."""
    offsets = list_offsets(column)
    owners = np.repeat(np.arange(len(column)), np.diff(offsets))
    places = places_of(column.values)[offsets[0] : offsets[-1]]
    answered = np.asarray(column.is_valid())
    codes = added.reader.codes()
    arrays = {}
    for level in added.reader.variable().levels:
        chosen = np.zeros(len(column), dtype=np.int64)
        if level.code in codes:
            chosen[owners[places == codes.index(level.code)]] = 1
        array = pa.array(chosen, mask=~answered)
        arrays[f"{added.name}_{level.code}"] = array if typed else array.cast(pa.string())
    return arrays
