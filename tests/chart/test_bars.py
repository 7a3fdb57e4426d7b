"""Bars arranged and composed."""

from itertools import pairwise
from math import isnan, nan

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from grainstack.chart.bars.bar_arrangement import arranged_bars
from grainstack.chart.bars.bar_request import BarRequest
from grainstack.chart.marks import Line, MarkRole, Rect, Text
from grainstack.errors import ChartError, RequestError
from tests.chart.scenes import (
    bars_of,
    check,
    check_grounds,
    check_type,
    rising,
    scene_of,
    table_of,
    texts_of,
    working_size,
)
from tests.soak import SOAK

ROUTES = ["Pell Isle", "Osk Harbour", "Dunmar"]
KINDS = ["App", "Web"]
WORDS = [
    "Marram",
    "Tern",
    "ferry",
    "ποταμός",
    "Берег",
    "landing-stage",
    "of",
    "the",
    "northern",
    "passengers",
    "&",
    "<others>",
    "50%",
    "$cash$",
]
SIZES = ("60x45mm", "100x70mm", "1280x800px", "400x120mm", "400x250mm")

label = st.lists(st.sampled_from(WORDS), min_size=1, max_size=12).map(" ".join).map(lambda text: text[:90])
figure = st.one_of(
    st.floats(-1e7, 1e7), st.floats(0, 1), st.integers(-5, 5).map(float), st.just(0.0), st.just(nan), st.floats(0, 1e-9)
)


