"""Several figures that cannot share an axis: one chart for each, in one picture."""

from pathlib import Path
from xml.etree import ElementTree as ET

import pytest

from tests.program.conftest import Run

SPACE = "{http://www.w3.org/2000/svg}"


def texts(path: Path, role: str) -> list[str]:
    root = ET.fromstring(path.read_text("utf-8"))  # noqa: S314 - written by the program under test
    return ["".join(one.itertext()) for one in root.iter(f"{SPACE}text") if one.get("data-role") == role]


def test_measures_in_different_units_have_axes_of_their_own(run: Run, folder: Path) -> None:
    asked = ("bar", "passengers.csv", "--by", "route", "--measure", "wait", "--measure", "spend")
    assert run(*asked, "--out", "u.svg").returncode == 0
    assert texts(folder / "u.svg", "value-title") == ["Mean waiting time (minutes)", "Mean spending on board (€)"]
    assert len(texts(folder / "u.svg", "category")) == 12
    shown = run(*asked).stdout
    assert shown.index("Mean waiting time (minutes)") < shown.index("Mean spending on board (€)")
    assert shown.count("Pell Isle") == 2


@pytest.mark.parametrize("size", ["160x100mm", "90x120mm", "300x80mm"])
def test_split_statistics_stand_side_by_side_under_one_legend(run: Run, folder: Path, size: str) -> None:
    asked = ("bar", "passengers.csv", "--by", "route", "--split", "season", "--measure", "wait")
    done = run(*asked, "--stat", "mean", "--stat", "count", "--size", size, "--out", "s.svg")
    assert done.returncode == 0, done.stderr
    assert texts(folder / "s.svg", "legend") == ["Spring", "Summer", "Autumn", "Winter"]
    [title] = texts(folder / "s.svg", "title")[:1]
    assert title.startswith("Mean waiting time and number of")


@pytest.mark.parametrize(
    ("more", "message"),
    [
        (("--value-range", "0,30"), "belongs to one axis"),
        (("--reference", "12=Target"), "belongs to one axis"),
        (("--second-measure", "age"), "belongs to one axis"),
        (("--legend", "direct", "--out", "x.svg"), "belongs to a single chart"),
        (("--layout", "stacked"), "cannot be stacked"),
    ],
)
def test_what_belongs_to_a_single_chart_is_refused(run: Run, more: tuple[str, ...], message: str) -> None:
    asked = ("bar", "passengers.csv", "--by", "route", "--split", "season", "--measure", "wait")
    done = run(*asked, "--stat", "mean", "--stat", "median", *more)
    assert done.returncode == 2
    assert message in done.stderr


def test_the_title_of_changes_says_that_they_are_changes(run: Run, folder: Path) -> None:
    asked = ("bar", "passengers.csv", "--by", "route", "--measure", "wait", "--measure", "spend")
    run(*asked, "--relative-to", "Dunmar", "--out", "c.svg")
    assert " ".join(texts(folder / "c.svg", "title")).startswith(
        "Change in mean waiting time and spending on board from"
    )


@pytest.mark.usefixtures("folder")
@pytest.mark.parametrize(
    "more",
    [
        ("--value-range", "0,30"),
        ("--ticks", "4"),
        ("--reference", "12=Target"),
        ("--value-title", "Amount"),
        ("--second-measure", "age"),
        ("--swap",),
    ],
)
def test_so_it_is_for_measures_in_different_units(run: Run, more: tuple[str, ...]) -> None:
    done = run("bar", "passengers.csv", "--by", "route", "--measure", "wait", "--measure", "spend", *more, "--strict")
    assert done.returncode == 2
    assert done.stdout == ""


@pytest.mark.parametrize(
    ("statistics", "title"),
    [
        (("mean", "median"), "Mean and median waiting time by route"),
        (("mean", "median", "p90"), "Mean, median and 90th percentile of waiting time by route"),
        (("mean", "sd"), "Mean and standard deviation of waiting time by route"),
        (("p90", "mean"), "90th percentile and mean waiting time by route"),
    ],
)
def test_several_statistics_are_read_as_a_sentence(
    statistics: tuple[str, ...], title: str, run: Run, folder: Path
) -> None:
    asked = (part for name in statistics for part in ("--stat", name))
    done = run("dot", "passengers.csv", "--by", "route", "--measure", "wait", *asked, "--out", "dot.svg")
    assert done.returncode == 0, done.stderr
    assert f">{title}</title>" in (folder / "dot.svg").read_text("utf-8")
