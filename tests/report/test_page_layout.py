"""The script of a page lays bars out by the same rules as the program: its marks are those drawn here, in any state."""

import json
import shutil
import subprocess
from collections.abc import Sequence
from dataclasses import replace
from math import nan
from pathlib import Path
from random import Random
from typing import Any

import numpy as np
import pytest

from grainstack.chart.bars import arrangement as arranging
from grainstack.chart.bars.diverging import Sides
from grainstack.chart.bars.picture import _BarChart
from grainstack.chart.bars.redrawing import DrawnBars
from grainstack.chart.bars.request import BarRequest
from grainstack.chart.cells import ChartCells
from grainstack.chart.frame.plane import Plane
from grainstack.chart.frame.plots import _Layout
from grainstack.chart.frame.value_axis import grid_marks, tick_marks, value_axis
from grainstack.chart.scene import Line, Mark, Rect, Text
from grainstack.chart.treemaps.arrangement import Tree
from grainstack.chart.treemaps.picture import _Treemap
from grainstack.chart.treemaps.redrawing import DrawnTiles
from grainstack.making.kinds import kind_named
from grainstack.making.make import make
from grainstack.records.opened import open_records
from grainstack.records.request import RecordsRequest
from grainstack.requests import Requests, filled
from grainstack.summary.statistics import STATISTICS
from tests.program.conftest import folder
from tests.soak import SOAK

__all__ = ["folder"]

NODE = shutil.which("node")
ASSETS = Path(__file__).parents[2] / "src/grainstack/report/documents/assets"
STATES = 300 * SOAK
State = dict[str, Any]
CHARTS: list[dict[str, Any]] = [
    {"by": ("route",), "split": "ticket", "layout": "percent"},
    {"by": ("route",), "split": "ticket", "layout": "percent", "error_bars": "confidence", "panel": "season"},
    {"by": ("season",), "split": "ticket"},
    {"by": ("season",), "split": "purpose", "layout": "stacked", "error_bars": "confidence", "direction": "horizontal"},
    {"by": ("route",), "split": "season", "measure": ("wait",), "error_bars": "confidence"},
    {"by": ("route",), "split": "season", "measure": ("wait",), "letters": True, "direction": "horizontal"},
    {"by": ("ticket",), "stat": ("share",), "error_bars": "confidence"},
    {"by": ("purpose",), "measure": ("spend",), "stat": ("sum",), "no_design": True},
    {"by": ("purpose",), "split": "route", "measure": ("spend",), "stat": ("sum",), "layout": "stacked"},
    {"by": ("route",), "split": "ticket", "layout": "grouped", "gap": 0.3, "bar_width": 0.6, "hatch": True},
    {"by": ("age",), "split": "ticket", "layout": "percent", "size": "90x70mm"},
    {"by": ("route",), "split": "ticket", "stat": ("count",), "only": ("season=Summer",), "no_design": True},
    {"by": ("route",), "order": "largest-first", "direction": "horizontal"},
    {"by": ("route",), "split": "staff", "layout": "diverging"},
    {"by": ("season",), "split": "staff", "layout": "diverging", "stat": ("count",), "neutral": "none"},
    {"by": ("route",), "split": "ticket", "layout": "diverging", "opposite": "App", "size": "150x90mm"},
    {"by": ("season",), "split": "ticket", "layout": "stacked", "stat": ("count",), "panel": "route"},
]


def _drawn(folder: Path, fields: dict[str, Any]) -> tuple[DrawnBars, Requests]:
    kind = kind_named("bar")
    requests = filled(kind.models, {"file": (str(folder / "passengers.csv"),), **fields})
    made = make(kind, requests, open_records(requests[RecordsRequest]))
    redrawing = made.picture().redrawing
    assert redrawing is not None, fields
    return redrawing.__self__, made.requests  # type: ignore[attr-defined]


