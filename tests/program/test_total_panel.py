"""A panel with all records together holds what a table without panels holds, and gives no hidden figure away."""

import json
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import pytest

from tests.program.conftest import Run


def cells(run: Run, folder: Path, *typed: str) -> list[dict[str, Any]]:
    done = run("table", "passengers.csv", *typed, "--out", "t.json")
    assert done.returncode == 0, done.stderr
    found: list[dict[str, Any]] = json.loads((folder / "t.json").read_text("utf-8"))["cells"]
    return found


@pytest.mark.parametrize(
    "asked",
    [
        ("--by", "route"),
        ("--by", "route", "--measure", "wait"),
        ("--by", "route", "--split", "ticket", "--stat", "share"),
        ("--by", "route", "--measure", "wait", "--stat", "median", "--error-bars", "confidence"),
        ("--by", "route", "--split", "staff", "--stat", "share", "--totals"),
    ],
)
def test_it_holds_what_there_is_without_panels(run: Run, folder: Path, asked: Sequence[str]) -> None:
    alone = cells(run, folder, *asked)
    every = cells(run, folder, *asked, "--panel", "season", "--total-panel")
    total = [cell for cell in every if cell["season"] == "All"]
    assert len(total) == len(alone)
    for one, other in zip(alone, total, strict=True):
        for key in ("estimate", "low", "high", "n"):
            assert other.get(key) == pytest.approx(one.get(key)), (one, other)


def test_no_hidden_figure_is_worked_out_from_it(run: Run, folder: Path) -> None:
    rows = [("a", "x", 40), ("a", "y", 3), ("b", "x", 35), ("b", "y", 38)]
    text = "k,p\n" + "".join(f"{k},{p}\n" * count for k, p, count in rows)
    (folder / "h.csv").write_text(text, "utf-8")
    done = run(
        "table",
        "h.csv",
        "--by",
        "k",
        "--panel",
        "p",
        "--total-panel",
        "--min-base",
        "10",
        "--hide-small",
        "--out",
        "t.json",
    )
    assert done.returncode == 0, done.stderr
    found = {(c["p"], c["k"]): c["estimate"] for c in json.loads((folder / "t.json").read_text("utf-8"))["cells"]}
    assert found["y", "a"] is None
    assert found["x", "a"] is None or found["All", "a"] is None


def test_it_is_drawn_last(run: Run, folder: Path) -> None:
    done = run("bar", "passengers.csv", "--by", "route", "--panel", "season", "--total-panel", "--out", "x.svg")
    assert done.returncode == 0
    assert ">All</text>" in (folder / "x.svg").read_text("utf-8")
