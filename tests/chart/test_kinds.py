"""Pies, treemaps, dots and distributions: arranged, composed, and held to the same rules as bars."""

from itertools import combinations, pairwise
from math import pi
from random import Random

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from grainstack.chart.distributions.bands import bands_of, edges_of, heights_of
from grainstack.chart.distributions.distribution_arrangement import Distribution, boxes_of, distribution_of
from grainstack.chart.distributions.distribution_request import DistributionRequest
from grainstack.chart.frame.page import spaced
from grainstack.chart.frame.record_dots import dot_radius, offsets, record_dots
from grainstack.chart.marks import Dot, Line, MarkRole, Rect, Sector
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.pies.leaders import crosses, uncrossed
from grainstack.chart.pies.pie_arrangement import arranged_pies, nearly_equal
from grainstack.chart.pies.pie_request import PieRequest
from grainstack.chart.scene import Scene
from grainstack.chart.treemaps.tile_tree import arranged_tree
from grainstack.chart.treemaps.tiling import squarified
from grainstack.chart.treemaps.treemap_request import TreemapRequest
from grainstack.chart.writing.numbers import NumberStyle
from grainstack.errors import ChartError, RequestError
from grainstack.requests import Requests
from grainstack.summary.figures.quantiles import Counted
from grainstack.summary.table import SummaryTable
from tests.chart.asking import chart_requests
from tests.chart.kinds import kind_requests, kind_scene
from tests.chart.scenes import check, check_grounds, check_type, table_of, texts_of, working_size
from tests.soak import SOAK

PLAIN = chart_requests()
SIZES = st.lists(st.floats(1e-3, 1e4), min_size=1, max_size=60).map(lambda sizes: sorted(sizes, reverse=True))


@settings(max_examples=100 * SOAK, deadline=None, suppress_health_check=list(HealthCheck))
@given(kind_requests())
def test_nothing_ever_collides_or_leaves_the_picture(drawn: tuple[str, SummaryTable, Requests, bool]) -> None:
    kind, table, request, ring = drawn
    try:
        scene = kind_scene(kind, table, request, ring=ring)
    except ChartError as error:
        larger = replace(request[PictureRequest], size=working_size(error))
        scene = kind_scene(kind, table, request.having(larger), ring=ring)
    check(scene)
    check_grounds(scene)
    check_type(scene, request[PictureRequest].style_named)
    assert MarkRole.CATEGORY not in dict(scene.left_out)
    assert not _crossings(scene)


def test_slices_run_clockwise_from_the_top_and_fill_the_disc() -> None:
    scene = kind_scene("pie", table_of(["a", "b", "c"], [], [5, 3, 2], "sum"), PLAIN)
    slices = [mark for mark in scene.marks if isinstance(mark, Sector)]
    assert [(one.start, one.end) for one in slices] == [(0, 180), (180, 288), (288, 360)]
    area = sum(pi * one.radius**2 * (one.end - one.start) / 360 for one in slices)
    assert area == pytest.approx(pi * slices[0].radius ** 2)


def test_a_pie_can_be_turned_and_a_slice_set_apart_by_its_name() -> None:
    pies = arranged_pies(table_of(["a", "b"], [], [1, 1], "sum"), PieRequest(turn=90, set_apart="b"))
    [slices] = pies.slices
    assert [(one.start, one.apart) for one in slices] == [(90, False), (270, True)]
    with pytest.raises(RequestError, match="no slice `c`"):
        arranged_pies(table_of(["a", "b"], [], [1, 1], "sum"), PieRequest(set_apart="c"))


@pytest.mark.parametrize(
    ("figures", "statistic", "said"),
    [([1, -2], "sum", "a negative figure has no area"), ([1, 2], "mean", "do not add up"), ([0, 0], "sum", "zero")],
)
def test_what_has_no_parts_is_no_pie_and_no_treemap(figures: list[float], statistic: str, said: str) -> None:
    table = table_of(["a", "b"], [], figures, statistic)
    with pytest.raises(ChartError, match=said):
        arranged_pies(table, PieRequest())
    with pytest.raises(ChartError, match=said):
        arranged_tree(table)


