"""Tables that are handed over: blocks side by side, several figures in a cell, the crosstab as a file."""

import csv
import json
from pathlib import Path

import pyarrow.parquet as pq
import pytest

from tests.program.conftest import Run

BY_ROUTE = ("table", "passengers.csv", "--by", "route")
TWO = (*BY_ROUTE, "--split", "ticket", "--split", "season", "--stat", "share")


def test_splits_stand_side_by_side_with_the_figures_each_has_alone(run: Run, folder: Path) -> None:
    shown = run(*TWO).stdout.splitlines()
    assert shown[0].split() == ["Ticket", "Season"]
    assert shown[1].index("App") == shown[0].index("Ticket")
    assert shown[1].index("Spring") == shown[0].index("Season")
    assert run(*TWO, "--out", "t.json").returncode == 0
    cells = json.loads((folder / "t.json").read_text("utf-8"))["cells"]
    for split in ("ticket", "season"):
        run(*BY_ROUTE, "--split", split, "--stat", "share", "--out", "one.json")
        alone = json.loads((folder / "one.json").read_text("utf-8"))["cells"]
        together = [cell for cell in cells if split in cell]
        assert [cell["estimate"] for cell in together] == [cell["estimate"] for cell in alone]


def test_bases_stand_side_by_side(run: Run) -> None:
    shown = run(*BY_ROUTE, "--split", "ticket", "--stat", "share", "--base", "category", "--base", "all").stdout
    assert shown.splitlines()[0].split("  ")[-1].strip() == "% of all"
    assert "% of each route" in shown.splitlines()[0]


def test_a_cell_holds_what_is_asked_for(run: Run) -> None:
    shown = run(*BY_ROUTE, "--split", "ticket", "--in-cell", "share % (base)").stdout
    assert "54 % (679)" in shown
    limits = run(*BY_ROUTE, "--split", "ticket", "--in-cell", "share [limits]").stdout
    assert "54 [50–57]" in limits
    unknown = run(*BY_ROUTE, "--split", "ticket", "--stat", "share", "--in-cell", "share (mean)")
    assert unknown.returncode == 2
    assert "there is no figure `mean` here" in unknown.stderr


def test_several_statistics_of_a_split_stand_under_each_other(run: Run) -> None:
    asked = (*BY_ROUTE, "--split", "season", "--measure", "wait", "--stat", "mean", "--stat", "median")
    shown = run(*asked).stdout
    first, second = shown.index("Mean waiting time"), shown.index("Median waiting time")
    assert shown[:first] == ""
    assert shown[first:second].count("Pell Isle") == shown[second:].count("Pell Isle") == 1


def test_outer_labels_stand_where_they_change(run: Run) -> None:
    shown = run(*BY_ROUTE, "--by", "season", "--measure", "wait").stdout
    assert shown.count("Pell Isle") == 1
    assert shown.count("Winter") == 6


def test_the_crosstab_is_written_as_a_file(run: Run, folder: Path) -> None:
    assert run(*TWO, "--wide", "--out", "w.csv").returncode == 0
    with (folder / "w.csv").open(encoding="utf-8") as file:
        rows = list(csv.DictReader(file))
    assert len(rows) == 6
    assert list(rows[0])[:2] == ["route", "Ticket: App"]
    assert sum(float(rows[0][f"Season: {name}"]) for name in ("Spring", "Summer", "Autumn", "Winter")) == pytest.approx(
        1
    )
    assert rows[0]["Season: n"] == "690"


@pytest.mark.parametrize(
    ("asked", "message"),
    [
        ((*TWO, "--split", "season"), "asked for twice"),
        ((*TWO, "--error-bars", "confidence"), "no room for limits"),
        ((*TWO, "--compare", "pairs"), "lists the differences of one table"),
        (("bar", *TWO[1:]), "--split"),
    ],
)
def test_what_blocks_cannot_hold_is_refused(run: Run, asked: tuple[str, ...], message: str) -> None:
    done = run(*asked)
    if asked[0] == "bar":  # charts take the last one typed, as any command does
        assert done.returncode == 0
        return
    assert done.returncode == 2
    assert message in done.stderr


def test_letters_and_figures_line_up(run: Run) -> None:
    shown = run(*BY_ROUTE, "--split", "ticket", "--stat", "share", "--letters").stdout.splitlines()
    ends = shown[1].index("─  ", 13)  # where the column of the app ends
    column = [line[13 : ends + 1] for line in shown[2:8]]
    assert {text.index(text.strip()[:2]) for text in column} == {0}
    assert {len(text) - len(text.lstrip("0123456789* ")) for text in column} == {4}
    assert "difference" not in "".join(shown[:9])


def test_markdown_carries_the_block_in_each_heading(run: Run, folder: Path) -> None:
    run(*TWO, "--out", "t.md")
    assert "| Ticket: App |" in (folder / "t.md").read_text("utf-8").splitlines()[0]


def test_parquet_holds_what_csv_does_with_types(run: Run, folder: Path) -> None:
    asked = ["table", "passengers.csv", "--by", "route", "--split", "ticket", "--stat", "share", "--letters"]
    done = run(*asked, "--min-base", "100", "--hide-small", "--out", "t.csv", "--out", "t.parquet")
    assert done.returncode == 0, done.stderr
    table = pq.read_table(folder / "t.parquet")
    with (folder / "t.csv").open(newline="", encoding="utf-8") as file:
        rows = list(csv.DictReader(file))
    assert table.column_names == list(rows[0])
    assert {str(table.schema.field(name).type) for name in ("estimate", "low", "degrees_of_freedom")} == {"double"}
    assert str(table.schema.field("base").type) == "int64"
    for row, cells in zip(rows, table.to_pylist(), strict=True):
        assert row == {name: "" if value is None else _as_csv(value) for name, value in cells.items()}
    assert b"Share of passengers" in table.schema.metadata[b"provenance"]
    refused = run(
        "table", "passengers.csv", "--by", "route", "--measure", "wait", "--compare", "pairs", "--out", "d.parquet"
    )
    assert refused.returncode == 2
    assert "A .parquet has a row for each figure and none for differences." in refused.stderr


def _as_csv(value: object) -> str:
    return str(int(value)) if isinstance(value, float) and value.is_integer() else str(value)


def test_a_table_is_a_page_of_its_own(run: Run, folder: Path) -> None:
    done = run("table", "passengers.csv", "--by", "route", "--split", "ticket", "--out", "t.html")
    assert done.returncode == 0, done.stderr
    page = (folder / "t.html").read_text("utf-8")
    assert "<h1>Number of passengers by route and ticket</h1>" in page
    assert page.count("<table>") == 1
    assert '<th scope="row">Pell Isle</th>' in page
