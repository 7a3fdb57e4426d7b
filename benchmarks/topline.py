"""A topline of sixty questions against one chart of the same records: whole processes in turn, as a ratio."""

import subprocess
import sys
import tempfile
import time
from pathlib import Path
from statistics import median

import numpy as np
import pyarrow as pa
from pyarrow import csv

RECORDS = 20_000
QUESTIONS = 60
RUNS = 3
TARGET = 20
FORMATS = ("html", "docx", "pdf", "xlsx", "pptx")
GRAINSTACK = str(Path(sys.executable).with_name("grainstack"))


def make(folder: Path) -> None:
    """Writes the records: categories, ratings and numbers in turn."""
    draw = np.random.default_rng(11)
    columns = {"route": pa.array([f"route {n}" for n in range(5)]).take(pa.array(draw.integers(0, 5, RECORDS)))}
    for number in range(QUESTIONS):
        if number % 6 == 5:
            columns[f"amount_{number}"] = pa.array(np.round(draw.gamma(2, 8, RECORDS), 1))
        else:
            words = pa.array([f"answer {number}.{n}" for n in range(3 + number % 5)])
            columns[f"question_{number}"] = words.take(pa.array(draw.integers(0, len(words), RECORDS)))
    csv.write_csv(pa.table(columns), folder / "records.csv")


def seconds(folder: Path, *arguments: str) -> float:
    """How long a command takes."""
    start = time.perf_counter()
    subprocess.run([GRAINSTACK, *arguments], cwd=folder, check=True, capture_output=True)
    return time.perf_counter() - start


def main() -> None:
    """Prints the ratios and their target."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        make(folder)
        chart = ["bar", "records.csv", "--by", "question_0", "--stat", "share", "--out", "one.svg"]
        for ending in FORMATS:
            topline = ["topline", "records.csv", "--split", "route", "--out", f"topline.{ending}"]
            times = [(seconds(folder, *chart), seconds(folder, *topline)) for _ in range(RUNS)]
            one, all_of_them = (median(column) for column in zip(*times, strict=True))
            print(
                f"{QUESTIONS} questions, {RECORDS:,} records, .{ending}: {all_of_them:.1f} s, one chart {one:.2f} s, "
                f"ratio {all_of_them / one:.0f} ({TARGET})"
            )


if __name__ == "__main__":
    main()
