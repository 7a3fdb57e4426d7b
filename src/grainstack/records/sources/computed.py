"""Records with columns worked out from others: `--compute "total = cash + card"`.

Such a column is there for every command as if it stood in the file. A value that is missing makes a result missing,
but for `sum_of`, `mean_of`, `count_of`, `min_of` and `max_of` of many columns, which are over those that have one.
"""

import re
from collections.abc import Iterator, Sequence
from functools import partial
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
from msgspec import Struct

from grainstack.errors import RecordsError, RequestError
from grainstack.later import Later
from grainstack.option_fields import names_in
from grainstack.option_names import option
from grainstack.records.arrow import level_column, places_of
from grainstack.records.codebook.codebook import Codebook, CodebookVariable
from grainstack.records.dates import DateOrder
from grainstack.records.expressions.operands import DIGITS, Operand, Words
from grainstack.records.naming import columns_named
from grainstack.records.readers.column_forms import ColumnForms
from grainstack.records.readers.plain import NumberReader
from grainstack.records.records_request import RecordsRequest
from grainstack.records.sample import sampled_kinds
from grainstack.records.source import Collected, Partible, Queried, Ranged, Source, Stretch, stretches_of
from grainstack.records.values import as_texts
from grainstack.records.variable import Kind

if TYPE_CHECKING:
    from grainstack.records.expressions.expression import Formula

_FORMULA = Later("records.expressions.expression", "Formula")  # a parser of SQL, which few requests need
_MANY = re.compile(r"\b(sum|mean|count|min|max)\s*\(([^()]*)\)", re.IGNORECASE)


class _Column(Struct, frozen=True):
    """A column that is worked out.

    Attributes:
        name: Its name.
        formula: How.
        raw: The columns it needs.
        numbers: How those that hold numbers are read.
        texts: What is known of the others.
        dates: What stands first in the dates of those it takes days or years of.
    """

    name: str
    formula: "Formula"
    raw: tuple[str, ...]
    numbers: dict[str, NumberReader]
    texts: dict[str, CodebookVariable]
    dates: dict[str, DateOrder]


class Computed:
    """A source with columns worked out from others, in order: each may use those before it.

    Args:
        source: The records.
        columns: What is worked out.
    """

    def __init__(self, source: Source, columns: Sequence[_Column]) -> None:
        self._source, self._computed = source, tuple(columns)
        self.columns = (*source.columns, *(column.name for column in columns))
        self.name = source.name

    @property
    def notes(self) -> tuple[str, ...]:
        """What had to be assumed to read the records."""
        return self._source.notes

    @property
    def decimal(self) -> str:
        """The sign before decimals in text of the file."""
        return self._source.decimal

    @property
    def files(self) -> tuple[str, ...]:
        """How messages call each file."""
        return self._source.files if isinstance(self._source, Collected) else (self._source.name,)

    def batches(self, columns: Sequence[str]) -> Iterator[pa.RecordBatch]:
        """The rows in order, with only these columns."""
        for stretch in self.stretches(columns):
            yield stretch()

    def stretches(self, columns: Sequence[str]) -> Iterator[Stretch]:
        """The same in stretches that can be read on several cores at once."""
        wanted = self._needed(columns)
        for stretch in stretches_of(self._source, wanted):
            yield partial(self._completed_stretch, stretch, tuple(columns))

    def head(self) -> pa.RecordBatch:
        """The first rows with all columns."""
        return self._completed(self._source.head(), self.columns)

    def place(self, record: int) -> str:
        """Where a record stands."""
        return self._source.place(record)

    def parts(self, size: int) -> list[Source]:
        """Parts of about so many bytes."""
        parts = self._source.parts(size) if isinstance(self._source, Partible) else [self._source]
        return [Computed(part, self._computed) for part in parts]

    def span_read(self) -> tuple[int, int] | None:
        """Which bytes were read, where this is one part of one file."""
        return self._source.span_read() if isinstance(self._source, Ranged) else None

    def starting_at(self, place: int) -> "Computed":
        """The same part from where a record is known to start."""
        source = self._source
        return Computed(source.starting_at(place), self._computed) if isinstance(source, Ranged) else self

    def _needed(self, columns: Sequence[str]) -> tuple[str, ...]:
        """The columns of the records that some columns are made of."""
        needed = dict.fromkeys(columns)
        for column in reversed(self._computed):
            if column.name in needed:
                del needed[column.name]
                needed |= dict.fromkeys(column.raw)
        return tuple(needed) or self._source.columns[:1]

    def _completed_stretch(self, stretch: Stretch, columns: tuple[str, ...]) -> pa.RecordBatch:
        return self._completed(stretch(), columns)

    def _completed(self, batch: pa.RecordBatch, columns: Sequence[str]) -> pa.RecordBatch:
        """A batch with what is worked out of those columns that are wanted, and of those they need."""
        arrays = dict(zip(batch.schema.names, batch.columns, strict=True))
        for column in self._computed:
            if all(name in arrays for name in column.raw):
                arrays[column.name] = _worked_out(column, arrays, batch.num_rows, self.name)
        return pa.RecordBatch.from_arrays([arrays[name] for name in columns], names=list(columns))


