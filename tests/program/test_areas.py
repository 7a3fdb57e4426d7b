"""Stacks joined to areas: their corners are the figures, they break at gaps, and no figure leaves its area."""

from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest

from grainstack.chart.marks import Area, MarkRole, Rect, Text
from grainstack.making.kinds import kind_named
from grainstack.making.make import Made, make
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import filled
from tests.chart.scenes import check
from tests.program.conftest import Run

QUARTERS = "quarter,k,v\n2024-Q1,a,5\n2024-Q1,b,2\n2024-Q2,a,6\n2024-Q2,b,3\n2024-Q4,a,9\n2024-Q4,b,4\n2025-Q1,a,7\n"


def made(file: Path, **asked: Any) -> Made:  # noqa: ANN401 - options of any type
    requests = filled(kind_named("bar").models, {"file": (str(file),), "joined": True, **asked})
    return make(kind_named("bar"), requests, open_records(requests[RecordsRequest]))


@pytest.mark.parametrize("layout", ["stacked", "percent"])
@pytest.mark.parametrize("size", ["160x100mm", "90x70mm"])
@pytest.mark.parametrize("split", ["vehicle", "route"])
def test_corners_are_figures_and_figures_stand_in_their_areas(folder: Path, layout: str, size: str, split: str) -> None:
    asked = {"by": ("month",), "split": split, "measure": ("revenue",), "stat": ("sum",), "layout": layout}
    scene = made(folder / "crossings.csv", only=("year=2025",), size=size, **asked).picture()
    check(scene)
    areas = {mark.key.series: mark for mark in scene.marks if isinstance(mark, Area)}
    bars = [mark for mark in scene.marks if isinstance(mark, Rect) and mark.role is MarkRole.BAR]
    assert len(areas) == len({bar.key.series for bar in bars}) == 6
    for bar in bars:  # they answer to the pointer, and are not seen
        assert bar.opacity == 0
        corners = areas[bar.key.series].corners
        middle = bar.x + bar.width / 2
        ends = sorted(y for x, y in corners if abs(x - middle) < 0.01)
        assert ends == pytest.approx([bar.y, bar.y + bar.height], abs=0.01)
    for text in scene.marks:
        if not isinstance(text, Text) or text.role is not MarkRole.VALUE or not text.key.series:
            continue
        left, top, right, bottom = text.box
        upper, lower = edges(areas[text.key.series])
        for x in (left, (left + right) / 2, right):
            assert height(upper, x) - 0.01 <= top, text.content
            assert bottom <= height(lower, x) + 0.01, text.content


def edges(area: Area) -> tuple[list[tuple[float, float]], list[tuple[float, float]]]:
    half = len(area.corners) // 2
    return list(area.corners[:half]), list(reversed(area.corners[half:]))


def height(edge: list[tuple[float, float]], x: float) -> float:
    for (x1, y1), (x2, y2) in pairwise(edge):
        if x1 <= x <= x2:
            return y1 + (y2 - y1) * (x - x1) / (x2 - x1)
    raise AssertionError(x)


def test_areas_break_where_nothing_was_recorded(tmp_path: Path) -> None:
    (tmp_path / "q.csv").write_text(QUARTERS, "utf-8")
    scene = made(
        tmp_path / "q.csv", by=("quarter",), split="k", measure=("v",), stat=("sum",), layout="stacked"
    ).picture()
    areas = [mark for mark in scene.marks if isinstance(mark, Area)]
    assert [len(area.corners) for area in areas] == [4, 4, 4, 4], "two stretches of two quarters for each series"


def test_a_stack_without_a_neighbour_stands_as_a_bar(tmp_path: Path) -> None:
    rows = [line for line in QUARTERS.splitlines(keepends=True) if not line.startswith("2025")]
    (tmp_path / "q.csv").write_text("".join(rows), "utf-8")
    scene = made(
        tmp_path / "q.csv", by=("quarter",), split="k", measure=("v",), stat=("sum",), layout="stacked"
    ).picture()
    seen = [mark for mark in scene.marks if isinstance(mark, Rect) and mark.role is MarkRole.BAR and mark.opacity]
    seen = [bar for bar in seen if bar.height]  # a sum of nothing has none
    assert [bar.key.category for bar in seen] == [("2024-Q4",)] * 2
    assert len([mark for mark in scene.marks if isinstance(mark, Area)]) == 2


def test_areas_have_no_corner_at_a_hidden_figure(tmp_path: Path) -> None:
    months = [f"2024-0{month},{k}" for month in range(1, 8) for k in "aab" * (1 if month == 4 else 20)]
    (tmp_path / "m.csv").write_text("month,k\n" + "\n".join(months) + "\n", "utf-8")
    scene = made(tmp_path / "m.csv", by=("month",), split="k", layout="percent", min_base=10, hide_small=True).picture()
    corners = {round(x, 3) for mark in scene.marks if isinstance(mark, Area) for x, _ in mark.corners}
    bars = {round(mark.x + mark.width / 2, 3) for mark in scene.marks if isinstance(mark, Rect) and mark.key.category}
    names = [mark for mark in scene.marks if isinstance(mark, Text) and mark.role is MarkRole.CATEGORY]
    assert corners <= bars
    assert len(corners) < len(bars) < len(names) == 7, "a month with 3 records, and one beside it, have no figures"


@pytest.mark.parametrize(
    ("typed", "message"),
    [
        (("--by", "season", "--split", "ticket", "--layout", "grouped"), "joins stacked or percent bars into areas"),
        (("--by", "season"), "joins stacked or percent bars into areas"),
        (("--by", "route", "--split", "ticket", "--layout", "percent"), "joins categories in their order"),
        (("--by", "season", "--split", "ticket", "--layout", "percent", "--error-bars", "confidence"), "no whiskers"),
    ],
)
def test_what_cannot_be_areas_is_told(run: Run, folder: Path, typed: tuple[str, ...], message: str) -> None:
    done = run("bar", "passengers.csv", *typed, "--joined", "--out", "x.svg")
    assert done.returncode != 0
    assert message in " ".join(done.stderr.split())
    assert not (folder / "x.svg").exists()
