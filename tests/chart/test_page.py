"""The page around the plots: words, legends, and the last word on collisions."""

import numpy as np
import pytest
from msgspec.structs import replace

from grainstack.chart.chart_requests import NumbersRequest, WordsRequest
from grainstack.chart.frame.collisions import cleared
from grainstack.chart.frame.plane import Box, Plane, grid_of_panels
from grainstack.chart.look.palette import FIELDS, NAMED
from grainstack.chart.look.style_file import style_named
from grainstack.chart.marks import Line, MarkRole, Rect, Text, descent
from grainstack.chart.palette_sheet import palette_rows, palettes_scene, palettes_text
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.scene import Scene
from grainstack.chart.writing.figures import figures_of
from grainstack.chart.writing.wording import alt_text, default_title, titled_with_unit, words_for
from grainstack.errors import RequestError
from grainstack.language import in_words
from grainstack.records.variable import Variable
from tests.chart.asking import chart_requests
from tests.chart.scenes import bars_of, check, scene_of, table_of, texts_of

KINDS = ["App", "Website", "Ticket desk"]
STACK = table_of(["a", "b"], KINDS, [3, 2, 1, 1, 2, 3], "sum")


def legend(scene: Scene) -> list[Text]:
    return [mark for mark in scene.marks if isinstance(mark, Text) and mark.role == "legend"]


def text(x: float, y: float, role: MarkRole, content: str = "text") -> Text:
    return Text(x, y, content, 10, 20, "#000000", role)


@pytest.mark.parametrize("place", ["top", "bottom", "right", "inside", "direct"])
def test_a_legend_stands_where_it_is_asked_for(place: str) -> None:
    scene = scene_of(STACK, layout="stacked", legend=place, direction="horizontal")
    check(scene)
    names = legend(scene)
    assert sorted(mark.content for mark in names) == sorted(KINDS)
    bars = bars_of(scene)
    top, bottom = min(bar.y for bar in bars), max(bar.y + bar.height for bar in bars)
    right = max(bar.x + bar.width for bar in bars)
    swatches = [mark for mark in scene.marks if mark.role == "legend-swatch"]
    if place in ("top", "direct"):
        assert all(mark.y < top for mark in names)
    if place == "bottom":
        assert all(mark.y > bottom for mark in names)
    if place == "right":
        assert all(mark.left > right for mark in names)
    assert bool(swatches) == (place != "direct")


def test_a_legend_that_would_repeat_the_axis_is_left_out() -> None:
    assert legend(scene_of(table_of(["a", "b"], [], [1, 2]))) == []
    assert legend(scene_of(STACK, layout="stacked", legend="none")) == []


def test_names_at_segments_fall_back_to_a_legend_where_they_do_not_fit() -> None:
    names = [f"A rather long name of series {place}" for place in range(6)]
    table = table_of(["a"], names, [0.9, 0.02, 0.02, 0.02, 0.02, 0.02], "share")
    scene = scene_of(table, layout="percent", legend="direct")
    check(scene)
    assert [mark.role for mark in scene.marks].count(MarkRole.LEGEND_SWATCH) == 6


def test_a_tiny_picture_shortens_its_legend_before_it_covers_the_bars() -> None:
    names = [f"Series number {place} with a name" for place in range(8)]
    scene = scene_of(table_of(["a"], names, [1.0] * 8, "sum"), size="60x45mm", layout="stacked")
    check(scene)
    assert all(mark.tip in ("", *names) for mark in legend(scene))


def test_swatches_have_the_colours_of_the_bars() -> None:
    scene = scene_of(STACK, layout="stacked")
    swatches = {
        mark.key.series: mark.fill for mark in scene.marks if isinstance(mark, Rect) and mark.role == "legend-swatch"
    }
    assert swatches == {(name,): fill for name, fill in zip(KINDS, FIELDS, strict=False)}
    assert all(bar.fill == swatches[bar.key.series] for bar in bars_of(scene))


def test_the_less_important_text_gives_way() -> None:
    marks = (text(10, 20, MarkRole.VALUE), text(12, 21, MarkRole.CATEGORY), text(100, 20, MarkRole.VALUE))
    assert cleared((200, 100), marks) == (marks[1], marks[2])


def test_texts_beyond_the_picture_and_over_whiskers_are_dropped() -> None:
    whisker = Line(50, 0, 50, 40, "#000000", 1, MarkRole.WHISKER)
    marks = (whisker, text(190, 20, MarkRole.VALUE), text(45, 20, MarkRole.VALUE), text(60, 20, MarkRole.VALUE))
    assert cleared((200, 100), marks) == (whisker, marks[3])


def test_the_ground_of_a_dropped_text_goes_with_it() -> None:
    ground = Rect(5, 5, 40, 20, "#ffffff", MarkRole.GROUND)
    marks = (ground, text(10, 20, MarkRole.VALUE), text(28, 21, MarkRole.TITLE))
    assert ground not in cleared((200, 100), marks)
    assert cleared((200, 100), (ground, marks[1])) == (ground, marks[1])


def test_boxes_know_what_they_hold() -> None:
    box = Box(0, 0, 10, 10)
    assert box.holds(Box(1, 1, 9, 9))
    assert not box.holds(Box(1, 1, 11, 9))
    assert box.meets(Box(9, 9, 20, 20))
    assert not box.meets(Box(10, 0, 20, 10))