def _random_state(random: Random, drawn: DrawnBars) -> State:
    count = len(drawn.bars.cells.series)
    hidden = sorted(random.sample(range(count), random.randint(0, count - 1))) if count > 1 else []
    orders = [
        "",
        "value",
        "name",
        *(["natural"] if drawn.facts()["natural"] else []),
        *([f"series:{random.randrange(count)}"] if count > 1 else []),
    ]
    order = random.choice(orders) if len(drawn.bars.cells.slots) > 1 else ""
    facts = drawn.facts()
    of = random.choice(["", *drawn.wholes]) if drawn.wholes else facts["of"]
    return {"hidden": hidden, "order": order, "form": random.choice(drawn.forms), "of": of}


BY_BARS = "({ order: Bars.ordered(facts, state), marks: Bars.draw(facts, state) })"
BY_TILES = "({ marks: Tiles.draw(facts, state) })"


def _by_script(facts: Sequence[Any], states: Sequence[Any], made: str = BY_BARS) -> list[dict[str, Any]]:
    """What the script makes of facts in states: the order of the categories, and the marks."""
    program = "".join((ASSETS / name).read_text("utf-8") for name in ("texts.js", "bars.js", "tiles.js"))
    program += f"""
const given = JSON.parse(require("fs").readFileSync(0, "utf8"));
console.log(JSON.stringify(given.map(([facts, state]) => {made})));
"""
    given = json.dumps(list(zip(facts, states, strict=True)))
    done = subprocess.run([str(NODE), "-e", program], input=given, capture_output=True, text=True, check=True)
    found: list[dict[str, Any]] = json.loads(done.stdout)
    return found


def _in_state(drawn: DrawnBars, state: State, order: Sequence[int]) -> ChartCells:
    """The cells of a state, worked out slowly: series left out, categories moved, shares of what is shown."""
    cells, column = drawn.bars.cells, drawn.bars.cells.column
    shown = [place for place in range(cells.count) if place not in state["hidden"]]
    places = {slot: place for place, slot in enumerate(order)}
    kept = [cell for cell in cells.cells if cell.series in shown]
    anew = bool(state["of"])
    if column.is_share:
        anew = anew and state["form"] != "grouped" and bool(state["hidden"])
    if anew:
        estimate = np.full(len(column.estimate), nan)
        for cell in kept:
            parts = [one for one in kept if state["of"] == "all" or (one.slot, one.panel) == (cell.slot, cell.panel)]
            whole = sum(one.estimate for one in parts if one.known)
            estimate[cell.row] = (cell.estimate / whole if whole else 0.0) if cell.known else nan
        nothing = np.full(len(estimate), nan)
        share = replace(column.figure, statistic=STATISTICS["share"], measure=None)
        column = replace(column, figure=share, estimate=estimate, low=nothing, high=nothing, interval="")
        kept = [replace(one, estimate=float(estimate[one.row]), low=nan, high=nan) for one in kept]
    moved = [replace(one, series=shown.index(one.series), slot=places[one.slot]) for one in kept]
    slots = tuple(replace(cells.slots[slot], place=cells.slots[place].place) for place, slot in enumerate(order))
    totals = () if state["hidden"] or anew else tuple(replace(one, slot=places[one.slot]) for one in cells.totals)
    totals = tuple(sorted(totals, key=lambda one: (one.panel, one.slot)))
    named = shown if cells.series else []
    moved.sort(key=lambda one: (one.panel, one.slot, one.series))
    columns = (column, *cells.columns[1:])
    table = replace(cells.table, columns=(column, *cells.table.columns[1:]))
    return replace(
        cells,
        table=table,
        columns=columns,
        slots=slots,
        cells=tuple(moved),
        totals=totals,
        series=tuple(cells.series[place] for place in named),
        series_codes=tuple(cells.series_codes[place] for place in named),
    )


