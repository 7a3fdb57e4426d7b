"""Several files read one after the other as if they were one."""

from collections.abc import Iterator, Sequence
from functools import partial
from itertools import accumulate

import numpy as np
import pyarrow as pa

from grainstack.errors import RecordsError, listed
from grainstack.records.arrow import level_column
from grainstack.records.source import FILE, Partible, Ranged, Source, Stretch, stem_of, stretches_of


class SeveralFiles:
    """Files with the same columns, in any order of columns, and one more that tells the file of each record.

    Raises:
        RecordsError: A file has other columns than the first; names them.
    """

    def __init__(self, sources: Sequence[Source]) -> None:
        self._sources = sources
        self._counts: list[list[int]] = []  # for each the rows of the stretches read so far
        self._tells_file = FILE not in sources[0].columns
        self.columns = (*sources[0].columns, *((FILE,) if self._tells_file else ()))
        self.name = " and ".join(source.name for source in sources)
        if len(sources) > 2:
            self.name = f"{sources[0].name} and {len(sources) - 1} more"
        for source in sources[1:]:
            lacking = [name for name in sources[0].columns if name not in source.columns]
            extra = [name for name in source.columns if name not in sources[0].columns]
            if lacking or extra:
                parts = [f"lacks {listed(lacking)}"] * bool(lacking) + [f"has {listed(extra)} besides"] * bool(extra)
                raise RecordsError(
                    f"{source.name} does not go with {sources[0].name}: it {' and '.join(parts)}.",
                    "Read files with the same columns together, others one by one.",
                )

    @property
    def files(self) -> tuple[str, ...]:
        """How messages call each file, in order."""
        return tuple(source.name for source in self._sources)

    @property
    def notes(self) -> tuple[str, ...]:
        """What had to be assumed of any of them."""
        return tuple(note for source in self._sources for note in source.notes)

    @property
    def decimal(self) -> str:
        """The sign before decimals in the first of them."""
        return self._sources[0].decimal

    def batches(self, columns: Sequence[str]) -> Iterator[pa.RecordBatch]:
        """The rows of the first file, then those of the next."""
        for stretch in self.stretches(columns):
            yield stretch()

    def stretches(self, columns: Sequence[str]) -> Iterator[Stretch]:
        """The same in stretches that can be read on several cores at once."""
        self._counts = [[] for _ in self._sources]
        for number, source in enumerate(self._sources):
            held = [name for name in columns if name in source.columns] or list(source.columns[:1])
            for stretch in stretches_of(source, held):
                yield partial(self._counted, number, stretch, tuple(columns))

    def _counted(self, number: int, stretch: Stretch, columns: tuple[str, ...]) -> pa.RecordBatch:
        batch = stretch()
        self._counts[number].append(batch.num_rows)
        return self._with_file(batch, number, columns)

    def _with_file(self, batch: pa.RecordBatch, number: int, columns: Sequence[str]) -> pa.RecordBatch:
        """Some columns of a batch, the name of its file among them where that is wanted."""
        if not self._tells_file or FILE not in columns:
            return batch
        name = stem_of(self._sources[number].name)
        file = level_column(np.zeros(batch.num_rows, dtype=np.int32), (name,))
        arrays = [file if column == FILE else batch.column(column) for column in columns]
        return pa.RecordBatch.from_arrays(arrays, names=list(columns))

    def parts(self, size: int) -> list[Source]:
        """The parts of all files, each by the name of its file."""
        every = [part for one in self._sources for part in (one.parts(size) if isinstance(one, Partible) else [one])]
        return [SeveralFiles([part]) for part in every]

    def span_read(self) -> tuple[int, int] | None:
        """Which bytes were read, where this is one part of one file."""
        part = self._sources[0]
        return part.span_read() if isinstance(part, Ranged) else None

    def starting_at(self, place: int) -> "SeveralFiles":
        """The same part of one file from where a record is known to start."""
        part = self._sources[0]
        return SeveralFiles([part.starting_at(place)]) if isinstance(part, Ranged) else self

    def head(self) -> pa.RecordBatch:
        """The first rows of the first file."""
        return self._with_file(self._sources[0].head(), 0, self.columns)

    def place(self, record: int) -> str:
        """The place in its file, with the file's name."""
        counts = [sum(read) for read in self._counts]
        number = next((number for number, end in enumerate(accumulate(counts)) if record < end), len(counts) - 1)
        source = self._sources[number]
        return f"{source.name}, {source.place(record - sum(counts[:number]))}"
