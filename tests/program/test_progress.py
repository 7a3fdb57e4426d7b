"""What a person who waits is told."""

import io
import sys
from collections.abc import Iterator

import pytest

from grainstack.cli import progress
from grainstack.cli.progress import Progress


class Terminal(io.StringIO):
    def isatty(self) -> bool:
        return True


class Clock:
    """Time as a test lets it pass."""

    def __init__(self) -> None:
        self.now = 0.0

    def monotonic(self) -> float:
        return self.now


@pytest.fixture
def clock(monkeypatch: pytest.MonkeyPatch) -> Clock:
    clock = Clock()
    monkeypatch.setattr(progress, "time", clock)
    return clock


def _drawn(clock: Clock, seconds: float) -> Iterator[int]:
    for number in range(4):
        clock.now += seconds
        yield number


@pytest.mark.parametrize(
    ("seconds", "quiet", "told"),
    [
        (0.1, False, ""),
        (0.6, True, ""),
        (0.6, False, "\r2 of 4 made\x1b[K\r3 of 4 made\x1b[K\r4 of 4 made\x1b[K\r\x1b[K"),
    ],
)
def test_a_terminal_is_told_after_a_second_and_left_clean(
    clock: Clock, monkeypatch: pytest.MonkeyPatch, *, seconds: float, quiet: bool, told: str
) -> None:
    screen = Terminal()
    monkeypatch.setattr(sys, "stderr", screen)
    assert list(Progress(quiet=quiet).each(_drawn(clock, seconds), 4)) == [0, 1, 2, 3]
    assert screen.getvalue() == told


def test_a_file_is_told_nothing_that_moves(clock: Clock, monkeypatch: pytest.MonkeyPatch) -> None:
    log = io.StringIO()
    monkeypatch.setattr(sys, "stderr", log)
    assert len(list(Progress().each(_drawn(clock, 5), 4))) == 4
    assert log.getvalue() == ""
