"""Colours: one for each level, wherever it stands, and never one for two."""

from itertools import combinations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from grainstack.chart.bars.bar_arrangement import arranged_bars
from grainstack.chart.bars.bar_picture import bar_scene
from grainstack.chart.bars.bar_request import BarRequest
from grainstack.chart.colors_request import ColorsRequest, FillsRequest
from grainstack.chart.look.color import PAPER, contrast, over
from grainstack.chart.look.coloring import Ink, colors_of, inks_of_series, recolored
from grainstack.chart.look.palette import FIELDS, FURROW, MEADOW, PALE, shades
from grainstack.chart.look.style import Style
from grainstack.chart.look.style_file import style_named
from grainstack.chart.look.vision import VISIONS, as_seen, between, distance
from grainstack.chart.marks import Rect
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.scene import Scene
from grainstack.errors import RequestError
from grainstack.records.variable import Kind, Level, LevelOrder, LevelRole, Variable
from grainstack.summary.table import Dimension, Role
from tests.chart.asking import chart_requests
from tests.chart.scenes import bars_of, table_of
from tests.soak import SOAK

REPORT = Style()
SPECIAL = (LevelRole.REST, LevelRole.NO_ANSWER)
MOST_TONES = 5  # steps of a ramp, beside two greys; more may need patterns
MOST_GREYS = 12  # five of a palette without colours, and seven patterns
MOST_DOTS = 6  # four tones of a ramp, and two greys
NAMES = [f"l{place}" for place in range(12)]
EVERY = tuple(Level(name, name.upper()) for name in NAMES)


def series(shown: list[int], *, ordered: bool = False, colors: dict[int, str] | None = None) -> Dimension:
    levels = tuple(Level(NAMES[n], NAMES[n].upper(), (colors or {}).get(n)) for n in shown)
    kind = Kind.ORDERED if ordered else Kind.CATEGORY
    variable = Variable("s", kind).with_levels(levels, LevelOrder.CODEBOOK)
    every = EVERY[:5] if max(shown) < 5 else EVERY
    return Dimension(Role.SERIES, variable, "", all_levels=every)


def fills(shown: list[int], wishes: ColorsRequest | None = None, **known: object) -> list[str]:
    dimension = series(shown, **known)  # type: ignore[arg-type]
    return [ink.fill for ink in inks_of_series(dimension, len(shown), wishes or ColorsRequest(), REPORT)]


def drawn(figures: list[float], names: list[str], *, style: str = "report", **wishes: object) -> Scene:
    request = chart_requests(
        BarRequest(layout="grouped" if names else None),
        FillsRequest(**wishes),  # type: ignore[arg-type]
        PictureRequest(style=style),
    )
    count = len(figures) // max(len(names), 1)
    table = table_of([f"c{place}" for place in range(count)], names, figures)
    return bar_scene(arranged_bars(table, request[BarRequest]), request)


def test_a_level_keeps_its_colour_when_others_are_filtered_away() -> None:
    assert fills([0, 1, 2, 3]) == list(FIELDS[:4])
    assert fills([1, 3]) == [FIELDS[1], FIELDS[3]]
    assert fills([3, 1]) == [FIELDS[3], FIELDS[1]]


@given(st.lists(st.integers(0, 11), min_size=1, max_size=8, unique=True))
def test_no_two_levels_share_a_colour(shown: list[int]) -> None:
    found = colors_of([EVERY[n] for n in shown], series(shown), FIELDS)
    assert len(set(found)) == len(found)
    assert None not in found


@given(st.lists(st.integers(0, 11), min_size=1, max_size=12, unique=True), st.permutations(NAMES))
def test_where_other_charts_give_colours_too_each_level_has_its_own(shown: list[int], order: list[str]) -> None:
    column = replace(series(shown), color_order=tuple(order))
    found = dict(zip(shown, colors_of(column.levels, column, FIELDS), strict=True))
    by_name = dict(zip(order, FIELDS, strict=False))
    assert found == {n: by_name.get(NAMES[n]) for n in shown}


def test_no_ninth_colour_is_made_up() -> None:
    found = inks_of_series(series(list(range(10))), 10, ColorsRequest(), REPORT)
    assert [ink.fill for ink in found[8:]] == [PALE, PALE]
    assert "" != found[8].hatch != found[9].hatch != ""
    assert len({ink.fill for ink in found[:8]}) == 8


