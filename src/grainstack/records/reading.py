"""One pass over a source: its blocks, each with the number of its first record."""

from collections.abc import Iterator, Sequence

from grainstack.records.source import Source
from grainstack.records.view import Block


def blocks_of(source: Source, columns: Sequence[str]) -> Iterator[Block]:
    """The blocks of a source in order, with only these columns.

    Args:
        source: The records.
        columns: The columns needed.

    Raises:
        RecordsError: The rows cannot be read; names the line.
    """
    first = 0
    for records in source.batches(columns):
        yield Block(records, first, source.place)
        first += records.num_rows