def test_slices_too_alike_are_noticed() -> None:
    alike, clear = ([10, 9.8, 9.7, 1], [10, 7, 4, 1])
    for figures, expected in ((alike, True), (clear, False)):
        pies = arranged_pies(table_of(list("abcd"), [], [float(x) for x in figures], "sum"), PieRequest())
        assert nearly_equal(pies.slices[0]) is expected


@given(st.lists(st.floats(0, 100), max_size=20), st.floats(0.1, 10))
def test_labels_keep_their_order_and_distance(wanted: list[float], gap: float) -> None:
    wanted = sorted(wanted)
    found = spaced(wanted, gap, 0, 100)
    room = gap * (len(wanted) - 1) <= 100
    assert all(-1e-6 <= place <= 100 + 1e-6 for place in found)
    assert all(second - first >= (gap if room else 0) - 1e-6 for first, second in pairwise(found))


@given(st.lists(st.tuples(st.floats(0, 50), st.floats(0, 100)), min_size=2, max_size=9, unique=True), st.randoms())
def test_lines_can_always_be_uncrossed(starts: list[tuple[float, float]], random: Random) -> None:
    ends = [(100.0, 10.0 * place) for place in range(len(starts))]
    random.shuffle(ends)
    found = uncrossed(starts, ends)
    assert sorted(found) == sorted(ends)
    lines = [(*start, *end) for start, end in zip(starts, found, strict=True)]
    assert not any(crosses(one, other) for one, other in combinations(lines, 2))


@given(SIZES, st.floats(1, 1000), st.floats(1, 1000))
def test_tiles_fill_their_room_in_proportion_without_overlap(sizes: list[float], width: float, height: float) -> None:
    tiles = squarified(sizes, (0, 0, width, height))
    for size, (left, top, wide, tall) in zip(sizes, tiles, strict=True):
        assert wide * tall == pytest.approx(size / sum(sizes) * width * height, rel=1e-6)
        assert min(left, top) >= -1e-6
        assert left + wide <= width * (1 + 1e-6)
        assert top + tall <= height * (1 + 1e-6)
    rim = 1e-6 * (width + height)
    for one, other in combinations(tiles, 2):
        across = min(one[0] + one[2], other[0] + other[2]) - max(one[0], other[0])
        down = min(one[1] + one[3], other[1] + other[3]) - max(one[1], other[1])
        assert across <= rim or down <= rim


def test_the_published_example_of_squarified_tiles() -> None:
    # Bruls, Huizing & van Wijk (2000), figure 4: areas 6, 6, 4, 3, 2, 2, 1 in a room of 6 × 4. The first two make a
    # column of width 3, the next two a row of height 7/3 beside it.
    tiles = squarified([6, 6, 4, 3, 2, 2, 1], (0, 0, 6, 4))
    assert tiles[0] == pytest.approx((0, 0, 3, 2))
    assert tiles[1] == pytest.approx((0, 2, 3, 2))
    assert tiles[2] == pytest.approx((3, 0, 12 / 7, 7 / 3))
    assert tiles[3] == pytest.approx((3 + 12 / 7, 0, 9 / 7, 7 / 3))


def test_a_change_in_one_parent_leaves_the_order_in_others_alone() -> None:
    def order(first: float) -> list[tuple[str, ...]]:
        figures = [first, 4, 3, 9, 5, 2]
        table = table_of(["x", "y", "z"], [], [float(x) for x in figures], "sum", outer=("A", "B"))
        scene = kind_scene("treemap", table, PLAIN)
        return [mark.key.category for mark in scene.marks if isinstance(mark, Rect) and mark.role == "tile"]

    assert [name for name in order(6) if name[0] == "B"] == [name for name in order(6.2) if name[0] == "B"]


def test_a_parents_shade_is_the_mean_of_its_tiles_by_size() -> None:
    table = table_of(["x", "y"], [], [1.0, 3.0], "sum", outer=("A",), second=True)
    tree = arranged_tree(table)
    [parent] = tree.root.children
    assert parent.size == 4
    assert parent.shade == pytest.approx((1 * 1 + 3 * 3) / 4)


