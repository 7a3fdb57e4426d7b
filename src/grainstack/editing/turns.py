"""Who may draw: one at a time, a change before small pictures, and the last change in the place of earlier ones."""

from collections.abc import Iterator
from contextlib import contextmanager
from threading import Condition, Lock

from grainstack.editing.kept_sums import StoppedError


class Turns:
    """The turns of one sitting."""

    def __init__(self) -> None:
        self._drawing, self._free = Lock(), Condition()
        self._waiting = 0
        self._last = 0

    @contextmanager
    def of_change(self, number: int) -> Iterator[None]:
        """The turn of a change, which makes all earlier ones useless.

        Args:
            number: Of the state it leads to.
        """
        with self._free:
            self._waiting += 1
            self._last = number
        try:
            with self._drawing:
                yield
        finally:
            with self._free:
                self._waiting -= 1
                self._free.notify_all()

    @contextmanager
    def of_small_picture(self) -> Iterator[None]:
        """The turn of a small picture, once no change waits."""
        with self._free:
            self._free.wait_for(lambda: not self._waiting)
        with self._drawing:
            yield

    @contextmanager
    def of_file(self) -> Iterator[None]:
        """The turn of a file that somebody waits for."""
        with self._drawing:
            yield

    def check_last(self, number: int) -> None:
        """Stops a change that a later one has made useless.

        Raises:
            StoppedError: There is a later one, or somebody wants it stopped.
        """
        if self._last != number:
            raise StoppedError("Reading was stopped.")

    def check_free_of(self, _: int) -> None:
        """Stops what is read for a small picture, for a change that waits.

        Args:
            _: How many rows were read.

        Raises:
            StoppedError: A change waits.
        """
        if self._waiting:
            raise StoppedError("A change comes first.")

    def stop(self) -> None:
        """Stops whatever is being drawn."""
        with self._free:
            self._last = -1
