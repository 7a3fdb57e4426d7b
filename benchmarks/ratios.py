"""Two pieces of work timed in turn, so that a machine that slows down slows both."""

import time
from collections.abc import Callable
from statistics import median

RUNS = 7


def seconds(work: Callable[[], object]) -> float:
    """How long some work takes."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def ratio(label: str, one: Callable[[], object], other: Callable[[], object], most: float, *, runs: int = RUNS) -> None:
    """Prints the median of the ratios of two pieces of work done in turn."""
    one()
    other()
    timed = [(seconds(one), seconds(other)) for _ in range(runs)]
    found = median(first / second for first, second in timed)
    ours, plain = (median(column) for column in zip(*timed, strict=True))
    print(f"{label:45} {found:6.2f} (at most {most:g})   {ours:.3f} s against {plain:.3f} s")
