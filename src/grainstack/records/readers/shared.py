"""What the views of one source have in common: readers of columns they want read alike, which read each block once."""

from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

import pyarrow as pa

R = TypeVar("R")


class SharedReaders:
    """Readers by what they read and how; a view that wants the same as another gets the same reader."""

    def __init__(self) -> None:
        self._readers: dict[Hashable, object] = {}

    def get(self, key: Hashable, make: Callable[[], R]) -> R:
        """The reader of that key; made if there is none yet.

        Args:
            key: Everything that decides what the reader gives for a block.
            make: Makes the reader.
        """
        if key not in self._readers:
            self._readers[key] = make()
        return self._readers[key]  # type: ignore[return-value] # the key says which type it has


class LastRead(Generic[R]):
    """What a reader gave for the column it read last, for the next view that hands it the same one."""

    def __init__(self) -> None:
        self._column: pa.Array | None = None  # held, so that its memory is not another column's meanwhile
        self._first = -1
        self._result: R | None = None

    def __reduce__(self) -> "tuple[type[LastRead[R]], tuple[()]]":
        """A copy remembers nothing."""
        return LastRead, ()

    def get(self, column: pa.Array, first: int, read: Callable[[], R]) -> R:
        """What is read of a column.

        Args:
            column: The column of a block.
            first: The number of its first record.
            read: Reads it, if it was not read last.
        """
        if self._result is None or self._first != first or not _is_same(column, self._column):
            self._result = read()
            self._column, self._first = column, first
        return self._result


def _is_same(one: pa.Array, other: pa.Array | None) -> bool:
    """Whether two columns are the same stretch of memory."""
    return other is not None and _stretch(one) == _stretch(other)


def _stretch(column: pa.Array) -> tuple[object, ...]:
    buffers = [None if buffer is None else buffer.address for buffer in column.buffers()]
    if pa.types.is_dictionary(column.type):
        buffers += [None if buffer is None else buffer.address for buffer in column.dictionary.buffers()]
    return (column.type, column.offset, len(column), *buffers)
