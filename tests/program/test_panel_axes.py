"""Panels with an axis each: every mark stands at its figure on the axis of its own panel, and it is told."""

from itertools import product
from pathlib import Path

import pytest

from grainstack.chart.marks import Dot, MarkRole, Rect
from grainstack.making.kinds import kind_named
from grainstack.making.make import make
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import filled
from tests.chart.scenes import check
from tests.program.conftest import Run
from tests.soak import daily

SIZES = ("160x100mm", "250x160mm", "100x90mm")
CASES = list(product(SIZES, ("bar", "dot"), ("vertical", "horizontal"), (None, "ticket")))


@pytest.mark.parametrize(("size", "kind", "direction", "split"), daily(CASES, CASES[::3]))
def test_marks_stand_on_the_axis_of_their_panel(
    folder: Path, size: str, kind: str, direction: str, split: str | None
) -> None:
    more = {"split": split, "except_": ("ticket=agent",)} if split else {}
    asked = {"by": ("season",), "panel": "route", "only": ("route=1,2,6",), "measure": ("wait",), "label": "none"}
    requests = filled(
        kind_named(kind).models,
        {
            "file": (str(folder / "passengers.csv"),),
            **asked,
            **more,
            "panel_axes": "free",
            "size": size,
            "direction": direction,
        },
    )
    made = make(kind_named(kind), requests, open_records(requests[RecordsRequest]))
    scene = made.picture()
    check(scene)
    column, table = made.table.columns[0], made.table
    lengths: dict[str, list[tuple[float, float]]] = {}
    for mark in scene.marks:
        if mark.role not in (MarkRole.BAR, MarkRole.DOT) or not isinstance(mark, Rect | Dot):
            continue
        codes = (*mark.key.panel, *mark.key.category, *mark.key.series)
        row = next(row for row in range(len(table.keys)) if tuple(one.code for one in table.levels_of(row)) == codes)
        if isinstance(mark, Rect):
            place = mark.width if direction == "horizontal" else mark.height
        else:
            place = mark.x if direction == "horizontal" else -mark.y
        lengths.setdefault(mark.key.panel[0], []).append((float(column.estimate[row]), place))
    assert len(lengths) == 3
    for pairs in lengths.values():  # places grow with figures at one rate within a panel
        (first, at), (last, end) = min(pairs), max(pairs)
        rate = (end - at) / (last - first)
        assert rate > 0
        assert all(place == pytest.approx(at + rate * (value - first), abs=0.01) for value, place in pairs)
        if kind == "bar":
            assert at == pytest.approx(rate * first, abs=0.01), "bars begin at zero"


def test_it_is_told_and_not_asked_beside_a_second_measure(run: Run, folder: Path) -> None:
    asked = ("bar", "passengers.csv", "--by", "season", "--measure", "wait", "--panel", "route", "--panel-axes", "free")
    run(*asked, "--out", "x.svg")
    assert "Each panel has a value axis of its own." in (folder / "x.svg").read_text("utf-8")
    done = run(*asked, "--second-measure", "spend", "--out", "y.svg")
    assert done.returncode == 2
    assert "a second measure has one axis for all panels" in done.stderr
    alone = run(*asked[:6], "--panel-axes", "free", "--out", "y.svg")
    assert "No effect: --panel-axes makes no difference without --panel." in alone.stderr
