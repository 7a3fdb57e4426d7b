"""Layouts: what stands where in data units, and how it comes out on the page."""

from math import isnan, nan

import pytest

from grainstack.chart.bars.bar_arrangement import Bar, BarArrangement, arranged_bars
from grainstack.chart.bars.bar_request import BarRequest
from grainstack.chart.bars.diverging import sides_of
from grainstack.chart.cells import GROUP_GAP, chart_cells
from grainstack.chart.marks import Line, Rect, Text
from grainstack.chart.scene import Scene
from grainstack.errors import ChartError, RequestError
from tests.chart.scenes import bars_of, rising, scene_of, table_of, texts_of

OPINIONS = ["Very poor", "Poor", "Fair", "Good", "Very good"]
SHARES = [0.1, 0.2, 0.3, 0.25, 0.15]


def diverging(
    neutral: str | None = None, opposite: str | None = None, series: list[str] | None = None
) -> BarArrangement:
    names = series or OPINIONS
    shares = SHARES if len(names) == 5 else [1 / len(names)] * len(names)
    table = table_of(["a"], names, shares, "share", ordered=True)
    return arranged_bars(table, BarRequest(layout="diverging", neutral=neutral, opposite=opposite))


def spans(arrangement: BarArrangement) -> dict[str, tuple[float, float]]:
    """From where to where each series reaches, in rising order."""
    names = arrangement.cells.series
    return {names[bar.cell.series]: _rising(bar) for bar in arrangement.bars}


def _rising(bar: Bar) -> tuple[float, float]:
    low, high = sorted((bar.start, bar.end))
    return round(low, 9), round(high, 9)


def test_the_middle_of_an_agreement_scale_straddles_the_line() -> None:
    found = spans(diverging())
    assert found == {
        "Very poor": (-0.45, -0.35),
        "Poor": (-0.35, -0.15),
        "Fair": (-0.15, 0.15),
        "Good": (0.15, 0.4),
        "Very good": (0.4, 0.55),
    }


def test_the_middle_can_stand_apart_behind_the_longest_bar() -> None:
    arrangement = diverging("apart")
    found = spans(arrangement)
    assert found["Poor"] == (-0.2, 0.0)
    assert found["Good"] == (0.0, 0.25)
    assert arrangement.apart > arrangement.high
    assert found["Fair"][0] == pytest.approx(arrangement.apart)


def test_without_a_middle_the_scale_is_cut_in_half() -> None:
    found = spans(diverging("none"))
    assert found["Poor"] == (-0.2, 0.0)
    assert found["Fair"] == (0.0, 0.3)


def test_sides_can_be_named() -> None:
    found = spans(diverging(opposite="Very good", neutral="none"))
    assert found["Very good"] == (-0.15, 0.0)
    assert found["Very poor"] == (0.0, 0.1)


def test_both_sides_are_summed_at_their_ends() -> None:
    totals = diverging().totals
    assert [(round(total.amount, 9), total.down) for total in totals] == [(0.3, True), (0.4, False)]
    assert [round(total.at, 9) for total in totals] == [-0.45, 0.55]


def test_a_side_without_anybody_gives_its_figure_to_no_other() -> None:
    table = table_of(["a", "b"], ["No", "Unsure", "Yes"], [1, 0, 2, 0, 1, 3], "count")
    scene = scene_of(table, layout="diverging", bars={"opposite": "No", "neutral": "Unsure"})
    assert texts_of(scene, "total") == ["1", "2", "3"]


def test_two_nominal_series_point_away_from_each_other() -> None:
    table = table_of(["a", "b"], ["Women", "Men"], [3, 4, 5, 6], "count")
    arrangement = arranged_bars(table, BarRequest(layout="diverging"))
    assert [(bar.start, bar.end) for bar in arrangement.bars] == [(0, -3), (0, 4), (0, -5), (0, 6)]
    assert (arrangement.low, arrangement.high) == (-5, 6)


def test_sides_that_cannot_be_told_are_asked_for() -> None:
    table = table_of(["a"], ["x", "y", "z"], [0.2, 0.3, 0.5], "share")
    with pytest.raises(RequestError, match="Which series point to the other side") as caught:
        arranged_bars(table, BarRequest(layout="diverging"))
    assert "opposite x" in str(caught.value)


