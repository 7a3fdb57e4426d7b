"""What stands behind boxes and histograms on a page and in a workbook: the quartiles and bands that are drawn."""

import csv
import re
from html import unescape
from pathlib import Path

import numpy as np
import openpyxl

from tests.program.conftest import Run

PLAN = """[records]
file = "passengers.csv"

[report]
name = "spread"
formats = ["xlsx"]

[[report.part]]
show = ["waits"]

[[chart]]
name = "waits"
kind = "distribution"
measure = "wait"
by = "route"
formats = ["svg"]
"""


def behind(page: str) -> list[list[str]]:
    """The rows of the first table behind a chart."""
    table = page.partition("<details>")[2].partition("</table>")[0]
    rows = re.findall(r"<tr>(.*?)</tr>", table, re.DOTALL)
    return [[unescape(cell) for cell in re.findall(r"<t[hd][^>]*>([^<]*)<", row)] for row in rows]


def test_quartiles_stand_behind_boxes(run: Run, folder: Path) -> None:
    shown = ("distribution", "passengers.csv", "--measure", "wait", "--by", "route")
    (folder / "codebook.toml").unlink()  # which names a weight
    assert run(*shown, "--out", "a.html").returncode == 0
    heading, *rows = behind((folder / "a.html").read_text("utf-8"))
    with (folder / "passengers.csv").open(encoding="utf-8") as file:
        waits = [float(row["wait"]) for row in csv.DictReader(file) if row["route"] == "4" and row["wait"]]
    fourth = dict(zip(heading, next(row for row in rows if row[0] == "4"), strict=True))
    quartiles = np.quantile(waits, [0.0, 0.25, 0.5, 0.75, 1.0], method="averaged_inverted_cdf").tolist()
    names = ("lowest", "lower quartile", "median", "upper quartile", "highest")
    assert [float(fourth[name]) for name in names] == quartiles


def test_bands_stand_behind_histograms(run: Run, folder: Path) -> None:
    shown = ("distribution", "passengers.csv", "--measure", "wait", "--form", "histogram", "--stat", "count")
    (folder / "codebook.toml").unlink()  # which names a weight
    assert run(*shown, "--band", "wait=20", "--out", "a.html").returncode == 0
    _, *rows = behind((folder / "a.html").read_text("utf-8"))
    with (folder / "passengers.csv").open(encoding="utf-8") as file:
        waits = [float(row["wait"]) for row in csv.DictReader(file) if row["wait"]]
    counts = np.histogram(waits, np.arange(0, 241, 20))[0]
    assert [int(row[-1].replace(",", "")) for row in rows] == counts.tolist()


def test_quartiles_have_a_sheet_in_a_workbook(run: Run, folder: Path) -> None:
    (folder / "plan.toml").write_text(PLAN, "utf-8")
    built = run("build", "plan.toml", "--out", "out")
    assert built.returncode == 0, built.stderr
    book = openpyxl.load_workbook(folder / "out" / "spread.xlsx")
    sheet = book["waits spread"]
    assert [cell.value for cell in sheet[1]][2:5] == ["lowest", "lower quartile", "median"]
    assert sheet.max_row == 7
