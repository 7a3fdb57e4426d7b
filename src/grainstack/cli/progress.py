"""How far a command has got: a line that changes on a terminal, a line at the end elsewhere, nothing under a second."""

import sys
import time
from collections.abc import Iterable, Iterator, Sequence
from threading import Lock
from typing import TYPE_CHECKING, TypeVar

from grainstack.making.make import read_into

if TYPE_CHECKING:
    from grainstack.records.opened import Opened
    from grainstack.summary.partial import Partial

T = TypeVar("T")
_PATIENCE = 1.0  # seconds that nobody minds waiting without a word
_BETWEEN = 0.1  # seconds between two lines: often enough to be seen moving, seldom enough to cost nothing


class Progress:
    """What a person who waits is told.

    Args:
        quiet: Whether nothing is told.
    """

    def __init__(self, *, quiet: bool = False) -> None:
        self._quiet = quiet
        self._start = self._last = time.monotonic()
        self._lock = Lock()
        self._rows = 0
        self._shown = False

    def read(self, partials: "Sequence[Partial]", opened: "Opened") -> None:
        """Has records read on this machine, and tells how many were; see `read_into`."""
        self._rows = 0
        try:
            read_into(partials, opened, self._add)
        finally:
            self._clear()
        if self._is_late and not sys.stderr.isatty() and not self._quiet:
            print(f"Read {self._rows:,} records of {opened.source.name}.", file=sys.stderr)  # noqa: T201

    def parts(self, done: int, parts: int) -> None:
        """Tells how many parts a cluster has read."""
        self._tell(f"{done:,} of {parts:,} parts read")
        if done == parts:
            self._clear()

    def each(self, items: Iterable[T], count: int) -> Iterator[T]:
        """Items as they come, telling how many of the tables and charts they are were drawn.

        Args:
            items: The items.
            count: How many there will be.
        """
        try:
            for number, item in enumerate(items, 1):
                self._tell(f"{number:,} of {count:,} made")
                yield item
        finally:
            self._clear()

    def _add(self, rows: int) -> None:
        with self._lock:  # several threads read
            self._rows += rows
            self._tell(f"{self._rows:,} records read")

    @property
    def _is_late(self) -> bool:
        return time.monotonic() - self._start > _PATIENCE

    def _tell(self, text: str) -> None:
        if self._quiet or not sys.stderr.isatty() or not self._is_late or time.monotonic() - self._last < _BETWEEN:
            return
        self._last, self._shown = time.monotonic(), True
        sys.stderr.write(f"\r{text}\x1b[K")
        sys.stderr.flush()

    def _clear(self) -> None:
        if self._shown:
            sys.stderr.write("\r\x1b[K")
            sys.stderr.flush()
            self._shown = False