@pytest.mark.parametrize(
    ("opposite", "neutral", "said"),
    [("Gud", None, "no series `Gud`"), ("Poor", "Poor", "cannot be opposite and neutral"), (None, "apart", "")],
)
def test_sides_are_checked_by_name(opposite: str | None, neutral: str | None, said: str) -> None:
    cells = chart_cells(table_of(["a"], ["Poor", "Fair", "Good"], [0.2, 0.3, 0.5], "share", ordered=True))
    request = BarRequest(layout="diverging", opposite=opposite, neutral=neutral)
    if said:
        with pytest.raises(RequestError, match=said):
            sides_of(cells, request)
    else:
        assert sides_of(cells, request).ways == (-1, 0, 1)


def test_negative_figures_have_no_side() -> None:
    table = table_of(["a"], ["x", "y"], [-1, 2], "sum")
    with pytest.raises(ChartError, match="no side of their own"):
        arranged_bars(table, BarRequest(layout="diverging"))


def test_a_diverging_axis_is_positive_both_ways() -> None:
    table = table_of(["a"], OPINIONS, SHARES, "share", ordered=True)
    ticks = texts_of(scene_of(table, layout="diverging"), "tick")
    assert not any("−" in tick for tick in ticks)
    assert "0" in ticks
    assert ticks[0].endswith("%")


def test_the_levels_of_one_column_make_a_single_bar() -> None:
    table = table_of(["App", "Web", "Desk"], [], [0.5, 0.3, 0.2], "share")
    arrangement = arranged_bars(table, BarRequest(layout="percent"), single=True)
    assert len(arrangement.cells.slots) == 1
    assert arrangement.cells.series == ("App", "Web", "Desk")
    assert [(round(bar.start, 9), round(bar.end, 9)) for bar in arrangement.bars] == [(0, 0.5), (0.5, 0.8), (0.8, 1)]


def test_nested_categories_open_a_gap_between_groups() -> None:
    table = table_of(["x", "y"], [], [1, 2, 3, 4], outer=("A", "B"))
    cells = chart_cells(table)
    assert [slot.place for slot in cells.slots] == [0, 1, 2 + GROUP_GAP, 3 + GROUP_GAP]
    assert [(slot.outer, slot.label) for slot in cells.slots] == [("A", "x"), ("A", "y"), ("B", "x"), ("B", "y")]
    assert cells.span == 4 + GROUP_GAP


@pytest.mark.parametrize("direction", ["horizontal", "vertical"])
def test_outer_labels_stand_once_per_group(direction: str) -> None:
    table = table_of(["x", "y"], [], [1, 2, 3, 4], outer=("Group one", "Group two"))
    scene = scene_of(table, direction=direction)
    assert texts_of(scene, "group-label") == ["Group one", "Group two"]
    assert texts_of(scene, "category") == ["x", "y", "x", "y"]


def test_panels_share_their_scale_and_show_ticks_once() -> None:
    table = table_of(["x", "y"], [], [1, 2, 30, 40], panels=("One", "Two"))
    scene = scene_of(table, direction="vertical")
    assert texts_of(scene, "panel-title") == ["One", "Two"]
    bars = bars_of(scene)
    per_unit = bars[3].height / 40
    assert [bar.height / per_unit for bar in bars] == pytest.approx([1, 2, 30, 40])
    assert texts_of(scene, "tick").count("0") == 1


def test_panel_columns_can_be_asked_for() -> None:
    table = table_of(["x"], [], [1, 2, 3, 4], panels=("P", "Q", "R", "S"))
    for columns in (1, 2, 4):
        scene = scene_of(table, bars={"panel_columns": columns})
        lefts = {round(mark.x, 3) for mark in scene.marks if isinstance(mark, Text) and mark.role == "panel-title"}
        assert len(lefts) == columns


