"""Bars on two sides take any statistic where each side has one series, and whiskers at their outer ends."""

from pathlib import Path

import pytest

from grainstack.making.kinds import kind_named
from grainstack.making.make import Made, make
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import filled
from tests.chart.scenes import check
from tests.program.conftest import Run

GIVEN = "years,sex,mean,low,high\n18-29,women,40,36,44\n18-29,men,38,35,42\n30-49,women,50,46,53\n30-49,men,47,44,52\n"


def made(file: Path, **asked: object) -> Made:
    kind = kind_named("bar")
    requests = filled(kind.models, {"file": (str(file),), "layout": "diverging", **asked})
    return make(kind, requests, open_records(requests[RecordsRequest]))


@pytest.mark.parametrize("size", ["160x100mm", "90x70mm"])
@pytest.mark.parametrize("stat", ["mean", "median", "p75", "sum", "rate"])
def test_two_series_take_any_statistic_with_its_limits(folder: Path, stat: str, size: str) -> None:
    rate = {"per": "wait"} if stat == "rate" else {}
    asked = {"by": ("route",), "split": "ticket", "only": ("ticket=app,desk",), "measure": ("age",), "stat": (stat,)}
    one = made(folder / "passengers.csv", **asked, **rate, error_bars="confidence", size=size)
    arrangement = one.arrangement
    table = one.table.columns[0]
    for bar in arrangement.bars:
        way = -1 if bar.cell.series == 0 else 1
        assert bar.end == way * table.estimate[bar.cell.row]
        if bar.whisker:
            assert sorted((way * bar.low, way * bar.high)) == [table.low[bar.cell.row], table.high[bar.cell.row]]
    check(one.picture())


def test_given_means_have_two_sides_with_their_limits(run: Run, folder: Path) -> None:
    (folder / "g.csv").write_text(GIVEN, "utf-8")
    asked = {
        "by": ("years",),
        "split": "sex",
        "value": "mean",
        "value_is": "mean",
        "error_low": "low",
        "error_high": "high",
    }
    ends = {(bar.low, bar.high) for bar in made(folder / "g.csv", **asked).arrangement.bars}
    assert ends == {(-44.0, -36.0), (35.0, 42.0), (-53.0, -46.0), (44.0, 52.0)}
    (folder / "g.csv").write_text(f"{GIVEN}18-29,all,39,36,42\n", "utf-8")
    typed = ("--by", "years", "--split", "sex", "--value", "mean", "--layout", "diverging", "--out", "x.svg")
    three = run("bar", "g.csv", *typed, "--value-is", "mean")
    assert "A given mean cannot be diverging" in three.stderr
    counts = run("bar", "g.csv", *typed, "--value-is", "count", "--error-low", "low", "--error-high", "high")
    assert "Parts of a bar carry no ready-made limits" in counts.stderr
    assert not (folder / "x.svg").exists()


def test_segments_of_a_scale_carry_whiskers_from_where_they_start(folder: Path) -> None:
    one = made(folder / "passengers.csv", by=("route",), split="staff", error_bars="confidence")
    column = one.table.columns[0]
    for bar in one.arrangement.bars:
        way = one.arrangement.sides.ways[bar.cell.series]
        straddling = way == 0
        assert bar.whisker == (not straddling)
        if bar.whisker:
            ends = sorted(bar.start + way * float(limit[bar.cell.row]) for limit in (column.low, column.high))
            assert [bar.low, bar.high] == pytest.approx(ends)
    check(one.picture())
