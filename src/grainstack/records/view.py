"""What one request sees of a source: its filters, bands and recodes, and every record accounted for.

A source is read once, raw, in blocks; each request has a view of its own on every block. A view pickles, and two views
of one request that have seen different blocks merge, whatever those blocks were and in whatever order they came.
"""

from collections.abc import Callable, Sequence
from functools import partial

import numpy as np
import numpy.typing as npt
import pyarrow as pa
from msgspec import Struct

from grainstack.errors import IdleError, RecordsError
from grainstack.option_names import option
from grainstack.records.arrow import Numbers, number_column, places_of
from grainstack.records.batch import Batch, Needs
from grainstack.records.codebook.codebook import Codebook
from grainstack.records.column_facts import ColumnFacts
from grainstack.records.filters.filters import Filters
from grainstack.records.missing_times import with_missing_times
from grainstack.records.numerals import Extent, extent_of
from grainstack.records.readers.column_readers import ColumnReaders
from grainstack.records.readers.levels import Rows
from grainstack.records.readers.plain import LevelReader, NumberReader, Places
from grainstack.records.readers.shared import SharedReaders
from grainstack.records.records_request import RecordsRequest
from grainstack.records.sample import sampled_kinds
from grainstack.records.source import Source
from grainstack.records.values import Strays, as_texts
from grainstack.records.variable import Kind

_LARGEST = 1e140  # the square of a sum of so large numbers, weighted, still has a place among double precision numbers


class Block(Struct, frozen=True):
    """A stretch of a source as it was read.

    Attributes:
        records: The columns asked for, raw.
        first: The number of its first record, counted from 0 over the whole source.
        place: Where a record of the source, by its number, stands in words.
        times: How many records each row stands for, shape (rows,); None where each is one.
    """

    records: pa.RecordBatch
    first: int
    place: Callable[[int], str]
    times: npt.NDArray[np.int64] | None = None


class Account(Struct, frozen=True):
    """What became of the records before anything was summed up.

    Attributes:
        read: Records read, or rows made of them.
        filtered: How many of these were left out on request.
        records: Records the rows were made of, where each gave several; None where each row is a record.
    """

    read: int
    filtered: int
    records: int | None = None


