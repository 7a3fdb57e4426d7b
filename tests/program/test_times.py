"""Levels named by their place in time, and years that begin with another month."""

import csv
from datetime import date, timedelta
from pathlib import Path

import pytest

from tests.program.conftest import Run

FIRST = date(2024, 1, 1)


def write_days(folder: Path, days: int) -> list[tuple[date, int]]:
    """A file with a record for every third day, and its records."""
    rows = [(FIRST + timedelta(days=n), 5 + (n * 7) % 23) for n in range(0, days, 3)]
    text = "".join(f"{day:%d.%m.%Y},{wait}\n" for day, wait in rows)
    (folder / "days.csv").write_text(f"day,wait\n{text}", "utf-8")
    return rows


def table(run: Run, folder: Path, *asked: str) -> list[dict[str, str]]:
    done = run("table", "days.csv", *asked, "--out", "t.csv")
    assert done.returncode == 0, done.stderr
    with (folder / "t.csv").open(encoding="utf-8") as file:
        return list(csv.DictReader(file))


def quarter(day: date) -> str:
    return f"Q{(day.month + 2) // 3} {day.year}"


def means(rows: list[tuple[date, int]]) -> dict[str, float]:
    waits: dict[str, list[int]] = {}
    for day, wait in rows:
        waits.setdefault(quarter(day), []).append(wait)
    return {name: sum(found) / len(found) for name, found in waits.items()}


def test_the_latest_levels_of_bands_and_the_same_a_year_before_are_kept(run: Run, folder: Path) -> None:
    rows = write_days(folder, 640)
    asked = ("--band", "quarter: day=quarter", "--by", "quarter")
    every = list(means(rows))
    shown = table(run, folder, *asked, "--only", "quarter=latest 2, same-last-year")
    assert [row["quarter"] for row in shown] == [every[-5], *every[-2:]]
    shown = table(run, folder, *asked, "--except", "quarter=latest, previous")
    assert [row["quarter"] for row in shown] == every[:-2]
    assert sum(int(row["estimate"]) for row in shown) == sum(quarter(day) in every[:-2] for day, _ in rows)


@pytest.mark.parametrize(
    ("condition", "kept"),
    [
        ("quarter = 'latest'", ["2025 Q4"]),
        ("quarter IN ('latest 2', 'same-last-year')", ["2024 Q4", "2025 Q3", "2025 Q4"]),
        ("NOT quarter = 'previous' AND quarter <> 'latest'", ["2024 Q3", "2024 Q4", "2025 Q1"]),
        ("'latest' = quarter OR quarter = '2024 Q3'", ["2024 Q3", "2025 Q4"]),
    ],
)
def test_a_condition_names_levels_by_their_place_in_time(
    run: Run, folder: Path, condition: str, kept: list[str]
) -> None:
    quarters = ["2024 Q3", "2024 Q4", "2025 Q1", "2025 Q3", "2025 Q4"]
    (folder / "q.csv").write_text("quarter,x\n" + "".join(f"{one},1\n{one},2\n" for one in quarters), "utf-8")
    done = run("table", "q.csv", "--by", "quarter", "--measure", "x", "--where", condition, "--out", "t.csv")
    assert done.returncode == 0, done.stderr
    with (folder / "t.csv").open(encoding="utf-8") as file:
        assert [row["quarter"] for row in csv.DictReader(file) if int(row["base"])] == kept
    told = run("table", "q.csv", "--by", "x", "--where", condition).stdout
    assert "latest" not in told
    assert "'2025 Q4'" in told


def test_a_quarter_without_records_is_a_gap(run: Run, folder: Path) -> None:
    quarters = ["2024 Q3", "2024 Q4", "2025 Q1", "2025 Q3", "2025 Q4"]
    rows = "".join(f"{one},{value}\n" for one in quarters for value in (1, 2, 4))
    (folder / "q.csv").write_text(f"quarter,x\n{rows}", "utf-8")
    shown = ("q.csv", "--by", "quarter", "--measure", "x")
    done = run("table", *shown, "--out", "t.csv")
    with (folder / "t.csv").open(encoding="utf-8") as file:
        found = {row["quarter"]: row["base"] for row in csv.DictReader(file)}
    assert list(found) == [*quarters[:3], "2025 Q2", *quarters[3:]]
    assert found["2025 Q2"] == "0"
    for asked in (("--order", "largest-first"), ("--only", "quarter=2025 Q1,2025 Q3")):
        done = run("table", *shown, *asked)
        assert done.returncode == 0, done.stderr
        assert "2025 Q2" not in done.stdout


def test_the_latest_year_of_a_column_of_years(run: Run) -> None:
    done = run("table", "crossings.csv", "--by", "route", "--only", "year=latest")
    assert "year 2025" in done.stdout


