"""Value axes: round ticks, ranges by hand, references, and a second axis on the same grid."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from grainstack.chart.bars.bar_arrangement import arranged_bars
from grainstack.chart.bars.bar_picture import bar_scene
from grainstack.chart.bars.bar_request import BarRequest
from grainstack.chart.chart_requests import AxisRequest, NumbersRequest, WordsRequest
from grainstack.chart.frame.ticks import from_zero, ticks_within
from grainstack.chart.frame.value_axis import AxisNeeds, matching_axis, value_axis
from grainstack.chart.marks import Dot, Line, MarkRole
from grainstack.chart.scene import Scene
from grainstack.chart.second_request import SecondRequest
from grainstack.chart.writing.numbers import NumberStyle
from grainstack.errors import RequestError
from tests.chart.asking import chart_requests
from tests.chart.scenes import bars_of, scene_of, table_of, texts_of

PLAIN = NumberStyle()


def needs(low: float, high: float, **wishes: str) -> AxisNeeds:
    asked = AxisRequest(**wishes)  # type: ignore[arg-type]
    return AxisNeeds(low, high, share=False, percent=False, whole=False, write=PLAIN, request=asked)


def drawn(figures: list[float], *, second: bool = False, fit: bool = False, **wishes: object) -> Scene:
    labels = [f"c{place}" for place in range(len(figures))]
    table = table_of(labels, [], figures, second=second)
    told = {"second_range": "fit" if fit else "from-zero"}
    told |= {name: wishes.pop(name) for name in list(wishes) if name.startswith("second_")}  # type: ignore[misc]
    request = chart_requests(
        BarRequest(direction="vertical"),
        AxisRequest(**wishes),  # type: ignore[arg-type]
        SecondRequest(second_measure="age", **told),
    )
    return bar_scene(arranged_bars(table, request[BarRequest]), request)


@pytest.mark.parametrize(
    ("low", "high", "most", "labels"),
    [
        (0, 97, 5, ("0", "20", "40", "60", "80", "100")),
        (0, 0.9, 3, ("0.0", "0.5", "1.0")),
        (-30, 70, 5, ("−50", "−25", "0", "25", "50", "75")),
        (0, 2_600_000, 3, ("0", "1,000,000", "2,000,000", "3,000,000")),
    ],
)
def test_ticks_are_round_and_cover_what_is_drawn(low: float, high: float, most: int, labels: tuple[str, ...]) -> None:
    axis = value_axis(needs(low, high), most)
    assert axis.labels == labels
    assert axis.low <= low
    assert axis.high >= high


def test_a_range_by_hand_keeps_its_ends() -> None:
    axis = value_axis(needs(0, 97, value_range="15,45"), 4)
    assert [axis.low, axis.high] == [15, 45]
    assert all(15 <= tick <= 45 for tick in axis.ticks)


def test_ticks_by_hand_stand_where_they_are_asked_for() -> None:
    axis = value_axis(needs(0, 97, ticks="0, 33, 66, 99"), 4)
    assert list(axis.ticks) == [0, 33, 66, 99]
    assert axis.labels == ("0", "33", "66", "99")
    assert len(value_axis(needs(0, 97, ticks="2"), 6).ticks) <= 3


@pytest.mark.parametrize(
    "wishes",
    [{"value_range": "5"}, {"value_range": "9,1"}, {"value_range": "a,b"}, {"ticks": "x"}, {"reference": ("=Target",)}],
)
def test_what_cannot_be_read_is_refused(wishes: dict[str, object]) -> None:
    with pytest.raises(RequestError):
        AxisRequest(**wishes)  # type: ignore[arg-type]


def test_bars_that_do_not_start_at_zero_are_broken_and_said() -> None:
    scene = drawn([10, 20], value_range="5,25")
    assert [mark.role for mark in scene.marks].count(MarkRole.BREAK) == 4
    assert "does not start at zero but at 5" in " ".join(texts_of(scene, "footnote"))
    whole = drawn([10, 20])
    assert "break" not in [mark.role for mark in whole.marks]


def test_a_reference_line_has_its_label_and_lies_at_its_value() -> None:
    scene = drawn([10, 20], reference=("15=Target",))
    [line] = [mark for mark in scene.marks if isinstance(mark, Line) and mark.role == "reference"]
    bars = bars_of(scene)
    per_unit = bars[1].height / 20
    assert bars[1].y + bars[1].height - line.y1 == pytest.approx(15 * per_unit)
    assert texts_of(scene, "reference-label") == ["Target"]


def test_the_axis_reaches_a_reference_beyond_the_bars() -> None:
    scene = drawn([10, 20], reference=("90=Far",))
    assert int(texts_of(scene, "tick")[-1]) >= 90


@given(st.floats(0, 1e5), st.floats(1, 1e6), st.integers(2, 8), st.booleans())
def test_both_axes_share_their_grid(low: float, span: float, intervals: int, from_zero: bool) -> None:  # noqa: FBT001
    first = value_axis(needs(0, 10.0 * intervals), intervals)
    second = matching_axis(needs(low, low + span), first, from_zero=from_zero)
    assert len(second.ticks) == len(first.ticks)
    assert second.ticks[0] <= low + 1e-6 * span
    assert second.ticks[-1] >= (low + span) * (1 - 1e-6)
    if from_zero:
        assert second.low == 0


def test_zero_stands_at_one_height_where_the_first_axis_has_two_sides() -> None:
    first = value_axis(needs(-20, 40), 4)
    second = matching_axis(needs(0, 7), first, from_zero=True)
    assert first.ticks.index(0) == second.ticks.index(0)


def test_a_second_measure_has_dots_and_an_axis_in_its_own_colour() -> None:
    scene = drawn([10, 20, 15], second=True)
    dots = [mark for mark in scene.marks if isinstance(mark, Dot) and mark.role == "second-dot"]
    assert len(dots) == 3
    colors = {mark.fill for mark in scene.marks if mark.role in ("second-dot", "second-tick", "second-title")}  # type: ignore[union-attr]
    assert len(colors) == 1
    assert colors.isdisjoint({bar.fill for bar in bars_of(scene)})
    assert texts_of(scene, "second-title") == ["Mean age"]


def test_a_second_measure_is_told_as_it_is_asked_for() -> None:
    told = {"second_title": "Years", "second_unit": "mean", "second_range": "0,200", "second_color": "teal"}
    scene = drawn([101, 108], second=True, **told)  # type: ignore[arg-type]
    assert texts_of(scene, "second-title") == ["Years (mean)"]
    assert (texts_of(scene, "second-tick")[0], texts_of(scene, "second-tick")[-1]) == ("0", "200")
    colors = {mark.fill for mark in scene.marks if mark.role in ("second-dot", "second-tick")}  # type: ignore[union-attr]
    assert colors == {"#008080"}


def test_a_second_range_that_leaves_figures_out_is_refused() -> None:
    with pytest.raises(RequestError, match="leaves 108 out"):
        drawn([101, 108], second=True, second_range="0,105")


def test_a_fitted_second_axis_need_not_start_at_zero() -> None:
    assert texts_of(drawn([101, 108], second=True), "second-tick")[0] == "0"
    assert texts_of(drawn([101, 108], second=True, fit=True), "second-tick")[0] != "0"


def test_ticks_within_a_range_never_leave_it() -> None:
    ticks = ticks_within(13, 88, 5)
    assert all(13 <= value <= 88 for value in ticks.values)
    assert len(ticks.values) >= 2
    assert ticks_within(0.31, 0.32, 1).values


def test_patterns_apply_to_all_ticks_alike() -> None:
    table = table_of(["a", "b"], [], [1200.0, 3400.0])
    request = chart_requests(
        BarRequest(direction="vertical"),
        NumbersRequest(format="€#,##0"),
        WordsRequest(no_note=True),
    )
    scene = bar_scene(arranged_bars(table, request[BarRequest]), request)
    ticks = texts_of(scene, "tick")
    assert ticks[:3] == ["€0", "€1,000", "€2,000"]
    assert all(tick.startswith("€") for tick in ticks)
    assert texts_of(scene, "value") == ["€1,200", "€3,400"]


def test_figures_of_a_second_measure_stand_at_its_dots_unless_none_are_wanted() -> None:
    table = table_of(["a", "b"], [], [10, 20], second=True)
    assert len(texts_of(scene_of(table), "second-value")) == 2
    assert texts_of(scene_of(table, label="none"), "second-value") == []


@pytest.mark.parametrize(("low", "high"), [(0, 0), (0, 1), (-1, 0), (-2, 1)])
def test_an_axis_of_whole_numbers_has_some_length(low: float, high: float) -> None:
    axis = value_axis(replace(needs(low, high), whole=True), 8)
    assert axis.low <= low <= high <= axis.high
    assert axis.high - axis.low >= 1
    assert all(tick == round(tick) for tick in axis.ticks)


@pytest.mark.parametrize(
    ("low", "high", "start", "end"),
    [
        (3, 10, 0, 10),
        (4, 10, 4, 10),
        (-10, -3, -10, 0),
        (-10, -4, -10, -4),
        (-1, 5, -1, 5),
        (7, 7, 0, 7),
        (-7, -7, -7, 0),
    ],
)
def test_an_axis_starts_at_zero_where_figures_start_near_it(low: float, high: float, start: float, end: float) -> None:
    assert from_zero(low, high) == (start, end)