class View:
    """What one request sees of a source.

    Args:
        request: Filters, bands, recodes, several answers, long form.
        needs: The columns the request works on, by what they are read as.
        source: What the source is called, which columns it has and what its first rows suggest; it is not kept.
        codebook: What is known of the columns.
        shared: Readers that other views of the same source and codebook have already; none if it is not given.

    Attributes:
        filters: Which records count.
        levels: How each column of categories is read.
        design: The same for the columns of the survey design.
        source_notes: What had to be assumed to read the source.
        read: How many records were read so far, or rows made of them; a row that stands for many counts as many.
        kept: How many of them count.
        records: How many records the source gave.

    Raises:
        RequestError: The request names a column there is not, or contradicts itself.
    """

    def __init__(
        self,
        request: RecordsRequest,
        needs: Needs,
        source: Source,
        codebook: Codebook,
        shared: SharedReaders | None = None,
    ) -> None:
        columns = ColumnReaders(request, codebook, source, shared)
        self._columns = columns
        self.source_notes: tuple[str, ...] = ()
        self._keep_empty = request.keep_empty
        self.filters = Filters(request, columns, partial(sampled_kinds_of, source, columns), source)
        self.levels: dict[str, LevelReader] = {
            name: columns.levels(name, nets=needs.nets.get(name, ())) for name in needs.levels
        }
        self.design: dict[str, LevelReader] = {name: columns.levels(name, banded=False) for name in needs.everyone}
        self._sizes: dict[str, NumberReader] = {name: columns.numbers(name) for name in needs.populations}
        self._whole = bool(needs.everyone or needs.populations or needs.weights)
        numbers = dict.fromkeys([*needs.numbers, *needs.weights, *needs.times])
        self._numbers = {name: columns.numbers(name) for name in numbers}
        self._weights, self._times = frozenset(needs.weights), frozenset(needs.times)
        used = {*needs.levels, *numbers}
        self._others = tuple(name for name in columns.columns if name not in used) if needs.others else ()
        columns.check_used()
        columns.let_go()
        self._check_computed(request)
        self.read = self.kept = self.records = 0

    def _check_computed(self, request: RecordsRequest) -> None:
        """Refuses columns that are worked out and not looked at.

        Raises:
            IdleError: Names the first.
        """
        wanted, texts = self.raw, () if request.for_several else request.compute
        for place, text in enumerate(texts):
            name = text.partition("=")[0].strip()
            if name not in wanted and not any(name in later.partition("=")[2] for later in texts[place + 1 :]):
                raise IdleError(
                    f"{option('compute')} {name} makes no difference: nothing is shown by it.",
                    f"Show something {option('by', name)}, or leave it out.",
                )

    @property
    def source(self) -> str:
        """How messages and notes call the source."""
        return self._columns.source

    @property
    def raw(self) -> tuple[str, ...]:
        """The columns of the source it needs."""
        columns = self._wanted
        return self._columns.long.raw(columns) if self._columns.long else columns

    @property
    def _wanted(self) -> tuple[str, ...]:
        """The columns it reads, those of the long form among them."""
        levels = [reader.raw for reader in (*self.levels.values(), *self.design.values())]
        raw = [name for names in levels for name in names]
        raw += [name for reader in (*self._numbers.values(), *self._sizes.values()) for name in reader.raw]
        return tuple(dict.fromkeys([*raw, *self.filters.raw, *self._others])) or self._columns.columns[:1]

    @property
    def account(self) -> Account:
        """What became of the records read so far."""
        return Account(self.read, self.read - self.kept, self.records if self._columns.long else None)

    @property
    def takes_counts(self) -> bool:
        """Whether rows may stand for several records: not where each is told apart, gives several rows, or matters."""
        by_frequency = any(reader.by_frequency for reader in self.levels.values())
        return not (by_frequency or self._others or self._columns.long)

    def typed(self, block: Block) -> Batch:
        """The records of a block that count, typed.

        Raises:
            RecordsError: A value that cannot be; names its place.
        """
        raw, first, place = block.records, block.first, block.place
        long = self._columns.long
        if long is not None:
            raw, first = long.unfolded(raw, self._wanted), first * len(long.names)
            place = partial(long.place, place_of_row=block.place)
        kept = self.filters.mask(raw, Rows(first), partial(self._refuse, first, place, None))
        everyone = self._design_of(raw, first, place) if self._whole else None
        rows = Rows(first, None if kept is None else np.flatnonzero(kept))
        owners = None if long is None else rows.kept_of(raw.num_rows) // len(long.names)
        everyone_owners = None if long is None else np.arange(raw.num_rows) // len(long.names)
        times = block.times if block.times is None or rows.kept is None else block.times[rows.kept]
        batch = Batch(
            self._kept_of(raw, rows, place),
            everyone,
            rows.kept if self._whole else None,
            owners,
            everyone_owners if self._whole else owners,
            times,
            block.times if self._whole else times,
        )
        self.records += block.records.num_rows
        read = kept_ones = raw.num_rows
        if self._times or block.times is not None:
            stands_for = self._stands_for(raw) * (1 if block.times is None else block.times)
            read, kept_ones = int(stands_for.sum()), int(stands_for[slice(None) if kept is None else kept].sum())
        elif kept is not None:
            kept_ones = int(np.count_nonzero(kept))
        self.read += read
        self.kept += kept_ones
        return batch

    def _stands_for(self, raw: pa.RecordBatch) -> npt.NDArray[np.int64]:
        """How many records each row stands for; none where that cannot be read, which matters in rows kept only."""
        stands_for = np.ones(raw.num_rows, dtype=np.int64)
        for name in self._times:
            numbers, _ = self._numbers[name].read(raw)
            stands_for *= np.where(np.isfinite(numbers), np.maximum(numbers, 0), 0).astype(np.int64)
        return stands_for

    def merge(self, other: "View") -> tuple[dict[str, Places], dict[str, Places]]:
        """Learns what another view of the same request has seen.

        Returns:
            For each column read as levels, and for each of the design, the place here of each of its level places.
        """
        self.filters.merge(other.filters)
        self.read += other.read
        self.kept += other.kept
        self.records += other.records
        self.source_notes = tuple(dict.fromkeys((*self.source_notes, *other.source_notes)))
        levels = {name: reader.merge(other.levels[name]) for name, reader in self.levels.items()}
        return levels, {name: reader.merge(other.design[name]) for name, reader in self.design.items()}

    def note(self, notes: Sequence[str]) -> None:
        """Takes down what had to be assumed to read the source."""
        self.source_notes = tuple(dict.fromkeys((*self.source_notes, *notes)))

    def notes(self) -> tuple[str, ...]:
        """What had to be assumed while reading."""
        return (*self.source_notes, *self._columns.notes())

    def check(self) -> None:
        """Refuses filters and recodes that name a level no record has; to be called once every record was read.

        Raises:
            RequestError: Names the level and the nearest ones.
        """
        self.filters.check()
        self._columns.check_recodes(filtered=self.kept < self.read)

    def filters_in_words(self) -> tuple[str, ...]:
        """What is kept and left out, as a note says it."""
        return self.filters.in_words()

    def ranks(self) -> tuple[dict[str, Places], dict[str, Places]]:
        """Where each level place stands among the codes of `facts`, for columns read as levels and of the design."""
        levels = {name: reader.coding().ranks for name, reader in self.levels.items()}
        return levels, {name: reader.coding().ranks for name, reader in self.design.items()}

    def facts(self) -> ColumnFacts:
        """What is known of the columns once all records were read."""
        variables = {name: with_missing_times(reader.variable()) for name, reader in self.levels.items()}
        return ColumnFacts(
            variables=variables,
            numbers={name: reader.variable() for name, reader in self._numbers.items()},
            coded={name: reader.coding().codes for name, reader in self.levels.items()},
            design={name: reader.variable() for name, reader in self.design.items()},
            design_coded={name: reader.coding().codes for name, reader in self.design.items()},
            keep_empty=self._keep_empty,
            left_out={name: self.filters.left_out(variable) for name, variable in variables.items()},
        )

    def _design_of(self, raw: pa.RecordBatch, first: int, place: Callable[[int], str]) -> pa.RecordBatch:
        """The design columns of all records, kept or not."""
        data: dict[str, pa.Array] = {"row": pa.nulls(raw.num_rows)}
        for name, reader in self.design.items():
            column, _ = reader.read(raw, Rows(first))
            if column.null_count:
                record = int(np.flatnonzero(places_of(column) < 0)[0])
                raise RecordsError(
                    f"`{name}` belongs to the survey design but is empty in {place(first + record)} of {self.source}.",
                    "Every record needs it; records that were filtered away count in the design too.",
                )
            data[f"levels:{name}"] = column
        for name, number_reader in self._sizes.items():
            numbers, strays = number_reader.read(raw)
            self._refuse(first, place, None, strays, name)
            missing = np.flatnonzero(np.isnan(numbers))
            if len(missing):
                where = place(first + int(missing[0]))
                raise RecordsError(f"`{name}`: {where} of {self.source} has no population size.", "Fill it in.")
            data[f"numbers:{name}"] = number_column(numbers)
        return pa.RecordBatch.from_arrays(list(data.values()), names=list(data))

    def _kept_of(self, raw: pa.RecordBatch, rows: Rows, place: Callable[[int], str]) -> pa.RecordBatch:
        """The columns needed, of the records kept."""
        every, fewer = raw, rows.kept is not None and len(rows.kept) < raw.num_rows
        chosen = pa.array(rows.kept) if fewer else None
        if fewer:
            raw = raw.take(chosen)
        data: dict[str, pa.Array] = {}
        for name, reader in self.levels.items():
            if reader.steady and fewer:
                column, _ = reader.read(every, Rows(rows.first))
                data[f"levels:{name}"] = column.take(chosen)
                continue
            data[f"levels:{name}"], strays = reader.read(raw, rows)
            self._refuse(rows.first, place, rows.kept, strays, name)
        for name, number_reader in self._numbers.items():
            numbers, strays = number_reader.read(raw)
            self._refuse(rows.first, place, rows.kept, strays, name)
            extent = extent_of(numbers)
            self._check_size(name, numbers, extent, rows, place)
            self._check_weights(name, numbers, extent, rows, place)
            data[f"numbers:{name}"] = number_column(numbers)
        data |= {f"text:{name}": as_texts(raw.column(name), name) for name in self._others}
        if not data:
            data["row"] = pa.nulls(raw.num_rows)
        return pa.RecordBatch.from_arrays(list(data.values()), names=list(data))

    def _check_size(self, name: str, numbers: Numbers, extent: Extent, rows: Rows, place: Callable[[int], str]) -> None:
        """Refuses numbers whose squares cannot be summed up."""
        if extent.size > _LARGEST:
            row = int(np.flatnonzero(np.abs(numbers) > _LARGEST)[0])
            raise RecordsError(
                f"`{name}`: {numbers[row]:g} in {place(rows.number(row))} of {self.source} is too large to sum up.",
                "Mend it, or make it a missing code in the codebook.",
            )

    def _check_weights(
        self, name: str, numbers: Numbers, extent: Extent, rows: Rows, place: Callable[[int], str]
    ) -> None:
        """Refuses weights that are missing or negative, and multiples that are not whole."""
        usual = extent.least >= 0 and not extent.missing
        if name not in self._times and (usual or name not in self._weights):
            return
        wrong = np.isnan(numbers) | (numbers < 0)
        rule = "weights must be numbers from 0"
        if name in self._times:
            wrong |= numbers != np.round(numbers)
            rule = "numbers of records must be whole, from 0"
        if wrong.any():
            row = int(np.flatnonzero(wrong)[0])
            value = "no value" if np.isnan(numbers[row]) else f"{numbers[row]:g}"
            more = f"; so do {int(wrong.sum()) - 1:,} more" if wrong.sum() > 1 else ""
            raise RecordsError(
                f"`{name}`: {rule}, but {place(rows.number(row))} of {self.source} has {value}{more}.",
                f"Leave such records out: {option('where', f'{name} >= 0')}.",
            )

    def _refuse(
        self,
        first: int,
        place: Callable[[int], str],
        kept: npt.NDArray[np.int64] | None,
        strays: Strays,
        name: str,
    ) -> None:
        """Refuses text where numbers or dates should stand; `kept` tells which records of the block the rows are."""
        if strays:
            numbered = strays if kept is None else [(int(kept[row]), text) for row, text in strays]
            notes = self.source_notes if first + numbered[0][0] == 0 else ()
            self._columns.refuse(numbered, name, lambda record: place(first + record), notes)


def sampled_kinds_of(source: Source, columns: ColumnReaders, names: Sequence[str]) -> dict[str, Kind]:
    """The kinds of columns as the first rows of a source suggest them."""
    if not names:
        return {}
    head = source.head()
    return sampled_kinds(columns.long.unfolded(head, names) if columns.long else head, names, columns.decimal)