class ComputedRows(Computed):
    """The same of rows that are asked for in SQL."""

    @property
    def sent(self) -> Sequence[str]:
        """The queries for rows, in the order they were sent."""
        return self._source.sent if isinstance(self._source, Queried) else ()


def computed(source: Source, request: RecordsRequest, codebook: Codebook) -> Source:
    """A source with columns worked out from others.

    Args:
        source: The records.
        request: What is worked out, and how the columns are written.
        codebook: What is known of the columns.

    Raises:
        RequestError: A formula that cannot be, or a name that is taken.
        RecordsError: Numbers or dates that can be read in two ways.
    """
    found: list[_Column] = []
    for text in request.compute:
        name, equals, formula = (part.strip() for part in text.partition("="))
        if not equals or not name or not formula or formula.startswith("="):
            raise RequestError(
                f"`{option('compute')} {text}` is incomplete.", f'Write {option("compute")} "NAME = FORMULA".'
            )
        known = Computed(source, found)
        if name in known.columns:
            raise RequestError(
                f"{option('compute')}: {source.name} has a column `{name}`, and no column is overwritten.",
                "Give it another name.",
            )
        found.append(_column(name, _with_many(formula, known), known, request, codebook))
    return (ComputedRows if isinstance(source, Queried) else Computed)(source, found)


def _with_many(text: str, source: Source) -> str:
    """A formula in which patterns and ranges of columns are written out: `sum(1980..2013)`, `mean(q_*)`."""

    def written(match: re.Match[str]) -> str:
        names = columns_named(names_in(match[2]), source.name, source.columns)
        return f"{match[1].lower()}_of({', '.join(_quoted(name) for name in names)})"

    return _MANY.sub(written, text)


def _quoted(name: str) -> str:
    doubled = name.replace('"', '""')
    return f'"{doubled}"'


def _column(name: str, text: str, source: Source, request: RecordsRequest, codebook: Codebook) -> _Column:
    formula: Formula = _FORMULA(text)
    formula.check_columns(source.columns)
    forms = ColumnForms(request, codebook, source)
    must = formula.number_columns()
    known = {one: codebook.variable(one) for one in formula.columns}
    kinds = sampled_kinds(source.head(), [one for one in known if known[one].kind is None], forms.decimal)
    numbers = {one for one in known if one in must or (known[one].kind or kinds.get(one)) is Kind.NUMBER}
    return _Column(
        name,
        formula,
        formula.columns,
        {one: NumberReader(known[one], forms.numbers(one)) for one in known if one in numbers},
        {one: known[one] for one in known if one not in numbers},
        {one: forms.dates(one) for one in formula.date_columns() if one not in numbers},
    )


def _worked_out(column: _Column, arrays: dict[str, pa.Array], records: int, source: str) -> pa.Array:
    """The values of a column; null where there is none.

    Raises:
        RecordsError: Text where numbers should stand.
    """

    def of(name: str) -> Operand:
        batch = pa.RecordBatch.from_arrays([arrays[name]], names=[name])
        if name in column.numbers:
            numbers, strays = column.numbers[name].read(batch)
            if strays:
                message = f'`{name}` of {source} should hold numbers but holds "{strays[0][1]}"'
                raise RecordsError(
                    f"{option('compute')} {column.name}: {message}.",
                    f"Mend it, or name it as a `missing` code of `{name}` in a codebook.",
                )
            return numbers
        known, texts = column.texts[name], as_texts(arrays[name], name)
        names = [(text or "").strip() for text in texts.dictionary.to_pylist()]
        missing = np.array([not text or known.is_missing(text) for text in names] + [True])
        places = places_of(texts)
        labels = tuple((level.label if (level := known.level(text)) else text, text) for text in names)
        return Words(np.where(missing[places], -1, places).astype(np.int32), labels, column.dates.get(name))

    values = column.formula.values(of, records)
    if isinstance(values, Words):
        return level_column(np.asarray(values.places, dtype=np.int32), tuple(label for label, _ in values.names))
    different, back = np.unique(values, return_inverse=True)
    rounded = np.array([float(f"{one:.{DIGITS}g}") for one in different.tolist()])[back.reshape(-1)]
    return pa.array(rounded, mask=np.isnan(rounded))
