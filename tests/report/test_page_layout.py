"""Other views of a chart in a page are drawings of the program, and what is moved keeps its size."""

import json
import re
import zlib
from base64 import b64decode
from pathlib import Path
from typing import Any

import pytest

from grainstack.chart.marks import MarkRole, Rect, Text
from grainstack.chart.scene import Scene
from grainstack.errors import GrainStackError
from grainstack.making.kinds import kind_named
from grainstack.making.make import Made, make
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import filled
from tests.chart.scenes import check
from tests.program.conftest import Run, folder, run

__all__ = ["folder", "run"]

CHARTS: list[dict[str, Any]] = [
    {"by": ("route",), "split": "ticket", "layout": "percent"},
    {"by": ("route",), "split": "ticket", "layout": "percent", "error_bars": "confidence", "panel": "season"},
    {"by": ("season",), "split": "ticket"},
    {"by": ("season",), "split": "purpose", "layout": "stacked", "error_bars": "confidence", "direction": "horizontal"},
    {"by": ("route",), "split": "season", "measure": ("wait",), "error_bars": "confidence"},
    {"by": ("ticket",), "stat": ("share",), "error_bars": "confidence"},
    {"by": ("purpose",), "measure": ("spend",), "stat": ("sum",), "no_design": True},
    {"by": ("purpose",), "split": "route", "measure": ("spend",), "stat": ("sum",), "layout": "stacked"},
    {"by": ("route",), "split": "ticket", "layout": "grouped", "gap": 0.3, "bar_width": 0.6, "hatch": True},
    {"by": ("route",), "split": "staff", "layout": "diverging"},
    {"by": ("season",), "split": "ticket", "layout": "stacked", "stat": ("count",), "panel": "route"},
]


def _made(folder: Path, fields: dict[str, Any], kind: str = "bar", file: str = "passengers.csv") -> Made:
    of_kind = kind_named(kind)
    requests = filled(of_kind.models, {"file": (str(folder / file),), **fields})
    return make(of_kind, requests, open_records(requests[RecordsRequest]))


def _bars(scene: Scene) -> list[Rect]:
    return [mark for mark in scene.marks if isinstance(mark, Rect) and mark.role is MarkRole.BAR]


@pytest.mark.parametrize("number", range(len(CHARTS)))
def test_other_views_are_whole_charts_of_the_same_cells(number: int, folder: Path) -> None:
    scene = _made(folder, CHARTS[number]).picture()
    assert scene.others is not None
    for name, view in scene.others().items():
        check(view)
        assert {mark.key for mark in _bars(view)} == {mark.key for mark in _bars(scene)}, name
        assert view.movable is not None
        assert view.movable.form == name.partition("~")[0]


@pytest.mark.parametrize(("layout", "stat"), [("grouped", "count"), ("stacked", "count"), ("stacked", "sum")])
def test_shares_of_a_view_are_those_the_program_gives_for_the_asking(layout: str, stat: str, folder: Path) -> None:
    """Reads the figures in the tips, and asks for the same shares by `--stat share`."""
    asked = {"by": ("season",), "split": "purpose"}
    measured = {"measure": ("spend",)} if stat == "sum" else {}
    scene = _made(folder, {**asked, **measured, "stat": (stat,), "layout": layout}).picture()
    assert scene.others is not None
    views = scene.others()
    assert {"grouped~category", "stacked~category", "grouped~all", "stacked~all"} <= views.keys()
    if stat == "count":
        for of, base in (("category", "category"), ("all", "all")):
            wanted = _made(folder, {**asked, "stat": ("share",), "base": base, "layout": "grouped"})
            cells = wanted.arrangement.cells
            figures = {cells.key(cell): f"{100 * cell.estimate:.0f}" for cell in cells.cells}
            shown = {mark.key: mark.tip.rpartition(": ")[2].split()[0] for mark in _bars(views[f"grouped~{of}"])}
            rounded = {key: round(float(text.rstrip("*†").rstrip("%"))) for key, text in shown.items()}
            assert all(abs(rounded[key] - float(text)) <= 1 for key, text in figures.items())


@pytest.mark.parametrize("number", range(len(CHARTS)))
def test_what_can_be_moved_stands_where_it_is_said_to(number: int, folder: Path) -> None:
    """Names stand at the middles of their categories, and stacks begin at zero."""
    scene = _made(folder, CHARTS[number]).picture()
    movable = scene.movable
    assert movable is not None
    for mark in _bars(scene):
        [category] = [value for name, value in mark.key.parts() if name == "category"]
        middle = mark.y + mark.height / 2 if movable.horizontal else mark.x + mark.width / 2
        if movable.stacked and "panel" not in CHARTS[number]:
            assert middle == pytest.approx(movable.middles[category], abs=0.01)
    names = [mark for mark in scene.marks if isinstance(mark, Text) and mark.role is MarkRole.CATEGORY]
    assert {dict(mark.key.parts())["category"] for mark in names} == movable.middles.keys()
    if movable.stacked:
        for panel, zero in movable.zeros.items():
            of_panel = [mark for mark in _bars(scene) if dict(mark.key.parts()).get("panel", "") == panel]
            ends = [
                (mark.x, mark.x + mark.width) if movable.horizontal else (mark.y, mark.y + mark.height)
                for mark in of_panel
            ]
            assert any(low - 0.01 <= zero <= high + 0.01 for low, high in ends)
    for order in movable.orders.values():
        assert sorted(order) == sorted(movable.middles)


def test_every_parent_of_a_treemap_is_drawn_alone(folder: Path) -> None:
    made = _made(folder, {"by": ("vessel", "department", "item"), "measure": ("amount",)}, "treemap", "costs.csv")
    scene = made.picture()
    assert scene.others is not None
    views = scene.others()
    assert len(views) > 3
    for key, view in views.items():
        check(view)
        tiles = [mark for mark in view.marks if isinstance(mark, Rect) and mark.role is MarkRole.TILE]
        assert tiles
        assert all(dict(tile.key.parts())["category"].startswith(f"{key}/") for tile in tiles)
        assert view.opened


def test_packed_views_are_those_drawn(run: Run, folder: Path) -> None:
    done = run("bar", "passengers.csv", "--by", "season", "--split", "ticket", "--out", "a.html")
    assert done.returncode == 0, done.stderr
    page = (folder / "a.html").read_text("utf-8")
    packed = re.findall(r'class="view" data-view="([^"]*)">([^<]*)</script>', page)
    assert {name for name, _ in packed} == {
        "stacked~category",
        "grouped~",
        "grouped~category",
        "stacked~all",
        "grouped~all",
    }
    for _, text in packed:
        view = json.loads(zlib.decompress(b64decode(text)))
        assert view["marks"].count('data-role="bar"') == 20
        assert view["box"].startswith("0 0 ")
        assert view["movable"]["orders"]["name"]


def test_charts_of_their_own_axis_are_drawn_in_no_other_form(folder: Path) -> None:
    scene = _made(folder, {**CHARTS[2], "ticks": "0,500,1000"}).picture()
    assert scene.others is not None
    assert scene.others() == {}
    assert scene.movable is not None


def test_what_cannot_be_drawn_is_not_offered(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    scene = _made(folder, CHARTS[2]).picture()

    def refused(*_: object) -> Scene:
        raise GrainStackError("no room")

    monkeypatch.setattr("grainstack.chart.bars.bar_picture._drawn", refused)
    assert scene.others is not None
    assert scene.others() == {}
