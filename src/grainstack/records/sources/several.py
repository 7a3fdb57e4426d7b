"""Several files read one after the other as if they were one."""

from collections.abc import Iterator, Sequence

import pyarrow as pa

from grainstack.errors import RecordsError, listed
from grainstack.records.source import Source


class SeveralFiles:
    """Files with the same columns, in any order of columns.

    Raises:
        RecordsError: A file has other columns than the first; names them.
    """

    def __init__(self, sources: Sequence[Source]) -> None:
        self._sources = sources
        self._ends: list[int] = []
        self.columns = sources[0].columns
        self.name = f"{sources[0].name} and {len(sources) - 1} more"
        for source in sources[1:]:
            lacking = [name for name in self.columns if name not in source.columns]
            extra = [name for name in source.columns if name not in self.columns]
            if lacking or extra:
                parts = [f"lacks {listed(lacking)}"] * bool(lacking) + [f"has {listed(extra)} besides"] * bool(extra)
                raise RecordsError(
                    f"{source.name} does not go with {sources[0].name}: it {' and '.join(parts)}.",
                    "Read files with the same columns together, others one by one.",
                )

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
        self._ends = []
        count = 0
        for source in self._sources:
            for batch in source.batches(columns):
                count += batch.num_rows
                yield batch
            self._ends.append(count)

    def head(self) -> pa.RecordBatch:
        """The first rows of the first file."""
        return self._sources[0].head()

    def place(self, record: int) -> str:
        """The place in its file, with the file's name."""
        start = 0
        for source, end in zip(self._sources, self._ends, strict=False):
            if record < end:
                return f"{source.name}, {source.place(record - start)}"
            start = end
        source = self._sources[len(self._ends)] if len(self._ends) < len(self._sources) else self._sources[-1]
        return f"{source.name}, {source.place(record - start)}"