def _by_program(drawn: DrawnBars, requests: Requests, state: State, order: Sequence[int]) -> list[Mark]:
    """The marks of a state as the program lays them out in the same frames."""
    cells, layout = _in_state(drawn, state, order), state["form"]
    layout = "percent" if layout == "stacked" and state["of"] == "category" else layout
    if layout == "diverging":
        assert drawn.bars.sides is not None
        shown = [way for place, way in enumerate(drawn.bars.sides.ways) if place not in state["hidden"]]
        bars = arranging._diverging(cells, Sides(tuple(shown)))  # noqa: SLF001
    elif layout in ("stacked", "percent"):
        bars = arranging._stacked(cells, layout)  # noqa: SLF001
    else:
        bars = arranging._side_by_side(cells, layout, BarRequest())  # noqa: SLF001
    chart = _BarChart(bars, requests)
    plots = drawn.plots
    chart._style, chart._kinds = plots.style, drawn.kinds  # noqa: SLF001
    labels = chart._labels()  # noqa: SLF001
    if not chart._fits(labels, plots):  # noqa: SLF001
        chart._kinds = ()  # noqa: SLF001
        labels = chart._labels()  # noqa: SLF001
    axis = value_axis(chart._axis(), plots.intervals)  # noqa: SLF001
    laid = _Layout.__new__(_Layout)
    laid._needs = type("Needs", (), {"beyond": tuple(chart._beyond(labels))})()  # noqa: SLF001
    frame = plots.planes[0].frame
    low, high = laid._cuts(frame, axis, horizontal=plots.horizontal)  # noqa: SLF001
    planes = []
    for plane in plots.planes:
        room = plane.frame
        box = (
            replace(room, left=room.left + low, right=room.right - high)
            if plots.horizontal
            else replace(room, top=room.top + high, bottom=room.bottom - low)
        )
        places = tuple(slot.place for slot in cells.slots)
        planes.append(Plane(room, box, plots.horizontal, axis.low, axis.high, places, plane.span))
    now = replace(plots, planes=tuple(planes), axis=axis)
    marks: list[Mark] = [mark for plane in planes for mark in grid_marks(axis, plane, plots.style)]
    marks += chart._marks(now, labels)  # noqa: SLF001
    for place, plane in enumerate(planes):
        if place + plots.columns >= len(planes) if plots.horizontal else place % plots.columns == 0:
            marks += tick_marks(axis, plane, plots.style)
    return marks


def _plain(mark: Mark) -> tuple[Any, ...]:
    """A mark as numbers and words, but for its colour."""
    if isinstance(mark, Rect):
        return ("rect", str(mark.role), "", mark.x, mark.y, mark.width, mark.height)
    if isinstance(mark, Line):
        return ("line", str(mark.role), "", mark.x1, mark.y1, mark.x2, mark.y2, mark.thickness)
    assert isinstance(mark, Text)
    return ("text", str(mark.role), mark.content, mark.x, mark.y, mark.size, mark.width)


def _of_script(mark: dict[str, Any]) -> tuple[Any, ...]:
    names = {
        "rect": ("x", "y", "width", "height"),
        "line": ("x1", "y1", "x2", "y2", "thickness"),
        "text": ("x", "y", "size", "width"),
    }[mark["tag"]]
    return (mark["tag"], mark["role"], mark.get("content", ""), *(mark[name] for name in names))


@pytest.mark.skipif(NODE is None, reason="node is not installed")
def test_the_script_draws_what_the_program_does_in_any_state(folder: Path) -> None:
    random = Random(20261126 if SOAK == 1 else None)  # noqa: S311 - nothing here is secret
    charts = [_drawn(folder, fields) for fields in CHARTS]
    facts = [drawn.facts() for drawn, _ in charts]
    chosen = [random.randrange(len(charts)) for _ in range(STATES)]
    states = [_random_state(random, charts[place][0]) for place in chosen]
    made = _by_script([facts[place] for place in chosen], states)
    for place, state, found in zip(chosen, states, made, strict=True):
        drawn, requests = charts[place]
        wanted = sorted(map(_plain, _by_program(drawn, requests, state, found["order"])))
        marks = sorted(map(_of_script, found["marks"]))
        about = f"{CHARTS[place]} {state}"
        assert [one[:3] for one in marks] == [one[:3] for one in wanted], about
        for one, other in zip(marks, wanted, strict=True):
            assert one[3:] == pytest.approx(other[3:], abs=0.02), f"{one[:3]} in {about}"


