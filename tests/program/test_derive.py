"""Records with derived columns: what is written is what a table of the same request counts."""

import csv
import json
import re
from collections import Counter
from pathlib import Path

import numpy as np
import pytest

from tests.program.conftest import Run, bare, folder, run
from tests.soak import daily

__all__ = ["bare", "folder", "run"]

SIZES = [1, 2, 3, 300, 600, 3_000, 150_000]  # records; the last come in several batches


def _bands_written(folder: Path, name: str) -> Counter[str]:
    with (folder / name).open(encoding="utf-8", newline="") as lines:
        return Counter(row["x_band"] for row in csv.DictReader(lines))


def _lies_in(value: float, band: str) -> bool:
    """Whether a band, as it is written, holds a value."""
    numbers = [float(one) for one in re.findall(r"-?\d+(?:\.\d+)?", band.replace("−", "-"))]
    if band.startswith("under"):
        return value < numbers[0]
    if band.endswith("and over"):
        return value >= numbers[0]
    return numbers[0] <= value < numbers[1] if "to under" in band else numbers[0] <= value <= numbers[-1]


@pytest.mark.parametrize("records", daily(SIZES, [1, 3, 600]))
@pytest.mark.parametrize("rule", ["x=auto", "x=10", "x=under,20,40,over"])
def test_bands_written_are_those_a_table_counts(run: Run, bare: Path, records: int, rule: str) -> None:
    values = np.random.default_rng(records).normal(50, 12, records).round(2 if records > 3_000 else 0)
    (bare / "many.csv").write_text("x\n" + "".join(f"{value:g}\n" for value in values), "utf-8")
    done = run("derive", "many.csv", "--band", rule, "--out", "banded.csv")
    assert done.returncode == 0, done.stderr
    with (bare / "banded.csv").open(encoding="utf-8", newline="") as lines:
        assert all(_lies_in(float(row["x"]), row["x_band"]) for row in csv.DictReader(lines))
    assert run("table", "many.csv", "--by", "x", "--band", rule, "--out", "table.json").returncode == 0
    cells = json.loads((bare / "table.json").read_text("utf-8"))["cells"]
    counted = Counter({row["x"]: int(row["estimate"]) for row in cells if row["estimate"]})
    assert _bands_written(bare, "banded.csv") == counted


def test_bands_written_rest_on_the_records_kept(run: Run, bare: Path) -> None:
    values = np.random.default_rng(8).normal(50, 12, 2_000).round()
    lines = "".join(f"{value:g},{place % 5}\n" for place, value in enumerate(values))
    (bare / "many.csv").write_text(f"x,k\n{lines}", "utf-8")
    asked = ("many.csv", "--band", "x=auto", "--only", "k=1")
    assert run("derive", *asked, "--out", "banded.csv").returncode == 0
    assert run("table", *asked, "--by", "x", "--out", "table.json").returncode == 0
    cells = json.loads((bare / "table.json").read_text("utf-8"))["cells"]
    counted = Counter({row["x"]: int(row["estimate"]) for row in cells if row["estimate"]})
    assert _bands_written(bare, "banded.csv") == counted