@st.composite
def requests(draw: st.DrawFn) -> dict[str, object]:
    """A random chart in any layout: nested, in panels, with letters, records, flags or a second measure."""
    layout = draw(st.sampled_from([None, "grouped", "stacked", "percent", "diverging"]))
    panels = tuple(draw(st.lists(label, max_size=4, unique=True)))
    outer = tuple(draw(st.lists(label, max_size=3, unique=True)))
    most = 60 // max(len(panels) * len(outer), 1)
    labels = [f"{n} {text}" for n, text in enumerate(draw(st.lists(label, min_size=1, max_size=max(most, 1))))]
    series = [f"{n} {draw(label)}" for n in range(draw(st.integers(2, 14)))] if layout else []
    whole = max(len(series), 1)
    count = len(labels) * whole * max(len(outer), 1) * max(len(panels), 1)
    drawn = draw(st.lists(figure, min_size=1, max_size=24))
    figures = [drawn[(7 * n + n // 5) % len(drawn)] for n in range(count)]
    if all(map(isnan, figures)):
        figures[0] = 1.0
    if layout in ("percent", "diverging"):
        sizes = [[0 if isnan(x) else 1 + abs(x) % 7 for x in figures[i : i + whole]] for i in range(0, count, whole)]
        figures = [x / (sum(part) or 1) for part in sizes for x in part]
    side_by_side = layout in (None, "grouped")
    reach = draw(st.one_of(st.none(), st.floats(0, 1e6), st.floats(0, 0.2))) if side_by_side else None
    statistic = {"stacked": "sum", "percent": "share", "diverging": "share"}.get(layout or "", "mean")
    table = table_of(
        labels,
        series,
        figures,
        statistic,
        reach,
        outer=outer,
        panels=panels,
        ordered=draw(st.booleans()) or layout == "diverging",
        letters=side_by_side and draw(st.booleans()),
        flagged=draw(st.sampled_from([0, 0, 3])),
        second=draw(st.sampled_from([False, False, True])),
    )
    bars: dict[str, object] = {"label_place": draw(st.sampled_from(["auto", "inside", "end", "outside"]))}
    if side_by_side:
        bars["show_records"] = draw(st.sampled_from([False, False, True]))
    if layout == "diverging":
        bars["neutral"] = draw(st.sampled_from([None, "none", "apart"])) if len(series) % 2 else None
    return {
        "table": table,
        "layout": layout,
        "bars": bars,
        "style": draw(st.sampled_from(["report", "slide", "print", "mono"])),
        "size": draw(st.sampled_from(SIZES)),
        "direction": draw(st.sampled_from(["auto", "horizontal", "vertical"])),
        "label": draw(st.sampled_from(["value", "value, base", "none"])),
        "legend": draw(
            st.sampled_from(["auto", "top", "right", "bottom", "inside", "direct", "none"] if series else ["auto"])
        ),
        "title": draw(st.one_of(st.none(), label)),
        "subtitle": draw(st.one_of(st.none(), label)),
        "category_title": draw(st.one_of(st.none(), label)),
    }


@settings(max_examples=80 * SOAK, deadline=None, suppress_health_check=list(HealthCheck))
@given(requests())
def test_nothing_ever_collides_or_leaves_the_picture(request: dict[str, object]) -> None:
    try:
        scene = scene_of(**request)  # type: ignore[arg-type]
    except ChartError as error:
        scene = scene_of(**{**request, "size": working_size(error)})  # type: ignore[arg-type]
    check(scene)
    check_grounds(scene)
    check_type(scene, str(request["style"]))
    assert MarkRole.CATEGORY not in dict(scene.left_out)


@settings(max_examples=100 * SOAK)
@given(st.lists(st.one_of(st.floats(-1e6, 1e6), st.just(nan)), min_size=2, max_size=8))
def test_segments_sum_to_their_bar(figures: list[float]) -> None:
    if all(map(isnan, figures)):
        return
    table = table_of(["a"], [f"s{n}" for n in range(len(figures))], figures, "sum")
    arranged = arranged_bars(table, BarRequest(layout="stacked"))
    known = [value for value in figures if not isnan(value)]
    up, down = sum(value for value in known if value > 0), sum(value for value in known if value < 0)
    assert sum(bar.end - bar.start for bar in arranged.bars) == pytest.approx(sum(known), abs=1e-6)
    assert max(max(bar.start, bar.end) for bar in arranged.bars) == pytest.approx(max(up, 0), abs=1e-6)
    assert min(min(bar.start, bar.end) for bar in arranged.bars) == pytest.approx(min(down, 0), abs=1e-6)
    for one, other in pairwise([bar for bar in arranged.bars if bar.end > bar.start]):
        assert one.end == other.start


def test_lengths_are_in_proportion_to_the_figures() -> None:
    bars = bars_of(scene_of(table_of(ROUTES, [], [10, 5, 2.5])))
    assert bars[0].height == pytest.approx(2 * bars[1].height) == pytest.approx(4 * bars[2].height)
    assert [bar.key.category for bar in bars] == [(route,) for route in ROUTES]


def test_bars_are_never_slabs() -> None:
    assert max(bar.width for bar in bars_of(scene_of(table_of(["Yes", "No"], [], [1, 2])))) <= 45


def test_segments_add_up_to_their_bar() -> None:
    scene = scene_of(table_of(ROUTES, KINDS, [0.25, 0.75, 0.5, 0.5, 1.0, 0.0], "share"), layout="percent")
    bars = bars_of(scene)
    for first, second in zip(bars[::2], bars[1::2], strict=True):
        assert first.x + first.width == pytest.approx(second.x)
        assert first.width + second.width == pytest.approx(bars[0].width + bars[1].width)
    assert texts_of(scene, "legend") == KINDS
    assert texts_of(scene, "tick")[0] == "0%"
    assert texts_of(scene, "tick")[-1] == "100%"


def test_negative_segments_grow_the_other_way() -> None:
    table = table_of(["a"], ["up", "down", "more"], [3, -2, 4], "sum")
    arranged = arranged_bars(table, BarRequest(layout="stacked"))
    assert [(bar.start, bar.end) for bar in arranged.bars] == [(0, 3), (0, -2), (3, 7)]
    assert (arranged.low, arranged.high) == (-2, 7)


def test_long_labels_turn_bars_horizontal_and_short_ones_do_not() -> None:
    upright = scene_of(table_of(ROUTES, [], [3, 2, 1]))
    turned = scene_of(
        table_of([f"{route} by way of the northern landing stage and back again" for route in ROUTES], [], [3, 2, 1])
    )
    assert rising([bar.x for bar in bars_of(upright)])
    assert rising([bar.y for bar in bars_of(turned)])
    assert " ".join(texts_of(turned, "category")).count("again") == 3


def test_a_shortened_label_keeps_its_full_text_as_a_tip() -> None:
    long = "Passengers who crossed with a bicycle, a trailer, two dogs and a folding canoe on top of all that"
    scene = scene_of(table_of([long, "b"], [], [3, 2]), size="60x45mm", direction="horizontal")
    shortened = [mark for mark in scene.marks if isinstance(mark, Text) and mark.content.endswith("…")]
    assert long in [mark.tip for mark in shortened]


def test_an_empty_cell_has_no_bar_and_a_whisker_stands_at_its_limits() -> None:
    scene = scene_of(table_of(ROUTES, [], [10, nan, 5], reach=2))
    assert [bar.key.category for bar in bars_of(scene)] == [("Pell Isle",), ("Dunmar",)]
    lines = [mark for mark in scene.marks if isinstance(mark, Line) and mark.role == "whisker"]
    assert {line.key.category for line in lines} == {("Pell Isle",), ("Dunmar",)}
    per_unit = bars_of(scene)[0].height / 10
    tops = sorted({round(min(line.y1, line.y2), 3) for line in lines})
    base = bars_of(scene)[0].y + bars_of(scene)[0].height
    assert round(base - 12 * per_unit, 3) in tops


def test_words_are_written_unless_given() -> None:
    scene = scene_of(table_of(ROUTES, [], [3, 2, 1]))
    assert texts_of(scene, "title") == ["Mean size by place"]
    assert texts_of(scene, "value-title") == []  # its title says it
    assert texts_of(scene_of(table_of(ROUTES, [], [3, 2, 1]), title="Sizes"), "value-title") == ["Mean size"]
    assert texts_of(scene, "footnote") == ["Base: 41 records; left out: 3 without an answer on place."]
    assert texts_of(scene, "source") == ["Source: records.csv"]
    given_ = scene_of(
        table_of(ROUTES, [], [3, 2, 1]), title="Waits", subtitle="Mean size, autumn", no_note=True, source="Us"
    )
    assert texts_of(given_, "title") == ["Waits"]
    assert texts_of(given_, "value-title") == []
    assert texts_of(given_, "footnote") == []
    assert texts_of(given_, "source") == ["Source: Us"]


def test_the_alternative_text_names_the_extremes() -> None:
    scene = scene_of(table_of(ROUTES, [], [3, 2, 1]))
    assert scene.alt == "Bar chart. Mean size by place. 3 categories; highest: Pell Isle (3), lowest: Dunmar (1)."


def test_a_figure_never_stands_on_a_grid_line() -> None:
    scene = scene_of(table_of(ROUTES, [], [98, 51, 49]))
    grounds = [mark for mark in scene.marks if isinstance(mark, Rect) and mark.role == "ground"]
    values = [mark for mark in scene.marks if isinstance(mark, Text) and mark.role == "value"]
    assert len(grounds) == len(values) == 3
    for ground, value in zip(grounds, values, strict=True):
        assert ground.x < value.left
        assert ground.x + ground.width > value.left + value.width


@pytest.mark.parametrize("layout", ["stacked", "percent"])
def test_means_cannot_be_stacked(layout: str) -> None:
    table = table_of(ROUTES, KINDS, [1, 2, 3, 4, 5, 6])
    with pytest.raises(ChartError, match="do not add up"):
        arranged_bars(table, BarRequest(layout=layout))


def test_a_layout_needs_series_and_a_chart_needs_figures() -> None:
    table = table_of(ROUTES, [], [1, 2, 3])
    with pytest.raises(RequestError, match="needs series"):
        arranged_bars(table, BarRequest(layout="stacked"))
    empty = table_of(ROUTES, [], [nan, nan, nan])
    with pytest.raises(ChartError, match="No category"):
        arranged_bars(empty, BarRequest(layout=None))
