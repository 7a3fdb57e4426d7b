"""Workbooks: numbers are numbers with their formats, text is text, and the same table is the same file."""

import re
from io import BytesIO
from pathlib import Path
from typing import Any

import openpyxl
import pytest

from tests.program.conftest import Run, bare, folder, run

__all__ = ["bare", "folder", "run"]


def _sheets(path: Path) -> dict[str, list[list[Any]]]:
    book = openpyxl.load_workbook(BytesIO(path.read_bytes()))
    return {sheet.title: [list(row) for row in sheet.iter_rows()] for sheet in book.worksheets}


def _values(rows: list[list[Any]]) -> list[list[object]]:
    return [[cell.value for cell in row] for row in rows]


def test_numbers_are_numbers_in_the_formats_of_the_table(run: Run, folder: Path) -> None:
    done = run(
        "table",
        "passengers.csv",
        "--by",
        "route",
        "--split",
        "ticket",
        "--split",
        "season",
        "--stat",
        "share",
        "--letters",
        "--out",
        "t.xlsx",
    )
    assert done.returncode == 0, done.stderr
    sheets = _sheets(folder / "t.xlsx")
    assert list(sheets) == ["Table", "Figures", "Differences"]
    above, heading, first = sheets["Table"][:3]
    assert [cell.value for cell in above if cell.value] == ["Ticket", "Season"]
    assert [cell.value for cell in heading][:3] == ["Route", "App", "Website"]
    assert first[0].value == "Pell Isle"
    assert re.fullmatch(r'0%" \w+"(_0)*', first[1].number_format)
    assert first[1].value == pytest.approx(0.5355, abs=1e-4)
    vey = next(row for row in sheets["Table"] if row[0].value == "Vey Sands")
    assert '"*' in vey[1].number_format
    figures = _values(sheets["Figures"])
    columns = {name: place for place, name in enumerate(figures[0])}
    assert len(figures) == 1 + 6 * (5 + 4)
    assert all(isinstance(row[columns["base"]], int) for row in figures[1:])
    assert any(str(row[columns["flags"]]).startswith("small-base") for row in figures[1:])
    assert sheets["Figures"][1][columns["low"]].number_format == "0.0%"
    notes = [row[0] for row in _values(sheets["Table"])[9:] if row[0]]
    assert any(str(note).startswith("Base: ") or "Base:" in str(note) for note in notes)


def test_means_and_shares_side_by_side_have_formats_of_their_own(run: Run, folder: Path) -> None:
    run(
        "table",
        "passengers.csv",
        "--by",
        "route",
        "--measure",
        "wait",
        "--stat",
        "mean",
        "--stat",
        "count",
        "--out",
        "t.xlsx",
    )
    first = _sheets(folder / "t.xlsx")["Table"][1]
    assert [cell.number_format for cell in first[1:]] == ["#,##0.0_0", "#,##0", "#,##0_0"]


@pytest.mark.parametrize("text", ["=1+1", "+1", "-1", "@SUM(A1)", "http://x.example", "12", "\t=1"])
def test_text_is_never_a_formula_a_link_or_a_number(run: Run, bare: Path, text: str) -> None:
    (bare / "r.csv").write_text(f'k,x\n"{text}",1\n"{text}",2\nplain,3\n', "utf-8")
    assert run("table", "r.csv", "--by", "k", "--out", "t.xlsx").returncode == 0
    for rows in _sheets(bare / "t.xlsx").values():
        cells = [
            cell for row in rows for cell in row if isinstance(cell.value, str) and cell.value.strip() == text.strip()
        ]
        assert cells
        assert all(cell.data_type == "s" and cell.hyperlink is None for cell in cells)


def test_the_same_table_is_the_same_file(run: Run, folder: Path) -> None:
    for name in ("a", "b"):
        run("table", "passengers.csv", "--by", "route", "--out", f"{name}.xlsx")
    assert (folder / "a.xlsx").read_bytes() == (folder / "b.xlsx").read_bytes()


def test_a_hidden_figure_is_in_no_sheet(run: Run, folder: Path) -> None:
    run(
        "table",
        "passengers.csv",
        "--by",
        "route",
        "--measure",
        "wait",
        "--min-base",
        "50",
        "--hide-small",
        "--out",
        "t.xlsx",
    )
    sheets = {name: _values(rows) for name, rows in _sheets(folder / "t.xlsx").items()}
    hidden = [row for rows in sheets.values() for row in rows if "Vey Sands" in row]
    assert len(hidden) == 2
    assert not [value for row in hidden for value in row if isinstance(value, int | float)]


def test_a_plan_writes_workbooks_too(run: Run, folder: Path) -> None:
    (folder / "plan.toml").write_text(
        '[records]\nfile = "passengers.csv"\n[[table]]\nname = "t"\nby = "route"\nformats = "xlsx"\n', "utf-8"
    )
    assert run("build", "plan.toml").returncode == 0
    assert "Wrote" not in run("build", "plan.toml").stderr
    run("table", "passengers.csv", "--by", "route", "--out", "t.xlsx")
    planned, typed = (_sheets(folder / name) for name in ("out/t.xlsx", "t.xlsx"))
    assert {name: _values(rows) for name, rows in planned.items()} == {
        name: _values(rows) for name, rows in typed.items()
    }


def test_blocks_stand_together_whichever_of_their_columns_a_row_has(run: Run, folder: Path) -> None:
    """One row has one base for all its columns, another one has a base for each."""
    lines = ["a,2021,app,1", "b,2021,app,1", "b,2022,web,", "b,2022,app,3", "c,2021,web,2"]
    (folder / "odd.csv").write_text("\n".join(["k,yr,sold,x", *lines, ""]), "utf-8")
    asked = ("--by", "k", "--measure", "x", "--stat", "sum", "--split", "yr", "--split", "sold")
    assert run("table", "odd.csv", *asked, "--out", "t.xlsx").returncode == 0
    above, heading = _values(_sheets(folder / "t.xlsx")["Table"])[:2]
    starts = [place for place, title in enumerate(above) if title]
    assert [above[place] for place in starts] == ["yr", "sold"]
    assert [str(name) for name in heading[starts[0] : starts[1]]] == ["2021", "2022", "n 2021", "n 2022"]
    assert [str(name) for name in heading[starts[1] :]] == ["app", "web", "n app", "n web"]
