"""Reference lines at figures of the chart: they are those of the table, whatever is shown."""

import json
import re
from pathlib import Path

import pytest

from tests.program.conftest import Run

MEANS = ("passengers.csv", "--by", "route", "--measure", "wait")


def value_at(folder: Path, label: str) -> float:
    """The figure in the label of a reference line."""
    found = re.search(rf">{re.escape(label)}: (-?[\d,.]+)<", (folder / "x.svg").read_text("utf-8"))
    assert found is not None
    return float(found[1].replace(",", ""))


@pytest.mark.parametrize("kind", ["bar", "dot"])
@pytest.mark.parametrize("more", [(), ("--no-design",), ("--only", "season=Summer"), ("--split", "season")])
def test_the_mean_is_that_of_all_records_shown(run: Run, folder: Path, kind: str, more: tuple[str, ...]) -> None:
    done = run(kind, *MEANS, *more, "--reference", "mean", "--format", "0.0000", "--out", "x.svg")
    assert done.returncode == 0, done.stderr
    whole = [one for one in more if one not in ("--split", "season")] if "--split" in more else more
    run("table", "passengers.csv", "--measure", "wait", *whole, "--out", "t.json")
    [cell] = json.loads((folder / "t.json").read_text("utf-8"))["cells"]
    assert value_at(folder, "mean of all") == pytest.approx(cell["estimate"], abs=1e-4)


def test_a_mean_without_some_levels_is_called_that_of_those_shown(run: Run, folder: Path) -> None:
    done = run(
        "bar", *MEANS, "--keep-top", "2", "--drop-rest", "--reference", "mean", "--format", "0.0000", "--out", "x.svg"
    )
    assert done.returncode == 0, done.stderr
    run("table", *MEANS, "--keep-top", "2", "--drop-rest", "--out", "t.json")
    shown = ",".join(cell["route"] for cell in json.loads((folder / "t.json").read_text("utf-8"))["cells"])
    run("table", "passengers.csv", "--measure", "wait", "--only", f"route={shown}", "--out", "t.json")
    [cell] = json.loads((folder / "t.json").read_text("utf-8"))["cells"]
    assert value_at(folder, "mean of all shown") == pytest.approx(cell["estimate"], abs=1e-4)


def test_of_counts_it_is_that_of_the_bars_and_a_level_has_its_own(run: Run, folder: Path) -> None:
    run("table", "passengers.csv", "--by", "route", "--out", "t.json")
    cells = {cell["route"]: cell["estimate"] for cell in json.loads((folder / "t.json").read_text("utf-8"))["cells"]}
    asked = ("bar", "passengers.csv", "--by", "route", "--reference", "mean", "--reference", "Dunmar", "--out", "x.svg")
    assert run(*asked).returncode == 0
    assert value_at(folder, "mean of the bars") == pytest.approx(sum(cells.values()) / len(cells), abs=0.6)
    assert value_at(folder, "Dunmar") == pytest.approx(cells["Dunmar"], abs=0.6)
    assert "mean of the bars" in run(*asked[:-2]).stdout


@pytest.mark.parametrize(
    ("typed", "message"),
    [
        (("bar", *MEANS, "--reference", "Dunmer"), "no figure of `Dunmer` is shown. Did you mean `Dunmar`"),
        (("bar", *MEANS, "--split", "season", "--reference", "Dunmar"), "there are 4 figures of it"),
        (("bar", *MEANS, "--stat", "median", "--reference", "mean"), "is of means, counts or sums"),
        (("distribution", "passengers.csv", "--measure", "wait", "--reference", "mean"), "cannot be read"),
    ],
)
def test_what_has_no_figure_is_told(run: Run, folder: Path, typed: tuple[str, ...], message: str) -> None:
    done = run(*typed, "--out", "x.svg")
    assert done.returncode == 2
    assert message in " ".join(done.stderr.split())
    assert not (folder / "x.svg").exists()
