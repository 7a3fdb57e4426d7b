"""Which records count: levels kept or left out, and an SQL condition."""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt
import pyarrow as pa
from msgspec.structs import replace

from grainstack.errors import RequestError, listed, nearest
from grainstack.language import phrase
from grainstack.later import Later
from grainstack.option_names import option
from grainstack.records.arrow import list_offsets, places_of
from grainstack.records.expressions.operands import Operand, Words
from grainstack.records.filters.time_levels import is_time_level, met_levels, named_in_time
from grainstack.records.readers.column_readers import ColumnReaders
from grainstack.records.readers.levels import LevelList, Rows
from grainstack.records.records_request import LevelChoice, RecordsRequest
from grainstack.records.source import Source
from grainstack.records.values import Strays, as_texts
from grainstack.records.variable import Kind, Level, Variable
from grainstack.visible import visible

if TYPE_CHECKING:
    from grainstack.records.expressions.expression import Condition
    from grainstack.records.readers.plain import LevelReader

Mask = npt.NDArray[np.bool_]
_CONDITION = Later("records.expressions.expression", "Condition")  # a parser of SQL, which few requests need


class Filters:
    """The filters of a request; two of one request merge.

    Args:
        request: What is kept and left out.
        columns: How columns are read.
        kinds: Tells the kinds of columns the codebook says nothing of, as their first values suggest them.
        source: The records, from which only their names tell the latest; it is not kept.

    Attributes:
        raw: The columns they look at.
    """

    def __init__(
        self,
        request: RecordsRequest,
        columns: ColumnReaders,
        kinds: Callable[[Sequence[str]], dict[str, Kind]],
        source: Source,
    ) -> None:
        self.choices = [_Choice(choice, columns, source) for choice in request.level_choices()]
        self._where = _Where(request.where, columns, kinds, source) if request.where is not None else None
        raw = [name for choice in self.choices for name in choice.reader.raw]
        self.raw = tuple(dict.fromkeys([*raw, *(self._where.raw if self._where else ())]))

    def mask(self, raw: pa.RecordBatch, rows: Rows, refuse: Callable[[Strays, str], None]) -> Mask | None:
        """Which records of a batch count, shape (records,); None where all do, for want of a filter.

        Args:
            raw: The batch.
            rows: Which records it holds.
            refuse: Called with places where other text stands in a column that a condition needs as numbers.
        """
        if not self.choices and self._where is None:
            return None
        kept = np.ones(raw.num_rows, dtype=bool)
        for choice in self.choices:
            kept &= choice.mask(raw, rows)
        if self._where is not None:
            kept &= self._where.mask(raw, rows, refuse)
        return kept

    def merge(self, other: "Filters") -> None:
        """Learns which levels others of the same request have met."""
        for mine, theirs in zip(self.choices, other.choices, strict=True):
            mine.reader.merge(theirs.reader)

    def check(self) -> None:
        """Refuses levels that no record has: a misspelt one would silently keep or drop the wrong records.

        Raises:
            RequestError: Names the level and the nearest ones.
        """
        for choice in self.choices:
            choice.check()

    def left_out(self, variable: Variable) -> frozenset[str]:
        """The codes of the levels of a column that were left out by name."""
        mine = [choice for choice in self.choices if choice.column == variable.name]
        return frozenset(level.code for level in variable.levels if not all(choice.keeps(level) for choice in mine))

    def in_words(self) -> tuple[str, ...]:
        """What is kept and left out, as a note says it."""
        words = [choice.in_words() for choice in self.choices]
        return (*words, *([phrase("where {condition}", condition=self._where.in_words)] if self._where else []))