def test_stacks_carry_their_total_beyond_them() -> None:
    scene = scene_of(table_of(["a", "b"], ["x", "y"], [1, 2, 3, 4], "sum"), layout="stacked")
    assert texts_of(scene, "total") == ["3", "7"]
    assert texts_of(scene, "value") == ["1", "2", "3", "4"]


def test_percent_bars_need_wholes() -> None:
    table = table_of(["a"], ["x", "y"], [0.2, 0.3], "share")
    with pytest.raises(ChartError, match="do not add to 100 %"):
        arranged_bars(table, BarRequest(layout="percent"))
    assert arranged_bars(table, BarRequest()).layout == "grouped"


def test_percent_whiskers_start_where_their_segment_starts() -> None:
    table = table_of(["a"], ["x", "y", "z"], [0.2, 0.3, 0.5], "share", 0.05)
    first, second, last = arranged_bars(table, BarRequest(layout="percent")).bars
    assert (first.low, first.high) == pytest.approx((0.15, 0.25))
    assert (second.low, second.high) == pytest.approx((0.45, 0.55))
    assert not last.whisker


def test_stacked_bars_carry_no_whiskers_on_segments() -> None:
    table = table_of(["a"], ["x", "y"], [1, 2], "sum", 0.5)
    assert not any(bar.whisker for bar in arranged_bars(table, BarRequest(layout="stacked")).bars)


def test_records_stand_over_their_bar_and_stay_in_the_plot() -> None:
    scene = scene_of(table_of(["a", "b"], [], [10.0, 20.0]), bars={"show_records": True})
    dots = [mark for mark in scene.marks if mark.role == "record"]
    assert len(dots) == 2 * 9
    grid = [mark for mark in scene.marks if isinstance(mark, Line) and mark.role == "grid"]
    top = min(line.y1 for line in grid)
    assert all(dot.y >= top for dot in dots)  # type: ignore[union-attr]
    assert "Each dot is one record." in " ".join(texts_of(scene, "footnote"))


def test_neighbours_part_by_a_gap_when_one_is_asked_for() -> None:
    def middle_gap(gap: float | None) -> float:
        bars = bars_of(scene_of(table_of(["a"], ["x", "y"], [1, 1]), layout="grouped", bars={"gap": gap}))
        return bars[1].x - bars[0].x - bars[0].width

    assert middle_gap(None) == pytest.approx(0)
    assert middle_gap(0.25) > 3


def test_bars_take_the_width_asked_for() -> None:
    def share(width: float) -> float:
        bars = bars_of(scene_of(table_of(list("abcdef"), [], [1] * 6), bars={"bar_width": width}))
        return bars[0].width / (bars[1].x - bars[0].x)

    assert share(0.5) == pytest.approx(0.5)
    assert share(1.0) == pytest.approx(1.0)


def test_an_empty_segment_adds_nothing() -> None:
    arrangement = arranged_bars(table_of(["a"], ["x", "y"], [nan, 2], "sum"), BarRequest(layout="stacked"))
    assert [(bar.start, bar.end) for bar in arrangement.bars] == [(0, 0), (0, 2)]
    assert isnan(arrangement.bars[0].cell.estimate)


def test_horizontal_bars_grow_to_the_right_in_reading_order() -> None:
    bars = bars_of(scene_of(table_of(["a", "b", "c"], [], [3, 2, 1]), direction="horizontal"))
    assert rising([bar.y for bar in bars])
    assert len({round(bar.x, 6) for bar in bars}) == 1


def _fills(scene: Scene) -> list[str]:
    return [mark.fill for mark in scene.marks if isinstance(mark, Rect) and mark.role == "bar"]


def test_flagged_figures_keep_their_fill_within_a_broken_outline_and_are_explained() -> None:
    plain = _fills(scene_of(table_of(["a", "b"], [], [1, 2])))
    scene = scene_of(table_of(["a", "b"], [], [1, 2], flagged=2))
    assert _fills(scene) == plain
    bars = [mark for mark in scene.marks if isinstance(mark, Rect) and mark.role == "bar"]
    assert [mark.broken for mark in bars] == [True, False]
    assert texts_of(scene, "value") == ["1*", "2"]
    assert texts_of(scene, "footnote")[0].startswith("* base below 30.")
