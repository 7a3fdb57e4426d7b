"""Dots joined by lines: along what has an order, over nothing, and broken where nothing was recorded."""

from pathlib import Path

import pytest

from grainstack.chart.marks import Dot, Line, MarkRole, Text
from grainstack.chart.scene import Scene
from grainstack.making.kinds import kind_named
from grainstack.making.make import make
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import filled
from tests.chart.scenes import check
from tests.program.conftest import Run
from tests.soak import daily

QUARTERS = "quarter,k,v\n2024-Q1,a,5\n2024-Q1,b,2\n2024-Q2,a,6\n2024-Q4,a,9\n2024-Q4,b,4\n2025-Q1,a,7\n2025-Q1,b,1\n"
SIZES = ("160x100mm", "90x70mm", "250x140mm", "60x60mm")


def drawn(file: Path, **asked: object) -> Scene:
    kind = kind_named("dot")
    requests = filled(kind.models, {"file": (str(file),), "joined": True, **asked})
    return make(kind, requests, open_records(requests[RecordsRequest])).picture()


def lines(scene: Scene) -> list[Line]:
    return [mark for mark in scene.marks if isinstance(mark, Line) and mark.role is MarkRole.LINE]


@pytest.mark.parametrize("size", daily(SIZES, SIZES[:2]))
@pytest.mark.parametrize("by", ["season", "age"])
@pytest.mark.parametrize("split", [None, "route", "ticket"])
@pytest.mark.parametrize("limits", ["none", "confidence"])
def test_lines_and_figures_stand_clear_of_each_other(
    folder: Path, size: str, by: str, split: str | None, limits: str
) -> None:
    band = {"band": ("age=10",)} if by == "age" else {}
    shown = {"split": split, "only": ("route=1,2,4",)} if split else {}
    asked = {"by": (by,), "measure": ("wait",), "error_bars": limits, "size": size, **band, **shown}
    scene = drawn(folder / "passengers.csv", **asked)
    check(scene)
    dots = [mark for mark in scene.marks if isinstance(mark, Dot) and mark.role is MarkRole.DOT]
    ends = {(round(dot.x, 6), round(dot.y, 6)) for dot in dots}
    for line in lines(scene):
        assert line.x1 < line.x2
        assert {(round(line.x1, 6), round(line.y1, 6)), (round(line.x2, 6), round(line.y2, 6))} <= ends
    figures = [mark for mark in scene.marks if isinstance(mark, Text) and mark.role is MarkRole.VALUE]
    for figure in figures:
        own = next(dot for dot in dots if dot.key == figure.key)
        left, top, right, bottom = figure.box
        beside = [dot for dot in dots if left < dot.x + dot.radius and dot.x - dot.radius < right]
        assert min(beside, key=lambda dot: abs(dot.y - (top + bottom) / 2)).y == pytest.approx(own.y)
        between = [
            dot
            for dot in dots
            if dot is not own and left < dot.x < right and min(top, own.y) < dot.y < max(bottom, own.y)
        ]
        assert not between, f"{figure.content} would be read as that of another dot"


@pytest.mark.parametrize("stat", ["sum", "mean", "count"])
def test_a_line_breaks_where_nothing_was_recorded(tmp_path: Path, stat: str) -> None:
    (tmp_path / "q.csv").write_text(QUARTERS, "utf-8")
    measure = {} if stat == "count" else {"measure": ("v",)}
    scene = drawn(tmp_path / "q.csv", by=("quarter",), split="k", stat=(stat,), **measure)
    check(scene)
    dots = [mark for mark in scene.marks if isinstance(mark, Dot) and mark.role is MarkRole.DOT]
    names = [mark.content for mark in scene.marks if isinstance(mark, Text) and mark.role is MarkRole.CATEGORY]
    assert names == ["2024-Q1", "2024-Q2", "2024-Q3", "2024-Q4", "2025-Q1"]
    assert not [dot for dot in dots if dot.key.category == ("2024-Q3",)]
    zero = stat != "mean"  # nothing of b in a quarter that was recorded is a count, and a sum, of 0
    assert len(dots) == 7 + zero
    assert len(lines(scene)) == 3 + zero


@pytest.mark.parametrize(
    ("typed", "message"),
    [
        (("--by", "route"), "joins categories in their order, and these have none"),
        (("--by", "season", "--order", "largest-first"), "joins categories in their order"),
        (("--by", "season", "--direction", "horizontal"), "runs from left to right"),
    ],
)
def test_what_has_no_order_is_not_joined(run: Run, folder: Path, typed: tuple[str, ...], message: str) -> None:
    done = run("dot", "passengers.csv", *typed, "--measure", "wait", "--joined", "--out", "x.svg")
    assert done.returncode != 0
    assert message in " ".join(done.stderr.split())
    assert not (folder / "x.svg").exists()


def test_dots_of_a_second_measure_are_joined_in_the_order_of_time_alone(tmp_path: Path) -> None:
    rows = "".join(f"2024-Q{quarter},{10 - quarter},{quarter}\n" for quarter in (1, 2, 3, 4))
    (tmp_path / "q.csv").write_text("quarter,v,w\n" + rows, "utf-8")
    kind = kind_named("bar")
    for order, joined in (("codebook", 3), ("smallest-first", 0)):
        options = {"by": ("quarter",), "measure": ("v",), "stat": ("sum",), "second_measure": "w", "order": order}
        requests = filled(kind.models, {"file": (str(tmp_path / "q.csv"),), **options})
        scene = make(kind, requests, open_records(requests[RecordsRequest])).picture()
        found = [mark for mark in scene.marks if isinstance(mark, Line) and mark.role is MarkRole.SECOND]
        assert len(found) == joined
