"""Which records count: levels kept or left out, and an SQL condition."""

from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from grainstack.errors import RequestError, nearest
from grainstack.records.arrow import list_offsets, places_of
from grainstack.records.columns import Columns
from grainstack.records.levels import LevelList
from grainstack.records.reading import LevelReader, NumberReader, PlainLevels
from grainstack.records.request import LevelChoice, RecordsRequest
from grainstack.records.values import Strays, as_texts
from grainstack.records.variable import Kind

Mask = npt.NDArray[np.bool_]


class Filters:
    """The filters of a request.

    Attributes:
        readers: How the columns they look at are read.
    """

    def __init__(self, request: RecordsRequest, columns: Columns) -> None:
        self._choices = [(choice, columns.levels(choice.column, banded=False)) for choice in request.level_choices()]
        self.readers: list[LevelReader | NumberReader] = [reader for _, reader in self._choices]
        self._where: _Where | None = None
        if request.where is not None:
            self._where = _Where(request.where, columns)
            self.readers += self._where.readers
        self._labels = {
            choice.column: columns.said(choice.column).label or choice.column for choice, _ in self._choices
        }

    def mask(self, raw: pa.RecordBatch, refuse: Callable[[Strays, str], None]) -> Mask:
        """Which records of a batch count, shape (records,).

        Args:
            raw: The batch.
            refuse: Called with places where other text stands in a column that a condition needs as numbers.
        """
        kept = np.ones(raw.num_rows, dtype=bool)
        for choice, reader in self._choices:
            kept &= _chosen(choice, reader, raw)
        if self._where is not None:
            kept &= self._where.mask(raw, refuse)
        return kept

    def check(self) -> None:
        """Refuses levels that no record has: a misspelt one would silently keep or drop the wrong records.

        Raises:
            RequestError: Names the level and the nearest ones.
        """
        for choice, reader in self._choices:
            levels = reader.levels  # type: ignore[attr-defined]
            known = {name for level in levels.ordered()[0] for name in (level.label, level.code)}
            for name in choice.names:
                if name not in known:
                    labels = [level.label for level in levels.ordered()[0]]
                    raise RequestError(f"`{choice.column}` has no level `{name}`.", nearest(name, labels))

    def in_words(self) -> tuple[str, ...]:
        """What is kept and left out, as a note says it."""
        said = [
            f"{'Only' if choice.keep else 'Without'} {self._labels[choice.column]}: {', '.join(choice.names)}"
            for choice, _ in self._choices
        ]
        return (*said, *([f"Only where {self._where.text}"] if self._where else []))


class _Where:
    """A condition with the readers of its columns: numbers where they are numbers, else levels."""

    def __init__(self, text: str, columns: Columns) -> None:
        from grainstack.records.conditions import Condition  # noqa: PLC0415 - the SQL parser takes a while to load

        self.text = text
        self._condition = Condition(text)
        self._condition.check_columns(columns.source.columns)
        kinds = _kinds(self._condition.columns, columns)
        numbers = {name for name, kind in kinds.items() if kind is Kind.NUMBER} | set(self._condition.number_columns())
        self._numbers = {name: columns.numbers(name) for name in numbers}
        self._levels = {name: LevelList(columns.said(name)) for name in self._condition.columns if name not in numbers}
        self.readers: list[LevelReader | NumberReader] = list(self._numbers.values())
        self.readers += [PlainLevels(columns.said(name), levels) for name, levels in self._levels.items()]

    def mask(self, raw: pa.RecordBatch, refuse: Callable[[Strays, str], None]) -> Mask:
        from grainstack.records.conditions import Operand, Words  # noqa: PLC0415 - see above

        def column(name: str) -> Operand:
            if name in self._numbers:
                numbers, strays = self._numbers[name].read(raw)
                refuse(strays, name)
                return numbers
            levels = self._levels[name]
            places = levels.encode(as_texts(raw.column(name), name))
            return Words(places, tuple(levels.names(place) for place in range(len(levels.found))))

        return self._condition.holds(column, raw.num_rows)


def _kinds(names: Sequence[str], columns: Columns) -> dict[str, Kind]:
    """The kinds of columns: what the codebook says, else what their first values suggest."""
    from grainstack.records.sample import sampled_kinds  # noqa: PLC0415 - only conditions without a codebook guess

    kinds = {name: kind for name in names if (kind := _said_kind(columns, name)) is not None}
    return kinds | sampled_kinds(columns.source, [name for name in names if name not in kinds])


def _said_kind(columns: Columns, name: str) -> Kind | None:
    said = columns.said(name)
    return said.kind or (Kind.CATEGORY if said.levels else None)


def _chosen(choice: LevelChoice, reader: LevelReader, raw: pa.RecordBatch) -> Mask:
    column = reader.read(raw)
    levels = reader.levels  # type: ignore[attr-defined]
    wanted = [place for place in range(len(levels.found)) if set(levels.names(place)) & set(choice.names)]
    if pa.types.is_list(column.type):
        offsets = list_offsets(column)
        hits = np.isin(places_of(column.values)[offsets[0] : offsets[-1]], wanted)
        inside: Mask = np.zeros(raw.num_rows, dtype=bool)
        inside[np.repeat(np.arange(raw.num_rows), np.diff(offsets))[hits]] = True
    else:
        inside = np.isin(places_of(column), wanted)
    return inside if choice.keep else ~inside
