"""Many tables and charts put into their formats, on as many cores as that is worth."""

import multiprocessing
import os
import signal
import sys
from collections.abc import Iterator, Sequence
from concurrent.futures import Executor, ProcessPoolExecutor
from contextlib import contextmanager
from typing import TYPE_CHECKING

from grainstack.errors import GrainStackError
from grainstack.language import speak, spoken
from grainstack.making.kind import Outputs
from grainstack.report.output_formats import outputs_of

if TYPE_CHECKING:
    from grainstack.making.make import Made

_COSTS = {".png": 0.09, ".pdf": 0.03}  # seconds, as measured for the demo; others cost less
_OTHERS = 0.012
# A copy of this process would lack the typesetter's threads, and wait for them for ever; each worker is a copy of a
# process that has loaded what drawing needs and done nothing yet.
_METHOD = "forkserver" if sys.platform == "linux" else "spawn"
_START = 1.2  # seconds until the first worker can draw
_LOADED = ["grainstack.report.output_formats", "grainstack.paint.png", "grainstack.making.kinds"]

Wanted = Sequence[tuple["Made", Sequence[str]]]
Tried = Outputs | GrainStackError


def put(wanted: Wanted, workers: int | None = None) -> Iterator[Tried]:
    """Tables and charts in their formats, in their order; the same bytes whatever the number of workers.

    Args:
        wanted: Each with the endings of its files.
        workers: How many processes draw at once; None for as many as there are cores, if starting them is worth it.

    Yields:
        For each the outputs, or why it cannot be shown like that.
    """
    count = min(_worth(wanted) if workers is None else workers, len(wanted))
    if count < 2:
        yield from (_tried(made, endings) for made, endings in wanted)
        return
    with _pool(count) as pool:
        with _uninterrupted():
            outputs = pool.map(_tried, *zip(*wanted, strict=True))
        yield from outputs


def _worth(wanted: Wanted) -> int:
    """How many workers are worth their start."""
    cores = len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1
    cost = sum(_COSTS.get(ending, _OTHERS) for _, endings in wanted for ending in endings)
    return cores if cost / cores + _START < cost else 1


@contextmanager
def _pool(count: int) -> "Iterator[Executor]":
    """Worker processes, which are ended with whatever they do if this one is interrupted."""
    method = multiprocessing.get_context(_METHOD)
    method.set_forkserver_preload(_LOADED)
    pool = ProcessPoolExecutor(count, method, speak, (spoken().name,))
    try:
        yield pool
    except BaseException:
        for process in multiprocessing.active_children():
            process.terminate()
        pool.shutdown(cancel_futures=True)
        raise
    pool.shutdown()


@contextmanager
def _uninterrupted() -> Iterator[None]:
    """Processes started meanwhile leave an interruption to this one; its threads hold no lock then."""
    before = signal.signal(signal.SIGINT, signal.SIG_IGN)
    try:
        yield
    finally:
        signal.signal(signal.SIGINT, before)


def _tried(made: "Made", endings: Sequence[str]) -> Tried:
    try:
        return outputs_of(made, endings)
    except GrainStackError as error:
        return error
