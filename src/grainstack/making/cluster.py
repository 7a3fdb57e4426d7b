"""Records read and summed up on the machines of a Dask cluster.

Files, row groups and byte ranges become tasks; each gives partial sums, which are merged as a tree on the cluster. Only
what has been merged comes back, so the table is the same, to the last bit, as that of one machine.
"""

import logging
import pickle
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from copy import deepcopy
from functools import partial
from importlib.metadata import version
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from grainstack.errors import GrainStackError, RecordsError, RequestError
from grainstack.language import speaking, spoken
from grainstack.records.opened import Opened
from grainstack.records.source import Partible, Ranged, Source, stretches_of
from grainstack.records.view import Block
from grainstack.summary.partial import Partial

if TYPE_CHECKING:
    from distributed import Client

Progress = Callable[[int, int], None]
_PART = 1 << 26  # bytes: some seconds of work, so that handing it out costs nothing
_SHIFT = 36  # bits of a record's number within its part; the number of the part stands above them
_PATIENCE = 10  # seconds that a scheduler has to answer, and a worker to turn up
_ATTEMPTS = 2  # times that a task is begun again when its worker is lost
_PACKAGES = ("grainstack", "numpy", "pyarrow")


class PartDone(Struct, frozen=True):
    """What became of a part.

    Attributes:
        partials: The sums.
        began: The byte at which its first record starts; None where the part is no range of bytes.
        ended: The byte at which the record after its last one starts; likewise.
        failure: Why it could not be read.
    """

    partials: Sequence[Partial]
    began: int | None = None
    ended: int | None = None
    failure: GrainStackError | None = None


def read_on_cluster(partials: Sequence[Partial], opened: Opened, scheduler: str, progress: Progress) -> None:
    """Reads the records once, on the machines of a cluster.

    Args:
        partials: What takes the records in.
        opened: The records; every machine must find them under the same name.
        scheduler: The address of the cluster's scheduler.
        progress: Told how many parts of how many are done.

    Raises:
        RequestError: The cluster cannot be used.
        RecordsError: Records that cannot be read.
    """
    source = opened.source
    parts = source.parts(_PART) if isinstance(source, Partible) else [source]
    columns = tuple(dict.fromkeys(name for one in partials for name in one.view.raw))
    try:
        pickle.dumps(parts)
    except TypeError:
        raise RequestError(
            f"{source.name} cannot be read by other machines.", "Save it as a file that all of them find."
        ) from None
    with _connected(scheduler) as client, _explained():
        _check_workers(client)
        tasks = _Tasks(client, deepcopy(list(partials)), columns)
        done = [tasks.submit(part, number) for number, part in enumerate(parts)]
        done = tasks.checked(parts, done, progress)
        for one, added in zip(partials, tasks.merged(done), strict=True):
            one.merge(added)


class _Tasks:
    """The parts of a source as tasks of a cluster."""

    def __init__(self, client: "Client", fresh: Sequence[Partial], columns: Sequence[str]) -> None:
        self._client = client
        self._fresh = client.scatter(fresh, broadcast=True, hash=False)
        self._columns = columns

    def submit(self, part: Source, number: int) -> Any:  # noqa: ANN401 - a future
        """Has a part read."""
        return self._client.submit(
            absorb_part, self._fresh, part, number, self._columns, spoken().name, pure=False, retries=_ATTEMPTS
        )

    def checked(self, parts: Sequence[Source], done: Sequence[Any], progress: Progress) -> list[Any]:
        """The parts done, each from where the one before it ended; those that were not are read again.

        Raises:
            RecordsError: Records that cannot be read.
        """
        checked, ended = [], None
        for number, part in enumerate(parts):
            task = done[number]
            outcome = self._client.submit(outcome_of, task).result()
            if isinstance(part, Ranged) and ended is not None and outcome.began not in (None, 0, ended):
                task = self.submit(part.starting_at(ended), number)
                outcome = self._client.submit(outcome_of, task).result()
            if outcome.failure is not None:
                raise outcome.failure
            ended = outcome.ended
            checked.append(task)
            progress(number + 1, len(parts))
        return checked

    def merged(self, done: Sequence[Any]) -> Sequence[Partial]:
        """All sums together: pairs merge on the cluster until one is left."""
        level = [self._client.submit(partials_of, one) for one in done]
        while len(level) > 1:
            pairs = [level[place : place + 2] for place in range(0, len(level), 2)]
            level = [self._client.submit(merged, *pair) if len(pair) == 2 else pair[0] for pair in pairs]
        result: Sequence[Partial] = level[0].result()
        return result