class _Choice:
    """Levels of a column that are kept, or left out."""

    def __init__(self, choice: LevelChoice, columns: ColumnReaders, source: Source) -> None:
        self._label = columns.known(choice.column).label or choice.column
        self._columns = columns.columns
        self.reader: LevelReader = columns.levels(choice.column, banded=columns.names_bands(choice.column))
        if any(map(is_time_level, choice.names)):
            choice = replace(choice, names=_named_in_time(choice.names, choice.column, columns, source))
        self._choice = choice

    def mask(self, raw: pa.RecordBatch, rows: Rows) -> Mask:
        column, _ = self.reader.read(raw, rows)
        names = set(self._choice.names)
        wanted = [place for place, mine in enumerate(self._names(column)) if names.intersection(mine)]
        if pa.types.is_list(column.type):
            offsets = list_offsets(column)
            hits = np.isin(places_of(column.values)[offsets[0] : offsets[-1]], wanted)
            inside: Mask = np.zeros(raw.num_rows, dtype=bool)
            inside[np.repeat(np.arange(raw.num_rows), np.diff(offsets))[hits]] = True
        else:
            inside = np.isin(places_of(column), wanted)
        return inside if self._choice.keep else ~inside

    @property
    def column(self) -> str:
        """The column."""
        return self._choice.column

    def keeps(self, level: Level) -> bool:
        """Whether records of a level count."""
        return ({level.label, level.code}.isdisjoint(self._choice.names)) != self._choice.keep

    def _names(self, column: pa.Array) -> list[tuple[str, str]]:
        """The label and code of each place of the dictionary of a column."""
        levels = getattr(self.reader, "levels", None)
        if isinstance(levels, LevelList):
            return [levels.names(place) for place in range(len(levels))]
        labels = {level.code: level.label for level in self.reader.variable().levels}
        return [(labels.get(code, code), code) for code in column.dictionary.to_pylist()]

    def check(self) -> None:
        levels = self.reader.variable().levels
        known = {name for level in levels for name in (level.label, level.code)}
        for name in self._choice.names:
            column, equals, _ = name.partition("=")
            if name not in known and equals and column.strip() in self._columns:
                field = "only" if self._choice.keep else "except_"
                first = f"{self._choice.column}={','.join(one for one in self._choice.names if one in known)}"
                raise RequestError(
                    f"`{name}` is no level of `{self._choice.column}` but speaks of another column.",
                    f"Give the option once for each column: {option(field, first)} {option(field, name)}.",
                )
            if name not in known:
                labels = [level.label for level in levels]
                raise RequestError(f"`{self._choice.column}` has no level `{name}`.", nearest(name, labels))

    def in_words(self) -> str:
        label = Variable(self._choice.column, label=self._label).in_sentence
        levels = listed(self._choice.names, joint=phrase(" or "))
        if self._choice.keep:
            return phrase("with {column} {levels}", column=label, levels=levels)
        return phrase("without {column} {levels}", column=label, levels=levels)


class _Where:
    """A condition with the readers of its columns: numbers where they are numbers, else levels."""

    def __init__(
        self,
        text: str,
        columns: ColumnReaders,
        kinds: Callable[[Sequence[str]], dict[str, Kind]],
        source: Source,
    ) -> None:
        self._condition: Condition = _CONDITION(text)
        self._condition.check_columns(columns.columns)
        renamed = self._condition.rename_levels(
            is_time_level, lambda column, level: _named_in_time([level], column, columns, source)
        )
        self.in_words = visible(self._condition.in_words() if renamed else text)
        names = self._condition.columns
        known = {name: kind for name in names if (kind := _known_kind(columns, name)) is not None}
        known |= kinds([name for name in names if name not in known])
        numbers = {name for name, kind in known.items() if kind is Kind.NUMBER} | set(self._condition.number_columns())
        self._numbers = {name: columns.numbers(name) for name in names if name in numbers}
        self._levels = {name: LevelList(columns.known(name)) for name in names if name not in numbers}
        self._dates = {name: columns.dates(name) for name in self._condition.date_columns() if name not in numbers}
        self.raw = tuple(names)

    def mask(self, raw: pa.RecordBatch, rows: Rows, refuse: Callable[[Strays, str], None]) -> Mask:
        def column(name: str) -> Operand:
            if name in self._numbers:
                numbers, strays = self._numbers[name].read(raw)
                refuse(strays, name)
                return numbers
            levels = self._levels[name]
            places = levels.encode(as_texts(raw.column(name), name), rows)
            return Words(places, tuple(levels.names(place) for place in range(len(levels))), self._dates.get(name))

        return self._condition.holds(column, raw.num_rows)


def _named_in_time(names: Sequence[str], column: str, columns: ColumnReaders, source: Source) -> tuple[str, ...]:
    """Names of levels, with those that stand at a place in time for what says so.

    Raises:
        RequestError: There are none, as columns become rows or have no order in time.
    """
    if columns.long is not None:
        raise RequestError(f"`{column}`: levels are named by time before columns become rows.", "Name the levels.")
    reader = columns.levels(column, banded=columns.names_bands(column))
    met, ordered = met_levels(reader, source)
    return named_in_time(names, column, met, ordered=ordered)


def _known_kind(columns: ColumnReaders, name: str) -> Kind | None:
    known = columns.known(name)
    return known.kind or (Kind.CATEGORY if known.levels else None)
