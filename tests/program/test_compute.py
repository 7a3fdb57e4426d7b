"""Columns worked out from others."""

import csv
import json
import subprocess
from pathlib import Path

import pytest

from tests.program.conftest import Run

ROWS = """id,cash,card,q_1,q_2,q_3,1980,1981,1982,day,kind
1,3.5,1.25,4,5,,10,20,30,2025-03-31,a
2,0.1,0.2,,,,1,2,,2024-11-01,b
3,,7,1,2,3,5,,5,,a
4,2,-2,3,3,3,0,0,0,2025-12-24,
"""


@pytest.fixture
def ledger(folder: Path) -> Path:
    (folder / "codebook.toml").unlink()
    (folder / "l.csv").write_text(ROWS, "utf-8")
    return folder


def values(run: Run, folder: Path, formula: str) -> list[str]:
    done = run("derive", "l.csv", "--compute", f"x = {formula}", "--out", "d.csv")
    assert done.returncode == 0, done.stderr
    with (folder / "d.csv").open(encoding="utf-8") as file:
        found = [row["x"] for row in csv.DictReader(file)]
    (folder / "d.csv").unlink()
    return found


@pytest.mark.parametrize(
    ("formula", "expected"),
    [
        ("cash + card", ["4.75", "0.3", "", "0"]),
        ("-cash * 2", ["-7", "-0.2", "", "-4"]),
        ("cash / card", ["2.8", "0.5", "", "-1"]),
        ("coalesce(cash, 0) + card", ["4.75", "0.3", "7", "0"]),
        ("round(cash / 3, 1)", ["1.2", "0", "", "0.7"]),
        ("abs(card)", ["1.25", "0.2", "7", "2"]),
        ("sum(1980..1982)", ["60", "3", "10", "0"]),
        ("mean(q_*)", ["4.5", "", "2", "3"]),
        ("count(q_*)", ["2", "0", "3", "3"]),
        ("max(q_1, q_2) - min(q_1, q_2)", ["1", "", "1", "0"]),
        ("year(day)", ["2025", "2024", "", "2025"]),
        ("quarter(day)", ["1", "4", "", "4"]),
        ("date(day) - date('2025-03-30')", ["1", "-149", "", "269"]),
        ("case when cash > 1 then 'much' else 'little' end", ["much", "little", "", "much"]),
        ("case when cash is null then 0 when cash > 1 then 2 else 1 end", ["2", "1", "0", "2"]),
        ("case when kind = 'a' then card else cash end", ["1.25", "0.1", "7", ""]),
        ("coalesce(kind, 'none')", ["a", "b", "a", "none"]),
    ],
)
def test_formulas_give_what_sql_gives(run: Run, ledger: Path, formula: str, expected: list[str]) -> None:
    assert values(run, ledger, formula) == expected


def test_a_computed_column_is_one_like_any_other(run: Run, ledger: Path) -> None:
    asked = ("--compute", "every = sum(1980..1982)", "--compute", "half = every / 2")
    done = run("table", "l.csv", *asked, "--by", "kind", "--measure", "half", "--stat", "sum", "--out", "t.json")
    assert done.returncode == 0, done.stderr
    cells = json.loads((ledger / "t.json").read_text("utf-8"))["cells"]
    assert {cell["kind"]: cell["estimate"] for cell in cells} == {"a": 35, "b": 1.5}
    banded = run("table", "l.csv", *asked[:2], "--by", "every", "--band", "every=under,5,over")
    assert banded.returncode == 0, banded.stderr
    kept = run("table", "l.csv", *asked[:2], "--where", "every > 5", "--by", "kind").stdout
    assert "2 records" in kept
    assert (
        run("bar", "l.csv", "--compute", "big = case when card > 1 then 'yes' else 'no' end", "--by", "big").returncode
        == 0
    )


def test_missing_codes_are_no_numbers(run: Run, folder: Path) -> None:
    code = "older = age + 1"
    run("table", "passengers.csv", "--compute", code, "--measure", "older", "--stat", "max", "--out", "t.json")
    [cell] = json.loads((folder / "t.json").read_text("utf-8"))["cells"]
    assert cell["estimate"] < 100


@pytest.mark.parametrize(
    ("formula", "message"),
    [
        ("x", "is incomplete"),
        ("cash = 1", "has a column `cash`"),
        ("x = cash + ", "something is missing"),
        ("x = cash + nowhere", "there is no column `nowhere`"),
        ("x = kind + 1", "should hold numbers"),
        ("x = case when cash > 1 then 'a' else 2 end", "numbers and text are mixed"),
        ("x = system('rm')", "the function system cannot be used here"),
        ("x = sum(r_*)", "no column `r_*`"),
        ("x = sum(1982..1980)", "runs backwards"),
        ("x = (select 1)", "cannot be used here"),
        ("x = 1; drop table l", "is more than a formula"),
    ],
)
def test_what_cannot_be_worked_out_is_refused(run: Run, ledger: Path, formula: str, message: str) -> None:
    done = run("derive", "l.csv", "--compute", formula, "--out", "d.csv")
    assert done.returncode in (1, 2)
    assert message in done.stderr
    assert not (ledger / "d.csv").exists()


def test_a_column_nobody_looks_at_is_refused(run: Run, ledger: Path) -> None:
    assert ledger.is_dir()
    done = run("table", "l.csv", "--compute", "x = cash + 1", "--by", "kind")
    assert done.returncode == 2
    assert "makes no difference: nothing is shown by it" in done.stderr


def test_text_is_never_run(run: Run, ledger: Path) -> None:
    done = run("derive", "l.csv", "--compute", "x = __import__('os').system('touch pwned')", "--out", "d.csv")
    assert isinstance(done, subprocess.CompletedProcess)
    assert done.returncode == 2
    assert not (ledger / "pwned").exists()


@pytest.mark.usefixtures("ledger")
def test_a_number_alone_is_not_taken_for_the_column_called_like_it(run: Run) -> None:
    done = run("look", "l.csv", "--compute", "grown = 1981 - 1980")
    assert done.returncode == 2
    assert "`1981` is a number here, and a column of the records is called so." in done.stderr
    assert 'Write "1981" in double quotes for the column.' in done.stderr
    assert "grown" in run("look", "l.csv", "--compute", 'grown = "1981" - "1980"').stdout
