"""What is written at bars: which figures, how, and where."""

import pytest

from grainstack.chart.bars.bar_arrangement import arranged_bars
from grainstack.chart.bars.bar_picture import bar_scene
from grainstack.chart.bars.bar_request import BarRequest
from grainstack.chart.chart_requests import NumbersRequest
from grainstack.chart.look.color import contrast
from grainstack.chart.marks import Line, Rect, Text
from grainstack.chart.scene import Scene
from grainstack.chart.writing.figures import figures_of
from grainstack.chart.writing.numbers import NumberStyle
from grainstack.errors import RequestError
from tests.chart.asking import chart_requests
from tests.chart.scenes import bars_of, table_of, texts_of


def scene(figures: list[float], names: list[str] | None = None, reach: float | None = None, **bars: object) -> Scene:
    series = names or []
    labels = [f"c{place}" for place in range(len(figures) // max(len(series), 1))]
    statistic = "sum" if bars.get("layout") == "stacked" else "mean"
    request = chart_requests(BarRequest(**bars))  # type: ignore[arg-type]
    return bar_scene(arranged_bars(table_of(labels, series, figures, statistic, reach), request[BarRequest]), request)


def values(drawn: Scene) -> list[Text]:
    return [mark for mark in drawn.marks if isinstance(mark, Text) and mark.role == "value"]


def written(value: float, **wishes: str) -> str:
    table = table_of(["a", "b"], [], [value, value], "sum")
    return figures_of(table.columns[0], numbers=NumbersRequest(**wishes)).text(0)


@pytest.mark.parametrize("direction", ["vertical", "horizontal"])
def test_figures_stand_beyond_the_whisker(direction: str) -> None:
    drawn = scene([10, 20, 15], reach=3, direction=direction)
    for text, bar in zip(values(drawn), bars_of(drawn), strict=True):
        whisker = [
            mark for mark in drawn.marks if isinstance(mark, Line) and mark.key == bar.key and mark.role == "whisker"
        ]
        if direction == "vertical":
            assert text.y <= min(min(line.y1, line.y2) for line in whisker)
        else:
            assert text.left >= max(max(line.x1, line.x2) for line in whisker)


@pytest.mark.parametrize("place", ["inside", "end"])
@pytest.mark.parametrize("direction", ["vertical", "horizontal"])
def test_figures_can_stand_inside(place: str, direction: str) -> None:
    drawn = scene([10, 20, 15], label_place=place, direction=direction)
    for text, bar in zip(values(drawn), bars_of(drawn), strict=True):
        left, top, right, bottom = text.box
        assert bar.x <= left
        assert right <= bar.x + bar.width
        assert bar.y <= top
        assert bottom <= bar.y + bar.height
        assert contrast(text.fill, bar.fill) >= 4.5


def test_a_figure_at_the_end_stays_clear_of_the_whisker_within_the_bar() -> None:
    drawn = scene([40, 50], reach=5, label_place="end", direction="horizontal")
    for text, bar in zip(values(drawn), bars_of(drawn), strict=True):
        inner = bar.x + bar.width * (1 - 5 / (40 if bar.key.category == ("c0",) else 50))
        assert text.box[2] <= inner + 0.01


def test_figures_that_do_not_fit_inside_are_left_out() -> None:
    drawn = scene([100, 0.1], label_place="inside", direction="horizontal")
    assert [text.key.category for text in values(drawn)] == [("c0",)]


def test_a_list_of_figures_puts_the_others_in_brackets_and_explains_them() -> None:
    drawn = scene([10, 20], label="value, base")
    assert texts_of(drawn, "value") == ["10 (44)", "20 (44)"]
    assert "In brackets: base." in " ".join(texts_of(drawn, "footnote"))
    assert texts_of(scene([10, 20], label="base"), "value") == ["n = 44", "n = 44"]
    assert texts_of(scene([10, 20], label="none"), "value") == []


def test_unknown_labels_are_refused() -> None:
    with pytest.raises(RequestError, match="label median"):
        BarRequest(label="value, median")


def test_crowded_neighbours_get_smaller_figures_before_none() -> None:
    few = values(scene([10, 20] * 3, ["x", "y"], layout="grouped", direction="vertical"))
    many = values(scene([1234, 2345] * 24, ["x", "y"], layout="grouped", direction="vertical"))
    assert len(few) == 6
    assert not many or many[0].size < few[0].size
    lines = scene([10.0] * 40, direction="horizontal")
    assert len(values(lines)) == 40
    assert values(lines)[0].size <= few[0].size


def test_an_empty_bar_says_so() -> None:
    assert texts_of(scene([10, float("nan")]), "value") == ["10", "–"]


def test_a_figure_is_the_same_text_wherever_it_stands() -> None:
    drawn = scene([12.345, 6.7])
    tips = [bar.tip.rpartition(": ")[2].partition(",")[0] for bar in bars_of(drawn)]
    assert tips == texts_of(drawn, "value") == ["12.3", "6.7"]


@pytest.mark.parametrize(
    ("value", "wishes", "text"),
    [
        (1234567.0, {}, "1,234,567"),
        (1234567.0, {"locale": "de"}, "1.234.567"),
        (1234567.0, {"locale": "fr"}, "1\u202f234\u202f567"),
        (1234567.0, {"show_in": "thousands"}, "1,235"),
        (1234567.0, {"show_in": "millions"}, "1.23"),
        (1234.5, {"format": "€#,##0.00"}, "€1,234.50"),
        (1234.5, {"format": "#,##0.0 min"}, "1,234.5 min"),
        (-1234.5, {"format": "#,##0"}, "−1,235"),
        (0.256, {"format": "0 %"}, "26 %"),
        (2.675, {"format": "0.00"}, "2.68"),
    ],
)
def test_figures_are_written_as_asked(value: float, wishes: dict[str, str], text: str) -> None:
    assert written(value, **wishes) == text


@pytest.mark.parametrize("wishes", [{"locale": "xx_nowhere"}, {"locale": "!"}, {"format": "no digits"}])
def test_patterns_and_languages_that_do_not_exist_are_refused(wishes: dict[str, str]) -> None:
    with pytest.raises(RequestError):
        NumbersRequest(**wishes)


def test_a_pattern_knows_whether_it_carries_a_unit() -> None:
    assert NumberStyle(pattern="€#,##0.0").carries_unit
    assert NumberStyle(pattern="0 %").carries_unit
    assert not NumberStyle(pattern="#,##0.0").carries_unit


def test_comparison_letters_stand_beyond_the_figures() -> None:
    table = table_of(["a", "b"], [], [10, 20], "mean", 2, letters=True)
    for direction in ("vertical", "horizontal"):
        request = chart_requests(BarRequest(direction=direction))
        drawn = bar_scene(arranged_bars(table, request[BarRequest]), request)
        assert texts_of(drawn, "letter") == ["a", "ab"]
        letters = [mark for mark in drawn.marks if isinstance(mark, Text) and mark.role == "letter"]
        for letter, value in zip(letters, values(drawn), strict=True):
            assert letter.y < value.y if direction == "vertical" else letter.left > value.box[2]


def test_grid_lines_never_run_through_a_figure() -> None:
    drawn = scene([10, 20, 15], direction="horizontal")
    grounds = [mark for mark in drawn.marks if isinstance(mark, Rect) and mark.role == "ground"]
    assert len(grounds) == 3


def test_means_show_their_base_under_the_label_unless_it_is_written_at_the_bar() -> None:
    assert texts_of(scene([10, 20]), "base") == ["n = 44", "n = 44"]
    assert texts_of(scene([10, 20], label="value, base"), "base") == []
    assert texts_of(scene([10, 20, 30, 40], ["x", "y"], layout="grouped"), "base") == ["n = 44", "n = 44"]


def test_a_share_or_change_that_is_not_nothing_is_never_written_as_0() -> None:
    style = NumberStyle(100.0, 0, signed=True)
    assert [style(value) for value in (0.002, 0.0, -0.002, -0.006)] == ["<1", "0", ">−1", "−1"]