def test_tiles_too_small_to_see_are_drawn_together_and_said() -> None:
    figures = [1e6, *([1.0] * 50)]
    scene = kind_scene("treemap", table_of([f"n{n}" for n in range(51)], [], figures, "sum"), PLAIN)
    tiles = [mark for mark in scene.marks if isinstance(mark, Rect) and mark.role == "tile"]
    assert len(tiles) == 2
    assert "50 tiles too small to see" in " ".join(texts_of(scene, "footnote"))


def test_a_colour_bar_is_two_sided_where_the_measure_has_both_signs() -> None:
    from grainstack.chart.look.style import Style  # noqa: PLC0415 - used once
    from grainstack.chart.treemaps.treemap_picture import shades_of  # noqa: PLC0415 - used once

    mixed = arranged_tree(table_of(["x", "y"], [], [1.0, 3.0], "sum", second=True))
    assert np.isnan(shades_of(mixed, TreemapRequest(color_by="age"), None, Style()).middle)  # type: ignore[union-attr]
    moved = shades_of(mixed, TreemapRequest(color_by="age", color_middle=2), None, Style())
    assert moved is not None
    assert (moved.low, moved.middle, moved.high) == (1, 2, 3)


def test_dots_do_not_force_their_axis_to_zero_but_say_so() -> None:
    scene = kind_scene("dot", table_of(["a", "b"], [], [101.0, 104.0]), PLAIN)
    assert texts_of(scene, "tick")[0] != "0"
    assert "does not start at zero" in " ".join(texts_of(scene, "footnote"))
    near = kind_scene("dot", table_of(["a", "b"], [], [1.0, 104.0]), PLAIN)
    assert texts_of(near, "tick")[0] == "0"
    assert "does not start at zero" not in " ".join(texts_of(near, "footnote"))


def test_series_of_a_category_are_joined_by_one_line() -> None:
    scene = kind_scene("dot", table_of(["a", "b"], ["x", "y", "z"], [1, 5, 3, 2, 4, 6]), PLAIN)
    stems = [mark for mark in scene.marks if isinstance(mark, Line) and mark.role == "stem"]
    dots = [mark for mark in scene.marks if isinstance(mark, Dot) and mark.role == "dot"]
    assert len(stems) == 2
    assert len(dots) == 6
    assert min(stems[0].x1, stems[0].x2) == pytest.approx(min(dot.x for dot in dots[:3]))


def test_boxes_are_made_of_quartiles_and_whiskers_of_tukey() -> None:
    # Eleven values with quartiles 3.5, 6 and 8.5 (definition 7): the fences stand at −4 and 16, so 30 is an outlier.
    values = np.array([1.0, 2, 3, 4, 5, 6, 7, 8, 9, 10, 30])
    table = table_of(["a"], [], [7.7])
    counted = (values, np.ones(11, dtype=np.int64), np.ones(11))
    from msgspec.structs import replace  # noqa: PLC0415 - used once

    [box] = boxes_of(distribution_of(replace(table, values={"size": (counted,)})))
    assert (box.lower, box.median, box.upper) == (3.5, 6, 8.5)
    assert (box.low, box.high, box.outliers) == (1, 10, (30,))


def test_bands_of_a_histogram_hold_every_value_once() -> None:
    values = np.arange(0, 100, dtype=float)
    counted = (values, np.ones(100, dtype=np.int64), np.ones(100))
    edges = np.array([0.0, 10, 50, 100])
    assert heights_of(counted, edges, "count").tolist() == [10, 40, 50]
    assert heights_of(counted, edges, "share").tolist() == pytest.approx([0.1, 0.4, 0.5])
    heights = heights_of(counted, edges, "density")
    assert (heights * np.diff(edges)).tolist() == pytest.approx([0.1, 0.4, 0.5])
    distribution = distribution_of(table_of(["a"], [], [4.0]))
    assert edges_of(distribution, "2").tolist() == [2, 4, 6, 8]
    with pytest.raises(RequestError, match="leaves values out"):
        edges_of(distribution, "3,5")
    with pytest.raises(RequestError, match="overlap"):
        edges_of(distribution, "5,3")


