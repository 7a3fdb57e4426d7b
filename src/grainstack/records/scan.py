"""One pass over the records: read, filtered, typed, and every one of them accounted for."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from grainstack.errors import RecordsError, RequestError, nearest
from grainstack.records.arrow import Numbers, number_column, places_of
from grainstack.records.batch import Batch, Needs
from grainstack.records.codebook import Codebook
from grainstack.records.columns import Columns
from grainstack.records.filters import Filters
from grainstack.records.found import Found
from grainstack.records.numerals import parsed
from grainstack.records.request import RecordsRequest
from grainstack.records.sources import Source
from grainstack.records.values import Strays, as_texts


@dataclass(frozen=True, slots=True)
class Account:
    """What became of the records before anything was summed up."""

    read: int
    filtered: int


class Scan:
    """Typed batches of the records a request keeps, with the columns a task needs.

    Iterate over it once; afterwards `account`, `found` and `notes` tell what was met.
    """

    def __init__(self, request: RecordsRequest, needs: Needs, source: Source, codebook: Codebook | None = None) -> None:
        self._source = source
        self._columns = Columns(request, codebook or Codebook(), source)
        self._filters = Filters(request, self._columns)
        self._needs = needs
        self._keep_empty = request.keep_empty
        self._levels = {name: self._columns.levels(name) for name in needs.levels}
        self._everyone = {name: self._columns.levels(name, banded=False) for name in needs.everyone}
        self._sizes = {name: self._columns.numbers(name) for name in needs.populations}
        self._whole = bool(needs.everyone or needs.populations or needs.weights)
        numbers = dict.fromkeys([*needs.numbers, *needs.weights, *needs.times])
        self._numbers = {name: self._columns.numbers(name) for name in numbers}
        self._read = 0
        self._kept = 0

    @property
    def source_name(self) -> str:
        """How messages and notes call the file."""
        return self._source.name

    @property
    def notes(self) -> tuple[str, ...]:
        """What had to be assumed while reading."""
        return (*self._source.notes, *self._columns.notes())

    @property
    def account(self) -> Account:
        """What became of the records read so far."""
        return Account(self._read, self._read - self._kept)

    @property
    def filters_in_words(self) -> tuple[str, ...]:
        """What is kept and left out, as a note says it."""
        return self._filters.in_words()

    def __iter__(self) -> Iterator[Batch]:
        raw = [reader.raw for reader in (*self._levels.values(), *self._numbers.values(), *self._filters.readers)]
        raw += [reader.raw for reader in self._everyone.values()] + [reader.raw for reader in self._sizes.values()]
        raw_columns = list(dict.fromkeys(name for names in raw for name in names))
        for part in self._columns.source.batches(raw_columns):
            kept = self._filters.mask(part, self._refuse)
            everyone = self._design(part) if self._whole else None
            batch = Batch(self._typed(part, kept), everyone, np.flatnonzero(kept) if self._whole else None)
            self._read += part.num_rows
            self._kept += len(batch)
            yield batch
        self._filters.check()
        self._columns.check_recodes(filtered=self._kept < self._read)

    def found(self) -> Found:
        """What is known of the columns once all records were read."""
        return Found(
            variables={name: reader.variable() for name, reader in (self._everyone | self._levels).items()},
            numbers={name: reader.variable() for name, reader in self._numbers.items()},
            coded={name: reader.codes() for name, reader in (self._levels | self._everyone).items()},
            keep_empty=self._keep_empty,
        )

    def _design(self, raw: pa.RecordBatch) -> pa.RecordBatch:
        """The design columns of all records, kept or not."""
        data = {"row": number_column(np.zeros(raw.num_rows))}
        for name, reader in self._everyone.items():
            column = reader.read(raw)
            if column.null_count:
                record = int(np.flatnonzero(places_of(column) < 0)[0])
                place = self._columns.source.place(self._read + record)
                raise RecordsError(
                    f"`{name}` belongs to the survey design but is empty in {place} of {self._source.name}.",
                    "Every record needs it; records that were filtered away count in the design too.",
                )
            data[f"levels:{name}"] = column
        for name, number_reader in self._sizes.items():
            numbers, strays = number_reader.read(raw)
            self._refuse(strays, name)
            self._check_present(name, numbers)
            data[f"numbers:{name}"] = number_column(numbers)
        return pa.RecordBatch.from_arrays(list(data.values()), names=list(data))

    def _check_present(self, name: str, numbers: Numbers) -> None:
        if np.isnan(numbers).any():
            place = self._columns.source.place(self._read + int(np.flatnonzero(np.isnan(numbers))[0]))
            raise RecordsError(f"`{name}`: {place} of {self._source.name} has no population size.", "Fill it in.")

    def _typed(self, raw: pa.RecordBatch, kept: npt.NDArray[np.bool_]) -> pa.RecordBatch:
        """The columns needed, of the records kept."""
        if not kept.all():
            raw = raw.take(pa.array(np.flatnonzero(kept)))
        rows = np.flatnonzero(kept)
        data: dict[str, pa.Array] = {}
        for name, reader in self._levels.items():
            data[f"levels:{name}"] = reader.read(raw)
            self._refuse(_at(getattr(reader, "strays", []), rows), name)
        for name, number_reader in self._numbers.items():
            numbers, strays = number_reader.read(raw)
            self._refuse(_at(strays, rows), name)
            self._check_weights(name, numbers, rows)
            data[f"numbers:{name}"] = number_column(numbers)
        if not data:
            data["row"] = number_column(np.zeros(len(rows)))
        return pa.RecordBatch.from_arrays(list(data.values()), names=list(data))

    def differing(self, cell: dict[str, str]) -> list[str]:
        """The other category-like columns in which the kept records of one cell differ.

        Args:
            cell: For columns read as levels, the label of the level.
        """
        readers = {name: self._columns.levels(name) for name in cell}
        others = [name for name in self._columns.source.columns if name not in cell]
        seen: dict[str, set[str]] = {name: set() for name in others}
        for raw in self._columns.source.batches(self._columns.source.columns):
            inside = self._filters.mask(raw, self._refuse)
            for name, reader in readers.items():
                places = places_of(reader.read(raw))
                labels = {level.code: level.label for level in reader.variable().levels}
                wanted = [place for place, code in enumerate(reader.codes()) if labels.get(code) == cell[name]]
                inside = inside & np.isin(places, wanted)
            rows = raw.take(pa.array(np.flatnonzero(inside)))
            for name in others:
                seen[name].update(text or "" for text in as_texts(rows.column(name), name).to_pylist())
        most = max((len(texts) for texts in seen.values()), default=0)
        return [name for name in others if 1 < len(seen[name]) <= most and not _measured(seen[name])]

    def _check_weights(self, name: str, numbers: Numbers, rows: npt.NDArray[np.int64]) -> None:
        """Refuses weights that are missing or negative, and multiples that are not whole."""
        if name not in self._needs.weights and name not in self._needs.times:
            return
        wrong = np.isnan(numbers) | (numbers < 0)
        said = "weights must be numbers from 0"
        if name in self._needs.times:
            wrong |= numbers != np.round(numbers)
            said = "numbers of records must be whole, from 0"
        if wrong.any():
            record = int(np.flatnonzero(wrong)[0])
            value = "no value" if np.isnan(numbers[record]) else f"{numbers[record]:g}"
            place = self._columns.source.place(self._read + int(rows[record]))
            more = f"; so do {int(wrong.sum()) - 1:,} more" if wrong.sum() > 1 else ""
            raise RecordsError(
                f"`{name}`: {said}, but {place} of {self._source.name} has {value}{more}.",
                f'Leave such records out: --where "{name} >= 0".',
            )

    def _refuse(self, strays: Strays, name: str) -> None:
        self._columns.refuse(strays, name, self._read)


def _measured(texts: set[str]) -> bool:
    """Whether a few values look like measurements rather than like codes or years."""
    numbers = [value for text in texts if (value := parsed(text)) is not None and not np.isnan(value)]
    return len(numbers) == len(texts) and (max(numbers) > 2200 or any(value % 1 for value in numbers))


def check_columns(columns: Iterable[str], source: Source) -> None:
    """Refuses columns a source does not have.

    Raises:
        RequestError: Names the column and the nearest ones there are.
    """
    for column in columns:
        if column not in source.columns:
            raise RequestError(f"{source.name} has no column `{column}`.", nearest(column, source.columns))


def _at(strays: Strays, rows: npt.NDArray[np.int64]) -> Strays:
    return [(int(rows[record]), text) for record, text in strays]