def absorb_part(fresh: Sequence[Partial], part: Source, number: int, columns: Sequence[str], language: str) -> PartDone:
    """Reads a part, on a worker.

    Args:
        fresh: Partials that have seen nothing; they are copied.
        part: What is read.
        number: Which part it is, for the numbers of its records.
        columns: The columns needed.
        language: In which levels without a name of their own are named.
    """
    with speaking(language):
        return _absorbed(deepcopy(list(fresh)), part, number, columns)


def _absorbed(partials: list[Partial], part: Source, number: int, columns: Sequence[str]) -> PartDone:
    first = begin = number << _SHIFT
    place = partial(_place, part, begin)
    failure: GrainStackError | None = None
    try:
        for stretch in stretches_of(part, columns):
            records = stretch()
            for one in partials:
                one.absorb(Block(records, first, place))
            first += records.num_rows
    except GrainStackError as error:
        failure = error
    for one in partials:
        one.view.note(part.notes)
    began, ended = (part.span_read() if isinstance(part, Ranged) else None) or (None, None)
    return PartDone((), began, ended, failure) if failure else PartDone(partials, began, ended)


def _place(part: Source, begin: int, record: int) -> str:
    return part.place(record - begin)


def outcome_of(done: PartDone) -> PartDone:
    """A part done without its sums, which stay where they are."""
    return PartDone((), done.began, done.ended, done.failure)


def partials_of(done: PartDone) -> Sequence[Partial]:
    """The sums of a part."""
    return done.partials


def merged(some: Sequence[Partial], others: Sequence[Partial]) -> Sequence[Partial]:
    """Sums of two parts together; neither is changed, for another task may need it again."""
    result = deepcopy(list(some))
    for one, added in zip(result, deepcopy(list(others)), strict=True):
        one.merge(added)
    return result


def versions() -> dict[str, str]:
    """The versions of what has to be the same everywhere."""
    return {name: version(name) for name in _PACKAGES}


@contextmanager
def _connected(scheduler: str) -> "Iterator[Client]":
    """A client of the cluster."""
    try:
        from distributed import Client  # noqa: PLC0415 - an optional part
    except ImportError:
        raise RequestError(
            "Reading on a cluster needs the package distributed, which is not installed.",
            "Install it: pip install 'grainstack[cluster]'.",
        ) from None
    for name in ("distributed", "tornado", "asyncio"):
        logging.getLogger(name).setLevel(logging.CRITICAL + 1)
    try:
        client = Client(scheduler, timeout=_PATIENCE, set_as_default=False)
    except (OSError, TimeoutError, ValueError) as reason:
        raise RequestError(
            f"No scheduler answers at {scheduler}.", "Check its address, and that it runs: dask scheduler."
        ) from reason
    try:
        yield client
    finally:
        client.close(timeout=_PATIENCE)


def _check_workers(client: "Client") -> None:
    """Refuses a cluster without workers, and workers that are not like this machine."""
    try:
        client.wait_for_workers(1, timeout=_PATIENCE)
    except TimeoutError:
        raise RequestError("The cluster has no worker.", "Start some: dask worker ADDRESS.") from None
    mine = versions()
    for worker, theirs in client.run(versions, on_error="return").items():
        if isinstance(theirs, ImportError):
            raise RequestError(
                f"Worker {worker} cannot load what it needs: {theirs}.", "Install grainstack[cluster] there too."
            )
        if isinstance(theirs, BaseException):
            raise RequestError(f"Worker {worker} does not answer as it should: {theirs}.")
        different = [f"{name} {theirs[name]} instead of {mine[name]}" for name in mine if theirs[name] != mine[name]]
        if different:
            raise RequestError(
                f"Worker {worker} has {', '.join(different)}.", "Install the same versions on every machine."
            )


@contextmanager
def _explained() -> Iterator[None]:
    """Turns what Dask says of workers that are lost into one message."""
    from distributed.client import FutureCancelledError  # noqa: PLC0415 - loaded by now
    from distributed.comm.core import CommClosedError  # noqa: PLC0415
    from distributed.scheduler import KilledWorker  # noqa: PLC0415

    try:
        yield
    except KilledWorker as reason:
        raise RecordsError(
            "Workers were lost again and again while they read a part of the records.",
            "They may lack memory: give them more, or start more of them.",
        ) from reason
    except (CommClosedError, FutureCancelledError, TimeoutError) as reason:
        raise RecordsError(
            "The connection to the cluster was lost.", "See whether its scheduler still runs."
        ) from reason