@given(st.lists(st.floats(0, 300), min_size=1, max_size=200), st.floats(0.5, 4), st.floats(10, 80))
def test_dots_stay_within_their_room(places: list[float], radius: float, room: float) -> None:
    places = sorted(places)
    small = dot_radius(places, min(radius, room / 5), room)
    aside = offsets(places, small, room)
    assert max(abs(one) for one in aside) <= room / 2 + 1e-9
    assert offsets(places, small, room) == aside


def test_equal_records_stand_side_by_side() -> None:
    aside = offsets([5.0, 5.0, 5.0], 1.0, 40.0)
    assert aside[0] == 0
    assert sorted(aside) == pytest.approx([-2.1, 0, 2.1])


def test_thinning_keeps_the_ends_and_says_how_many_are_drawn() -> None:
    values = np.arange(10_000, dtype=float)
    dots = record_dots([(values, np.ones(10_000, dtype=np.int64), np.ones(10_000))], most=100)
    assert dots.drawn == 100
    [cell] = dots.cells
    assert (cell.dots[0], cell.dots[-1]) == (0, 9999)
    assert "100 of 10,000 records" in dots.note


def _crossings(scene: Scene) -> list[tuple[Line, Line]]:
    """Leaders that cross another."""
    leaders = [mark for mark in scene.marks if isinstance(mark, Line) and mark.role == "leader"]
    return [
        (one, other)
        for one, other in combinations(leaders, 2)
        if one.key != other.key and crosses((one.x1, one.y1, one.x2, one.y2), (other.x1, other.y1, other.x2, other.y2))
    ]


def _counted(values: list[float]) -> Counted:
    different, counts = np.unique(np.array(values, dtype=float), return_counts=True)
    return different, counts.astype(np.int64), counts.astype(float)


def _distribution(values: list[float]) -> Distribution:
    return replace(distribution_of(table_of(["a"], [], [4.0])), values=(_counted(values),))


def _histogram(**asked: object) -> Requests:
    return chart_requests(DistributionRequest(form="histogram", **asked))  # type: ignore[arg-type]


def test_scores_have_a_band_each() -> None:
    bands = bands_of(_distribution([1, 2, 2, 3, 5]), _histogram())
    assert list(bands.values) == [1, 2, 3, 4, 5]
    assert bands.heights[0].tolist() == pytest.approx([0.2, 0.4, 0.2, 0, 0.2])


def test_far_values_stand_in_an_open_band() -> None:
    bands = bands_of(_distribution([*range(100), 100_000]), _histogram(heights="count"))
    assert (bands.under, bands.over, *bands.closed) == (False, True, 0, 100)
    assert bands.heights[0][-1] == 1
    assert bands.heights[0].sum() == 101
    assert bands.ends(NumberStyle()) == ("0", "100+")


@given(st.lists(st.floats(-1e6, 1e6), min_size=1, max_size=300), st.integers(4, 200))
def test_chosen_bands_hold_every_value_and_never_are_more_than_can_be_seen(values: list[float], most: int) -> None:
    bands = bands_of(_distribution(values), _histogram(heights="count"), most)
    assert bands.heights[0].sum() == pytest.approx(len(values))
    assert len(bands.edges) - 1 <= max(most, 15)
    low, high = bands.closed
    assert bands.under or low <= min(values) + 1e-6 * bands.span
    assert bands.over or high >= max(values) - 1e-6 * bands.span


def test_bands_of_differing_width_have_densities_only() -> None:
    distribution = _distribution([1, 2, 30])
    assert bands_of(distribution, _histogram(bands="0,10,40")).stat == "density"
    with pytest.raises(RequestError, match="differ in width"):
        bands_of(distribution, _histogram(bands="0,10,40", heights="share"))
