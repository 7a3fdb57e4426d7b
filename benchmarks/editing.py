"""How long the page waits for a change, without the browser: at a hundred thousand records and at ten million.

Milliseconds of this machine, beside what a user is promised. Run it: python benchmarks/editing.py [RECORDS …]
"""

import os
import sys
import tempfile
from pathlib import Path
from statistics import median
from time import perf_counter
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq

from grainstack.cli.edit import open_page
from grainstack.editing.session import Session
from grainstack.editing.state import Change

ROUNDS = 5
MOST = {100_000: 150, 10_000_000: 400}  # milliseconds from a change to the picture
CHANGES: dict[str, dict[str, Any]] = {
    "another title": {"title": "New"},
    "a subtitle": {"subtitle": "Below"},
    "another palette": {"palette": "kiln"},
    "one colour": {"color": ["a 1=#1a726a"]},
    "a highlight": {"highlight": "b 1"},
    "largest first": {"order": "largest-first"},
    "series by name": {"split_order": "alphabetical"},
    "lying bars": {"direction": "horizontal"},
    "side by side": {"layout": "grouped"},
    "percent": {"layout": "percent"},
    "shares": {"stat": ["share"], "layout": "grouped"},
    "shares of all": {"stat": ["share"], "base": "all", "layout": "grouped"},
    "three kept": {"keep_top": 3},
    "totals": {"totals": True},
    "another size": {"size": "120x80mm"},
    "no labels": {"label": "none"},
    "legend below": {"legend": "bottom"},
    "a reference line": {"reference": ["10000=Goal"], "layout": "grouped"},
    "a note": {"annotation": ["top-right: here"]},
    "a footnote": {"footnote": "By the way"},
}


def records(file: Path, rows: int) -> None:
    """Writes records of a few levels and a number."""
    random = np.random.default_rng(7)
    names = {"a": 6, "b": 5, "c": 12}
    columns = {
        name: pa.DictionaryArray.from_arrays(
            random.integers(0, count, rows, dtype=np.int32), [f"{name} {level}" for level in range(count)]
        )
        for name, count in names.items()
    }
    pq.write_table(pa.table({**columns, "x": random.gamma(2, 5, rows).round(1)}), file)


def milliseconds(session: Session, options: dict[str, Any]) -> float:
    """How long a change takes that reads nothing; it is taken back each time."""
    times = []
    for _ in range(ROUNDS):
        start = perf_counter()
        answer = session.change(Change(options))
        times.append((perf_counter() - start) * 1000)
        if answer.drawn is None or answer.drawn.fault:
            raise AssertionError(answer.drawn)
        session.undo()
    return median(times)


def main() -> None:
    """Prints a line for each change."""
    for rows in map(int, sys.argv[1:] or map(str, MOST)):
        with tempfile.TemporaryDirectory() as folder:
            os.chdir(folder)
            records(Path("x.parquet"), rows)
            start = perf_counter()
            server = open_page(("x.parquet",), None)
            server.session.change(Change({"by": ["a"], "split": "b", "layout": "stacked"}))
            print(f"{rows:>10,} records  opened and read: {(perf_counter() - start) * 1000:6.0f} ms")
            for name, options in CHANGES.items():
                took = milliseconds(server.session, options)
                print(f"{rows:>10,} records  {name:<18} {took:6.0f} ms of {MOST.get(rows, 0)}")
            server.server_close()
            os.chdir("/")


if __name__ == "__main__":
    main()