def test_values_beyond_an_axis_stand_at_its_end() -> None:
    plane = Plane(Box(0, 0, 100, 50), Box(0, 0, 100, 50), horizontal=True, low=0, high=10, places=(0.0, 1.0), span=2)
    assert plane.value(5) == 50
    assert plane.value(99) == 100
    assert plane.value(-1) == 0
    assert plane.middle(1) == 37.5
    upright = replace(plane, horizontal=False)
    assert upright.value(10) == 0
    assert upright.point(20, 0) == (20, 50)


@pytest.mark.parametrize(
    ("count", "wanted", "shape"), [(1, None, (1, 1)), (4, None, (2, 2)), (6, 3, (3, 2)), (5, 1, (1, 5)), (3, 9, (3, 1))]
)
def test_panels_fill_the_page_in_rows(count: int, wanted: int | None, shape: tuple[int, int]) -> None:
    assert grid_of_panels(count, wanted, Box(0, 0, 640, 300)) == shape


def test_words_follow_what_is_shown() -> None:
    table = table_of(["a"], ["x", "y"], [1, 2], "sum")
    assert default_title(table) == "Total size by place and kind"
    assert default_title(table_of(["a"], [], [1], second=True)) == "Mean size and mean age by place"
    assert in_words(["a", "b", "c"]) == "a, b and c"


def test_units_are_named_once_and_in_what_figures_are_written_in() -> None:
    table = table_of(["a"], [], [1.0], "sum")
    column = replace(table.columns[0], measure=Variable("cost", label="Cost", unit="€"))
    assert titled_with_unit((column,), NumbersRequest()) == "Total cost (€)"
    assert titled_with_unit((column,), NumbersRequest(show_in="millions")) == "Total cost (million €)"
    assert titled_with_unit((column,), NumbersRequest(format="€#,##0")) == "Total cost"
    share = table_of(["a"], [], [0.5], "share").columns
    assert titled_with_unit(share, NumbersRequest(show_in="millions")) == "Share of records (%)"


def test_words_can_be_given_or_left_out() -> None:
    words = words_for(STACK, chart_requests(WordsRequest(title="none", footnote="Ours.", source="Desk")), ["Theirs."])
    assert (words.title, words.source) == ("", "Source: Desk")
    assert words.footnote.startswith("Ours. Base: 41 records")
    assert words.footnote.endswith("Theirs.")
    without = words_for(STACK, chart_requests(WordsRequest(footnote="Ours.", no_note=True)), ["Theirs."])
    assert without.footnote == "Ours."
    written = words_for(STACK, chart_requests(), ["One more thing."])
    assert written.footnote.endswith("One more thing.")


def test_a_value_title_said_by_the_subtitle_is_not_said_twice() -> None:
    words = words_for(STACK, chart_requests(WordsRequest(subtitle="Total size, spring")))
    assert words.value_title == ""


def test_the_alternative_text_leaves_totals_aside() -> None:
    figures = figures_of(STACK.columns[0])
    said = alt_text("Stacked bar chart", STACK, STACK.columns[0], "Sizes", figures)
    assert (
        said == "Stacked bar chart. Sizes. 2 categories in 3 series; highest: a, App (3), lowest: a, Ticket desk (1)."
    )


def test_the_alternative_text_of_a_figure_without_values_has_no_extremes() -> None:
    column = replace(STACK.columns[0], estimate=STACK.columns[0].estimate * np.nan)
    said = alt_text("Dot chart", STACK, column, "Sizes", figures_of(column))
    assert said == "Dot chart. Sizes. 2 categories in 3 series."


def test_figures_stand_on_the_line_and_letters_may_hang_below() -> None:
    assert descent("1034.5 %") == 0
    assert descent("1,034") == 0.15
    assert descent("(44)") == 0.21
    assert descent("gap") == 0.21


@pytest.mark.parametrize("size", ["1280x800px", "160x100mm"])
def test_the_palettes_are_drawn_in_every_vision(size: str) -> None:
    scene = palettes_scene(PictureRequest(size=size).points, style_named("report"))
    swatches = [mark for mark in scene.marks if isinstance(mark, Rect) and mark.role == "swatch"]
    assert len(swatches) == 4 * sum(len(NAMED[name]) for name in ("fields", "meadow", "kiln", "furrow", "slate"))
    assert {mark.fill for mark in swatches if mark.key.series == ("ordinary",)} >= set(FIELDS)


def test_every_palette_keeps_its_colours_apart_in_every_vision() -> None:
    for name, _, vision, _, gap in palette_rows():
        assert gap >= (0.115 if name == "fields" else 0.08), (name, vision)
    assert "tritanopia" in palettes_text(colors=False)
    assert "\x1b[48;2;26;114;106m" in palettes_text(colors=True)


@pytest.mark.parametrize(
    "wrong",
    [
        {"bar_width": 2},
        {"gap": -1},
        {"panel_columns": 0},
        {"opposite": "a"},
        {"neutral": "apart"},
    ],
)
def test_wishes_that_make_no_sense_are_refused_at_birth(wrong: dict[str, object]) -> None:
    from grainstack.chart.bars.bar_request import BarRequest  # noqa: PLC0415 - used once

    with pytest.raises(RequestError):
        BarRequest(**wrong)  # type: ignore[arg-type]


def test_titles_wrap_and_numbers_keep_their_percent_sign() -> None:
    from grainstack.chart.writing.text import wrapped  # noqa: PLC0415 - used once

    lines = wrapped("all of them are within 95 % limits", 10, 105, 4)
    assert not any(line.startswith("%") for line in lines)
    assert " ".join(lines) == "all of them are within 95 % limits"
    assert texts_of(scene_of(STACK, layout="stacked", title="word " * 40), "title")[-1].endswith("…")