@pytest.mark.parametrize(
    ("asked", "message"),
    [
        (("passengers.csv", "--by", "route", "--only", "route=latest"), "has no order in time"),
        (("crossings.csv", "--by", "year", "--only", "year=2025", "--where", "year = 2025"), ""),
        (("days.csv", "--band", "q: day=half-year", "--by", "q", "--only", "q=same-last-year"), "no such level"),
        (("days.csv", "--by", "day", "--year-starts", "april"), "makes no difference"),
        (("passengers.csv", "--by", "season", "--relative-to", "same-last-year"), "a year before another"),
    ],
)
def test_places_in_time_that_are_none_are_told(run: Run, folder: Path, asked: tuple[str, ...], message: str) -> None:
    write_days(folder, 100)
    done = run("table", *asked)
    assert message in done.stderr
    assert done.returncode == (2 if message else 0)


@pytest.mark.parametrize(("by", "first"), [("year", "2023/24"), ("half-year", "H2 2023/24"), ("quarter", "Q4 2023/24")])
def test_years_begin_where_the_office_says(run: Run, folder: Path, by: str, first: str) -> None:
    rows = write_days(folder, 500)
    shown = table(run, folder, "--band", f"day={by}", "--by", "day", "--year-starts", "april")
    assert shown[0]["day"] == first
    months = {"year": 12, "half-year": 6, "quarter": 3}[by]
    counted: dict[int, int] = {}
    for day, _ in rows:
        place = (day.year * 12 + day.month - 4) // months
        counted[place] = counted.get(place, 0) + 1
    assert [int(row["estimate"]) for row in shown] == [counted[place] for place in sorted(counted)]


def test_weeks_are_those_of_the_calendar(run: Run, folder: Path) -> None:
    rows = write_days(folder, 400)
    shown = table(run, folder, "--band", "day=week", "--by", "day")
    counted: dict[str, int] = {}
    for day, _ in rows:
        year, week, _ = day.isocalendar()
        counted[f"{year}-W{week:02d}"] = counted.get(f"{year}-W{week:02d}", 0) + 1
    assert {row["day"]: int(row["estimate"]) for row in shown} == counted
    assert [row["day"] for row in shown] == sorted(counted)


def test_a_change_from_a_year_before_takes_the_same_quarter(run: Run, folder: Path) -> None:
    rows = write_days(folder, 640)
    by_quarter = means(rows)
    asked = ("--band", "day=quarter", "--by", "day", "--measure", "wait", "--relative-to", "same-last-year")
    shown = table(run, folder, *asked)
    names = list(by_quarter)
    assert [row["day"] for row in shown] == names[4:]
    for row, name, before in zip(shown, names[4:], names, strict=False):
        assert float(row["estimate"]) == pytest.approx(by_quarter[name] - by_quarter[before])


def test_change_goes_along_the_column_that_is_named(run: Run, folder: Path) -> None:
    asked = ("table", "crossings.csv", "--by", "year", "--split", "month", "--measure", "revenue", "--stat", "sum")
    for along, gone in (("year", "2023"), ("month", "Jan")):
        done = run(*asked, "--relative-to", "previous", "--along", along, "--out", "t.csv")
        assert done.returncode == 0, done.stderr
        with (folder / "t.csv").open(encoding="utf-8") as file:
            assert gone not in {row[along] for row in csv.DictReader(file)}
    assert "Did you mean `year`" in run(*asked, "--relative-to", "first", "--along", "yeer").stderr


PLAN = """[records]
file = "days.csv"
band = ["quarter: day=quarter"]

[[table]]
name = "waits"
by = "quarter"
measure = "wait"
only = ["quarter=latest 3, same-last-year"]
formats = ["csv"]

[report]
title = "Waiting in {{waits: level, latest}}"
formats = ["md"]
[[report.part]]
text = "{{waits: mean, latest}} after {{waits: mean, previous}} and {{waits: mean, same-last-year}}"
show = ["waits"]
"""


def test_a_plan_of_the_latest_quarters_needs_no_editing(run: Run, folder: Path) -> None:
    (folder / "plan.toml").write_text(PLAN, "utf-8")
    for days in (640, 740):
        rows = write_days(folder, days)
        assert run("build", "plan.toml", "--out", "out").returncode == 0
        by_quarter = means(rows)
        names = list(by_quarter)
        title, _, text = (folder / "out" / "report.md").read_text("utf-8").partition("\n")
        assert title == f"# Waiting in {names[-1]}"
        wanted = [by_quarter[names[place]] for place in (-1, -2, -5)]
        assert "{:.1f} after {:.1f} and {:.1f}".format(*wanted) in text
