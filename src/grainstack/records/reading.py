"""One pass over a source: its blocks, each with the number of its first record, on as many cores as there are."""

import os
from collections.abc import Callable, Iterator, Sequence
from itertools import chain, islice
from threading import Condition, Lock, Thread

from grainstack.errors import RecordsError
from grainstack.records.source import Countable, Source, Stretch, stretches_of
from grainstack.records.view import Block

Absorb = Callable[[Block], None]
_MOST_THREADS = 8  # beyond which taking stretches in order keeps more cores waiting than it feeds


def read_blocks(source: Source, columns: Sequence[str], absorb: Absorb, another: Callable[[], Absorb]) -> None:
    """Gives every block of a source to something that absorbs it.

    Args:
        source: The records.
        columns: The columns needed.
        absorb: Takes a block in; called for some blocks, always by one thread.
        another: Makes one more such function, for another thread; what these have taken in is the caller's to merge.

    Raises:
        RecordsError: The rows cannot be read; names the line. Of several, the one that comes first.
    """
    stretches = stretches_of(source, columns)
    first = list(islice(stretches, min(_cores(), _MOST_THREADS)))
    work = _Work(source, chain(first, stretches))
    helpers = [Thread(target=work.go_on, args=(another(),), daemon=True) for _ in first[1:]]
    for helper in helpers:
        helper.start()
    work.go_on(absorb)
    for helper in helpers:
        helper.join()
    work.check()


def read_counted(source: Source, columns: Sequence[str], another: Callable[[], Absorb]) -> bool:
    """Gives the different rows of a source, each with how often it occurs, to something that absorbs them.

    Args:
        source: The records.
        columns: The columns needed.
        another: Makes what takes the blocks in.

    Returns:
        Whether that was done. If not, what was absorbed is of no use and the rows are to be read one by one: grouping
        is not worth while, or a value cannot be, and only the records themselves tell which one it is in.
    """
    counted = source.counted(columns) if isinstance(source, Countable) else None
    if counted is None:
        return False
    absorb, first = another(), 0
    try:
        for records, times in counted:
            absorb(Block(records, first, source.place, times))
            first += records.num_rows
    except RecordsError:
        return False
    return True


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


class _Work:
    """Stretches that are handed out in order, and how far each of them got."""

    def __init__(self, source: Source, stretches: Iterator[Stretch]) -> None:
        self._source = source
        self._stretches = enumerate(stretches)
        self._taking = Lock()
        self._counted = Condition()
        self._firsts = {0: 0}  # the first record of the next stretch to be numbered
        self._failures: dict[int, BaseException] = {}
        self._taken = -1

    def go_on(self, absorb: Absorb) -> None:
        """Reads stretches and absorbs them until none is left or one failed."""
        while not self._failures:
            number = self._taken + 1
            try:
                with self._taking:
                    number = self._taken + 1
                    taken = next(self._stretches, None)
                    if taken is None:
                        return
                    self._taken = number
                records = taken[1]()
                first = self._first_record(number, records.num_rows)
                if first is not None:
                    absorb(Block(records, first, self._source.place))
            except BaseException as failure:  # noqa: BLE001 - raised again by `check`, in the thread that asked
                with self._counted:
                    self._failures[number] = failure
                    self._counted.notify_all()

    def check(self) -> None:
        """Raises what went wrong first."""
        if self._failures:
            raise self._failures[min(self._failures)]

    def _first_record(self, number: int, count: int) -> int | None:
        """The number of a stretch's first record, once all stretches before it are read; None where one failed."""
        with self._counted:
            while number not in self._firsts and not self._failed_before(number):
                self._counted.wait()
            first = self._firsts.pop(number, None)
            if first is not None:
                self._firsts[number + 1] = first + count
                self._counted.notify_all()
            return first

    def _failed_before(self, number: int) -> bool:
        return any(failed < number for failed in self._failures)


def _cores() -> int:
    """How many cores this process may use."""
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1