@st.composite
def columns(draw: st.DrawFn) -> tuple[Dimension, int, tuple[int, ...] | None]:
    """Levels of a column, some of them special and some filtered away, and which way each points if any does."""
    count = draw(st.integers(1, 20))
    every = tuple(Level(f"l{n}", f"L{n}") for n in range(count))
    shown = tuple(draw(st.lists(st.sampled_from(every), min_size=1, unique=True)))
    special = [
        Level(f"*{role}{n}", f"{role} {n}", role=role)
        for n, role in enumerate(draw(st.lists(st.sampled_from(SPECIAL), max_size=2)))
    ]
    ordered = draw(st.booleans())
    variable = Variable("s", Kind.ORDERED if ordered else Kind.CATEGORY)
    levels = (*(sorted(shown, key=every.index) if ordered else shown), *special)
    dimension = Dimension(
        Role.SERIES, variable.with_levels(levels, LevelOrder.CODEBOOK), "", all_levels=(*every, *special)
    )
    sides = None
    if ordered and len(shown) <= 10 and draw(st.booleans()):
        half = len(shown) // 2
        sides = (*[-1] * half, *[0] * (len(shown) % 2), *[1] * half, *[0] * len(special))
    return dimension, len(levels), sides


@pytest.mark.parametrize(("slender", "hatched"), [(False, False), (False, True), (True, False)])
@pytest.mark.parametrize("palette", [None, "meadow", "kiln", "furrow", "slate"])
@settings(max_examples=60 * SOAK, deadline=None)
@given(columns())
def test_any_two_levels_are_told_apart(
    slender: bool,  # noqa: FBT001 - pytest fills it in by name
    hatched: bool,  # noqa: FBT001 - as above
    palette: str | None,
    column: tuple[Dimension, int, tuple[int, ...] | None],
) -> None:
    dimension, count, sides = column
    plain = sum(not level.is_special for level in dimension.levels)
    if (slender and (sides or count > (4 if palette == "slate" else MOST_DOTS))) or (
        palette == "slate" and count > MOST_GREYS
    ):
        return
    inks = inks_of_series(
        dimension, count, ColorsRequest(palette=palette), replace(REPORT, slender=slender, hatched=hatched), sides=sides
    )
    for one, other in combinations(inks, 2):
        assert distance(one.fill, other.fill) >= 0.09 or (one.hatch != other.hatch and not slender), inks
    assert len({ink.hatch for ink in inks}) == 1 or plain > MOST_TONES or palette == "slate" or hatched


def test_ordered_levels_take_a_ramp_of_all_their_levels() -> None:
    assert fills([0, 1, 2, 3, 4], ordered=True) == list(shades("meadow", 5))
    assert fills([0, 4], ordered=True) == [shades("meadow", 5)[0], shades("meadow", 5)[4]]
    assert fills([0, 1], ColorsRequest(palette="kiln"), ordered=True)[0] == shades("kiln", 5)[0]


def test_colours_of_the_codebook_come_first_and_typed_ones_before_them() -> None:
    assert fills([0, 1], colors={1: "#123456"}) == [FIELDS[0], "#123456"]
    inks = recolored((Ink("#111111"), Ink("#222222")), ("A", "B"), ColorsRequest(color=("B=#0b6",)))
    assert [ink.fill for ink in inks] == ["#111111", "#00bb66"]


def test_the_rest_is_pale() -> None:
    dimension = series([0, 1])
    levels = (*dimension.levels, Level("*", "Other", role=LevelRole.REST))
    other = Dimension(Role.SERIES, dimension.variable.with_levels(levels, LevelOrder.CODEBOOK), "", all_levels=EVERY)
    assert inks_of_series(other, 3, ColorsRequest(), REPORT)[2].fill == PALE


def test_sides_take_the_two_ends_of_a_ramp() -> None:
    five = inks_of_series(series([0, 1, 2, 3, 4], ordered=True), 5, ColorsRequest(), REPORT, sides=(-1, -1, 0, 1, 1))
    assert [ink.fill for ink in five] == [FURROW[1], FURROW[2], FURROW[3], FURROW[4], FURROW[5]]
    three = inks_of_series(series([0, 1, 2], ordered=True), 3, ColorsRequest(), REPORT, sides=(-1, 0, 1))
    assert [ink.fill for ink in three] == [FURROW[1], FURROW[3], FURROW[5]]


