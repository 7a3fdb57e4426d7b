"""Change from year to year, as an analyst asks for it."""

import json
from pathlib import Path

import pytest

from tests.program.conftest import Run

YEARS = ("passengers_2024.csv", "passengers.csv", "--split", "file")


def test_this_year_against_last_year_finds_what_changed(run: Run, folder: Path) -> None:
    asked = ("table", *YEARS, "--by", "route", "--measure", "wait", "--relative-to", "previous", "--out", "t.json")
    assert run(*asked).returncode == 0
    cells = {cell["route"]: cell for cell in json.loads((folder / "t.json").read_text("utf-8"))["cells"]}
    assert cells["Dunmar"]["low"] > 0
    assert cells["Pell Isle"]["low"] < 0 < cells["Pell Isle"]["high"]
    assert cells["Dunmar"]["change"] == "difference"
    assert cells["Dunmar"]["relative_to"] == "2024"
    for year, name in (("passengers_2024", "a.json"), ("passengers", "b.json")):
        run("table", f"{year}.csv", "--by", "route", "--measure", "wait", "--out", name)
    before, after = (json.loads((folder / name).read_text("utf-8"))["cells"] for name in ("a.json", "b.json"))
    means = zip(before, after, strict=True)
    assert [now["estimate"] - then["estimate"] for then, now in means] == pytest.approx(
        [cell["estimate"] for cell in cells.values()]
    )


@pytest.mark.parametrize("kind", ["difference", "percent", "index", "ratio"])
def test_every_kind_is_drawn_and_written(run: Run, kind: str) -> None:
    asked = (*YEARS, "--by", "route", "--measure", "wait", "--relative-to", "previous", "--as", kind)
    for command in ("bar", "dot", "table"):
        done = run(command, *asked)
        assert done.returncode == 0, done.stderr
        assert "2024" in done.stdout or "2025" in done.stdout
    assert run("bar", *asked, "--error-bars", "confidence", "--out", "c.svg").returncode == 0
    assert run("table", *asked, "--out", "c.csv").returncode == 0


def test_a_ledger_has_an_index_and_no_limits(run: Run) -> None:
    asked = ("crossings.csv", "--by", "route", "--split", "year", "--measure", "revenue", "--stat", "sum")
    shown = run("table", *asked, "--relative-to", "first", "--as", "index").stdout
    assert shown.splitlines()[0].split() == ["Route", "2023", "2024", "2025", "n"]
    assert "Index of total revenue (2023 = 100)" in shown
    assert "limits" not in shown
    stacked = run("bar", *asked, "--relative-to", "first", "--layout", "stacked")
    assert "cannot be stacked" in stacked.stderr


def test_a_trend_over_bands_is_tested(run: Run) -> None:
    shown = run("table", "passengers.csv", "--by", "age", "--measure", "wait", "--relative-to", "previous").stdout
    assert "trend per step" in shown
    assert "Linear trend over 5 levels of age" in shown


def test_files_read_together_tell_the_file_of_each_record(run: Run, folder: Path) -> None:
    (folder / "codebook.toml").unlink()
    rows = run("table", "passengers_2024.csv", "passengers.csv", "--by", "file").stdout.splitlines()[2:4]
    counts = {name: len((folder / f"{name}.csv").read_text("utf-8").splitlines()) - 1 for name in YEARS_STEMS}
    assert [row.split()[0] for row in rows] == list(counts)
    assert [int(row.split()[1].replace(",", "")) for row in rows] == list(counts.values())
    only = run("table", "passengers_2024.csv", "passengers.csv", "--only", "file=passengers").stdout
    assert f"{counts['passengers']:,}" in only


YEARS_STEMS = ("passengers_2024", "passengers")


def test_complete_files_read_together_stay_complete(run: Run, folder: Path) -> None:
    (folder / "crossings_old.csv").write_bytes((folder / "crossings.csv").read_bytes())
    book = (folder / "codebook.toml").read_text("utf-8")
    book = book.replace(
        '"crossings.csv" = "complete"', '"crossings.csv" = "complete", "crossings_old.csv" = "complete"'
    )
    (folder / "codebook.toml").write_text(book, "utf-8")
    asked = ("crossings.csv", "crossings_old.csv", "--by", "route", "--measure", "revenue")
    assert "limits" not in run("table", *asked).stdout