@pytest.mark.skipif(NODE is None, reason="node is not installed")
def test_orders_are_those_of_figures_and_names(folder: Path) -> None:
    drawn, _ = _drawn(folder, {"by": ("route",), "split": "ticket", "layout": "percent"})
    cells = drawn.bars.cells
    orders = ("", "value", "name", "series:0")
    states = [{"hidden": [], "order": order, "form": "stacked", "of": "category"} for order in orders]
    found = [one["order"] for one in _by_script([drawn.facts()] * 4, states)]
    names = [slot.name for slot in cells.slots]
    assert found[0] == list(range(len(names)))
    assert [names[place] for place in found[2]] == sorted(names)
    first = [cells.stack(0, place)[0].estimate for place in found[3]]
    assert first == sorted(first, reverse=True)


TREEMAPS: list[dict[str, Any]] = [
    {"by": ("department", "item"), "measure": ("amount",), "stat": ("sum",), "color_by": "change"},
    {"by": ("vessel", "department", "item"), "measure": ("amount",), "stat": ("sum",)},
    {"by": ("department", "item"), "measure": ("amount",), "label": "value, share", "hatch": True, "outline": True},
    {"by": ("vessel", "department", "item"), "measure": ("amount",), "size": "80x60mm", "root_label": "Everything"},
    {"by": ("item", "vessel"), "measure": ("amount",), "label": "none"},
]


@pytest.mark.skipif(NODE is None, reason="node is not installed")
@pytest.mark.parametrize("fields", TREEMAPS)
def test_the_script_opens_treemaps_as_the_program_would(folder: Path, fields: dict[str, Any]) -> None:
    kind = kind_named("treemap")
    requests = filled(kind.models, {"file": (str(folder / "costs.csv"),), **fields})
    made = make(kind, requests, open_records(requests[RecordsRequest]))
    redrawing = made.picture().redrawing
    assert redrawing is not None
    drawn = redrawing.__self__  # type: ignore[attr-defined]
    assert isinstance(drawn, DrawnTiles)
    parents = [drawn.root]
    for node in parents:
        parents += [child for child in node.children if child.children]
    keys = [dict(node.key.parts()).get("category", "") for node in parents]
    found = _by_script([json.loads(json.dumps(drawn.facts()))] * len(keys), keys, BY_TILES)
    assert isinstance(made.arrangement, Tree)
    for node, one in zip(parents, found, strict=True):
        chart = _Treemap(made.arrangement, made.requests)
        chart._style = drawn.style  # noqa: SLF001
        chart._tile(node, drawn.room, 0)  # noqa: SLF001
        wanted = sorted(_plain(mark) for mark in [*chart._marks, *chart._texts] if not _of_rest(mark))  # noqa: SLF001
        marks = sorted(_of_script(mark) for mark in one["marks"] if "*smaller" not in json.dumps(mark))
        assert [each[:3] for each in marks] == [each[:3] for each in wanted], node.label
        for each, other in zip(marks, wanted, strict=True):
            assert each[3:] == pytest.approx(other[3:], abs=0.05), f"{each[:3]} in {node.label}"
    assert len(parents) > 3


def _of_rest(mark: Mark) -> bool:
    """Whether a mark is of the small tiles together, whose name is written by whoever draws it."""
    return "*smaller" in "".join(mark.key.category)
