"""Calls of a database driver that a signal can end: Python hears of signals between its own steps only."""

from collections.abc import Callable, Iterator
from contextlib import suppress
from threading import Thread
from typing import Any

import pyarrow as pa

_LISTENS = 0.05  # seconds between two looks for a signal
_PATIENCE = 1.5  # seconds for a driver to give up after it was told to


class StoppableCursor:
    """A cursor of a driver whose calls run beside the thread that hears signals.

    Where one comes, the server is told to cancel the query, and the signal goes on. Until the driver has given up, the
    cursor stays open: nobody may close it under its hands.

    Args:
        cursor: The cursor of an ADBC driver.
    """

    def __init__(self, cursor: Any) -> None:  # noqa: ANN401 - ADBC cursors carry no types
        self._cursor = cursor
        self._is_busy = False

    @property
    def description(self) -> Any:  # noqa: ANN401
        """The columns of the result."""
        return self._cursor.description

    def execute(self, sql: str, values: tuple[object, ...] | None = None) -> None:
        """Sends a query."""
        self._run(lambda: self._cursor.execute(sql, values))

    def fetchall(self) -> list[tuple[Any, ...]]:
        """All rows of the result."""
        return list(self._run(self._cursor.fetchall))

    def fetchone(self) -> Any:  # noqa: ANN401
        """The next row of the result."""
        return self._run(self._cursor.fetchone)

    def batches(self) -> Iterator[pa.RecordBatch]:
        """The rows of the result."""
        reader = self._run(self._cursor.fetch_record_batch)
        while (batch := self._run(lambda: next(reader, None))) is not None:
            yield batch

    def close(self) -> None:
        """Closes it, unless its driver is still at work."""
        if not self._is_busy:
            self._cursor.close()

    @property
    def is_busy(self) -> bool:
        """Whether its driver is still at work after it was told to stop."""
        return self._is_busy

    def _run(self, call: Callable[[], Any]) -> Any:  # noqa: ANN401
        """What a call gives; a signal on the way cancels it.

        Raises:
            Exception: What the call raised.
        """
        self._is_busy = True
        found = beside_signals(call, self._cursor.adbc_cancel, self._gave_up)
        self._is_busy = False
        return found

    def _gave_up(self) -> None:
        self._is_busy = False


def beside_signals(
    call: Callable[[], Any], cancel: Callable[[], object] = lambda: None, ended: Callable[[], object] = lambda: None
) -> Any:  # noqa: ANN401
    """What a call gives, made in a thread of its own while this one hears signals.

    Args:
        call: The call.
        cancel: Tells whoever is called to stop; a driver that cannot is left to itself.
        ended: Called where it came to an end without giving anything.

    Raises:
        BaseException: What the call raised, or the signal.
    """
    given: list[Any] = []
    failed: list[BaseException] = []

    def running() -> None:
        try:
            given.append(call())
        except BaseException as failure:  # noqa: BLE001 - raised again in the thread that asked
            failed.append(failure)

    thread = Thread(target=running, daemon=True)
    thread.start()
    try:
        while thread.is_alive():
            thread.join(_LISTENS)
    except BaseException:
        with suppress(Exception):
            cancel()
        thread.join(_PATIENCE)
        if not thread.is_alive():
            ended()
        raise
    if failed:
        ended()
        raise failed[0]
    return given[0]
