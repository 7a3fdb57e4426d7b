"""A plan of twenty charts on one source against one of its charts: whole processes in turn, as a ratio.

The records are read once for all of them, so that the rest should cost little. Then how long a watched plan takes from
a saved title to the new picture, beside making it from nothing. Pass a number of rows to try another size.
"""

import subprocess
import sys
import tempfile
import time
from pathlib import Path
from statistics import median

import numpy as np
import pyarrow as pa
from pyarrow import csv

ROWS = 5_000_000
CHARTS = 20
RUNS = 3
TARGET = 1.5
GRAINSTACK = str(Path(sys.executable).with_name("grainstack"))


def make(folder: Path, rows: int) -> None:
    """Writes the records, and plans of one and of many charts.

    Args:
        folder: Where to.
        rows: How many records.
    """
    draw = np.random.default_rng(7)
    columns = {
        "route": pa.array([f"route {n}" for n in range(6)]).take(pa.array(draw.integers(0, 6, rows))),
        "ticket": pa.array(["app", "web", "desk", "board"]).take(pa.array(draw.integers(0, 4, rows))),
        "season": pa.array(["spring", "summer", "autumn", "winter"]).take(pa.array(draw.integers(0, 4, rows))),
        "wait": pa.array(np.round(draw.gamma(3, 5, rows), 1)),
        "id": pa.array(np.arange(rows)),  # what no chart asks for, as in the records that engines are compared with
        "spend": pa.array(np.round(draw.gamma(1.5, 6, rows), 2)),
        "age": pa.array(draw.integers(15, 90, rows)),
    }
    csv.write_csv(pa.table(columns), folder / "records.csv")
    pairs = [(by, split) for by in ("route", "ticket", "season") for split in ("route", "ticket", "season")]
    entries = []
    for place in range(CHARTS):
        by, split = [pair for pair in pairs if pair[0] != pair[1]][place % 6]
        measure = 'measure = "wait"\n' if place % 2 else ""
        entries.append(
            f'[[chart]]\nname = "c{place}"\nkind = "bar"\nby = "{by}"\nsplit = "{split}"\n{measure}formats = "svg"\n'
        )
    records = '[records]\nfile = "records.csv"\n'
    folder.joinpath("one.toml").write_text(records + entries[1], "utf-8")
    folder.joinpath("many.toml").write_text(records + "".join(entries), "utf-8")


def seconds(folder: Path, plan: str) -> float:
    """How long a build takes."""
    start = time.perf_counter()
    subprocess.run([GRAINSTACK, "build", plan, "--fresh"], cwd=folder, check=True, capture_output=True)
    return time.perf_counter() - start


def redrawn(folder: Path) -> float:
    """How long it takes from saving another title until a watched plan has drawn it."""
    watching = subprocess.Popen(
        [GRAINSTACK, "build", "one.toml", "--watch", "--out", "watched"], cwd=folder, stderr=subprocess.PIPE, text=True
    )
    assert watching.stderr
    plan, times = folder / "one.toml", []
    text = plan.read_text("utf-8")
    try:
        for run in range(RUNS + 1):
            for line in watching.stderr:
                if line.startswith("Wrote"):
                    times.append(time.perf_counter())
                if line.startswith("Watching"):
                    break
            times.append(time.perf_counter())
            plan.write_text(f'{text}title = "Run {run}"\n', "utf-8")
    finally:
        watching.kill()
        plan.write_text(text, "utf-8")
    return median(written - saved for saved, written in zip(times[1::2], times[2::2], strict=False))


def main() -> None:
    """Prints the ratios and their targets."""
    rows = int(sys.argv[1]) if len(sys.argv) > 1 else ROWS
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        make(folder, rows)
        times = [(seconds(folder, "one.toml"), seconds(folder, "many.toml")) for _ in range(RUNS)]
        one, many = (median(column) for column in zip(*times, strict=True))
        again = redrawn(folder)
        print(f"{rows:,} rows: a saved title is drawn after {again:.2f} s (0.5), {again / one:.2f} of a build")
        print(f"{rows:,} rows: one chart {one:.2f} s, {CHARTS} charts {many:.2f} s, ratio {many / one:.2f} ({TARGET})")


if __name__ == "__main__":
    main()