def test_one_colour_unless_there_are_series_or_a_highlight() -> None:
    assert {bar.fill for bar in bars_of(drawn([1, 2, 3], []))} == {FIELDS[0]}
    lit = bars_of(drawn([1, 2, 3], [], highlight="c1"))
    assert [bar.fill for bar in lit] == [PALE, FIELDS[0], PALE]
    series_lit = bars_of(drawn([1, 2, 3, 4], ["x", "y"], highlight="y"))
    assert [bar.fill for bar in series_lit] == [PALE, FIELDS[1], PALE, FIELDS[1]]


@pytest.mark.parametrize(("option", "value"), [("highlight", "c9"), ("color", ("c9=#123456",))])
def test_colours_hang_on_names_that_exist(option: str, value: object) -> None:
    with pytest.raises(RequestError, match="no level `c9` is shown"):
        drawn([1, 2, 3], [], **{option: value})  # type: ignore[arg-type]


@pytest.mark.parametrize("text", ["App", "App=reddish", "App=#12", "=#12345g"])
def test_colours_that_cannot_be_read_are_refused(text: str) -> None:
    with pytest.raises(RequestError, match="is no colour"):
        ColorsRequest(color=(text,))


def test_a_black_and_white_printer_loses_nothing() -> None:
    bars = bars_of(drawn([1, 2, 3, 4, 5, 6], ["x", "y", "z"], style="mono"))
    looks = {(bar.fill, bar.hatch) for bar in bars}
    assert len(looks) == 3
    assert all(len({*(bar.fill[i : i + 2] for i in (1, 3, 5))}) < 4 for bar in bars)
    assert len({bar.hatch for bar in bars}) == 3


def test_a_figure_on_a_patterned_bar_has_a_plain_ground() -> None:
    request = chart_requests(BarRequest(layout="stacked"), FillsRequest(hatch=True))
    table = table_of(["a"], ["x", "y", "z"], [5, 5, 5], "sum")
    scene = bar_scene(arranged_bars(table, request[BarRequest]), request)
    hatched = [bar for bar in bars_of(scene) if bar.hatch]
    grounds = [mark for mark in scene.marks if isinstance(mark, Rect) and mark.role == "ground"]
    for bar in hatched:
        assert any(ground.fill == PAPER and bar.y <= ground.y <= bar.y + bar.height for ground in grounds)


def test_see_through_bars_are_judged_by_what_is_seen() -> None:
    bars = bars_of(drawn([1, 2], [], opacity=0.5, outline=True))
    assert {bar.opacity for bar in bars} == {0.5}
    assert all(bar.outline for bar in bars)
    assert over("#000000", PAPER, 0.5) == "#808080"
    with pytest.raises(RequestError, match="opacity"):
        ColorsRequest(opacity=0)


@pytest.mark.parametrize("count", range(1, 12))
def test_ramps_run_from_light_to_dark(count: int) -> None:
    found = shades("meadow", count)
    assert len(found) == count
    lightness = [contrast(color, PAPER) for color in found]
    assert lightness == sorted(lightness)
    if count == 7:
        assert found == MEADOW


@pytest.mark.parametrize("count", range(2, 10))
def test_two_sided_ramps_keep_their_middle_for_odd_numbers(count: int) -> None:
    found = shades("furrow", count)
    assert len(found) == count
    assert (FURROW[3] in found) == bool(count % 2)


def test_mixing_meets_both_ends() -> None:
    assert between("#102030", "#a0b0c0", 0) == "#102030"
    assert between("#102030", "#a0b0c0", 1) == "#a0b0c0"
    half = between("#000000", "#ffffff", 0.5)
    assert half[1:3] == half[3:5] == half[5:7]


def test_grey_stays_grey_in_every_vision() -> None:
    for vision in VISIONS:
        seen = as_seen("#808080", vision)
        channels = [int(seen[place : place + 2], 16) for place in (1, 3, 5)]
        assert max(channels) - min(channels) <= 2


def test_distances_are_symmetric_and_black_and_white_are_one_apart() -> None:
    assert distance("#000000", "#ffffff") == pytest.approx(1, abs=1e-3)
    assert distance("#1a726a", "#ddb227") == pytest.approx(distance("#ddb227", "#1a726a"))
    assert distance("#1a726a", "#1a726a") == 0


@pytest.mark.parametrize("name", ["report", "slide", "print", "mono"])
def test_styles_grow_and_shrink_with_the_picture(name: str) -> None:
    style = style_named(name)
    large, small = style.for_size(1280, 800), style.for_size(170, 128)
    assert large.title == pytest.approx(2 * style.title)
    assert small.title == pytest.approx(0.7 * style.title)
    assert large.nominal == style.nominal
    assert style.smaller(0.1).tick == pytest.approx(min(style.least_type, style.tick))
