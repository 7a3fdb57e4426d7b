"""Dots, slices, patterns and see-through fills, the same in every format."""

import io
import re
from itertools import pairwise
from math import hypot

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from pypdf import PdfReader

from grainstack.chart.look.coloring import HATCHES
from grainstack.chart.marks import Dot, Key, Mark, MarkRole, Rect, Sector, arc_points
from grainstack.chart.scene import Scene
from grainstack.paint import pdf, png, svg
from grainstack.paint.svg import STROKE, strokes_over

RED, BLUE = "#cc0000", "#0000cc"


def scene(*marks: Mark) -> Scene:
    return Scene(100, 80, marks, "What it shows.", "A title")


def pixels(*marks: Mark) -> "np.ndarray[tuple[int, ...], np.dtype[np.uint8]]":
    """The picture at one pixel to the point, shape (80, 100, 3)."""
    picture = Image.open(io.BytesIO(png.paint(scene(*marks), 72)))
    return np.asarray(picture.convert("RGB"))


def test_a_dot_is_round_and_in_its_place() -> None:
    drawn = pixels(Dot(50, 40, 10, RED, MarkRole.DOT))
    assert drawn[40, 50].tolist() == [204, 0, 0]
    assert drawn[40, 50 + 8].tolist() == [204, 0, 0]
    assert drawn[40 - 9, 50 - 9].tolist() == [255, 255, 255]


def test_a_slice_fills_its_part_of_the_disc() -> None:
    drawn = pixels(Sector(50, 40, 30, 0, 0, 90, RED, MarkRole.SLICE))
    assert drawn[40 - 15, 50 + 15].tolist() == [204, 0, 0]
    assert drawn[40 + 15, 50 + 15].tolist() == [255, 255, 255]
    assert drawn[40 - 15, 50 - 15].tolist() == [255, 255, 255]


def test_a_ring_is_open_in_the_middle() -> None:
    drawn = pixels(Sector(50, 40, 30, 15, 0, 360, RED, MarkRole.SLICE))
    assert drawn[40, 50].tolist() == [255, 255, 255]
    assert drawn[40, 50 + 22].tolist() == [204, 0, 0]


@pytest.mark.parametrize("hatch", [name for name in HATCHES if name])
def test_every_pattern_is_seen_and_stays_within_its_shape(hatch: str) -> None:
    drawn = pixels(Rect(20, 20, 40, 40, RED, MarkRole.BAR, hatch=hatch))
    inside = drawn[22:58, 22:58].reshape(-1, 3)
    assert len(np.unique(inside, axis=0)) > 1
    outside = np.ones(drawn.shape[:2], dtype=bool)
    outside[18:62, 18:62] = False
    assert (drawn[outside] == 255).all()


def test_patterns_of_several_marks_do_not_disturb_each_other() -> None:
    marks = [Rect(5 + 24 * n, 10, 20, 40, RED, MarkRole.BAR, hatch=hatch) for n, hatch in enumerate(HATCHES[1:5])]
    drawn = pixels(*marks)
    for n in range(4):
        part = drawn[12:48, 7 + 24 * n : 23 + 24 * n].reshape(-1, 3)
        assert len(np.unique(part, axis=0)) > 1, HATCHES[n + 1]


def test_see_through_fills_mix_with_what_is_behind() -> None:
    drawn = pixels(Rect(10, 10, 40, 40, RED, MarkRole.BAR, opacity=0.5))
    assert drawn[30, 30].tolist() == pytest.approx([230, 128, 128], abs=2)


def test_an_outline_stands_around_a_bar() -> None:
    drawn = pixels(Rect(20, 20, 40, 40, "#ffffff", MarkRole.BAR, outline=BLUE))
    assert drawn[20:60, 19:21].min() < 200


def test_svg_carries_roles_names_tips_and_patterns() -> None:
    key = Key(("North",), ("App & web",), ("2025",))
    content = svg.paint(
        scene(
            Rect(1, 2, 3, 4, RED, MarkRole.BAR, key, "a < b", hatch="rising", outline=BLUE, opacity=0.5),
            Dot(5, 6, 7, RED, MarkRole.DOT, key, "a dot", BLUE, 0.5),
            Sector(50, 40, 30, 10, 0, 90, RED, MarkRole.SLICE, key, "a slice", "dots"),
        )
    ).decode()
    assert content.count('data-category="App &amp; web"') == 3
    assert "<title>a &lt; b</title>" in content
    assert 'data-role="dot"' in content
    assert re.search(r'<pattern id="rising-[0-9a-f]{6}"', content)
    assert content.count("fill-opacity") == 2
    assert content.count(f'stroke="{BLUE}"') == 2
    assert "<desc" in content
    assert "What it shows." in content


def test_a_whole_turn_is_drawn_in_two_arcs() -> None:
    content = svg.paint(scene(Sector(50, 40, 30, 0, 0, 360, RED, MarkRole.SLICE))).decode()
    path = re.search(r'<path d="([^"]+)"', content)
    assert path is not None
    assert path[1].count("A30,30") == 2


@pytest.mark.parametrize("paint", [svg.paint, png.paint, pdf.paint])
def test_the_same_scene_gives_the_same_bytes(paint: object) -> None:
    one = scene(
        Rect(1, 2, 30, 40, RED, MarkRole.BAR, hatch="crossed"),
        Sector(50, 40, 30, 10, 20, 200, BLUE, MarkRole.SLICE, hatch="level"),
        Dot(20, 20, 5, BLUE, MarkRole.DOT, opacity=0.4),
    )
    assert paint(one, 96) == paint(one, 96)  # type: ignore[operator]


def test_pictures_say_what_they_show() -> None:
    picture = Image.open(io.BytesIO(png.paint(scene(), 72)))
    assert picture.info["Title"] == "A title"
    assert picture.info["Description"] == "What it shows."
    document = PdfReader(io.BytesIO(pdf.paint(scene(), 72))).metadata
    assert document is not None
    assert (document.title, document.subject) == ("A title", "What it shows.")


@given(st.sampled_from([name for name in HATCHES if name]), st.floats(0, 50), st.floats(0, 50), st.floats(6, 60))
def test_strokes_cross_the_whole_rectangle(hatch: str, left: float, top: float, side: float) -> None:
    strokes = list(strokes_over(hatch, left, top, left + side, top + side))
    assert strokes
    for x1, y1, x2, y2 in strokes:
        assert max(y1, y2) <= top + side + STROKE + 1e-6
        assert min(y1, y2) >= top - STROKE - 1e-6
        assert max(x1, x2) <= left + side + 5 + 1e-6
        assert min(x1, x2) >= left - 5 - 1e-6


@given(
    *(st.sampled_from(["rising", "falling", "crossed"]), st.floats(0, 50), st.floats(0, 50)),
    *(st.floats(0.5, 60), st.floats(0.5, 60)),
)
def test_diagonals_end_beyond_the_rectangle_they_cross(
    hatch: str, left: float, top: float, width: float, height: float
) -> None:
    right, bottom = left + width, top + height
    for stroke in strokes_over(hatch, left, top, right, bottom):
        for x, y in (stroke[:2], stroke[2:]):
            assert max(left - x, x - right, top - y, y - bottom) == pytest.approx(STROKE)
        assert hypot(stroke[0] - stroke[2], stroke[1] - stroke[3]) <= (min(width, height) + 2 * STROKE) * 2**0.5 + 1e-6


@given(st.floats(1, 100), st.floats(0, 360), st.floats(1, 360))
def test_points_of_an_arc_lie_on_it_and_close_together(radius: float, start: float, sweep: float) -> None:
    points = arc_points(10, 20, radius, start, start + sweep)
    assert all(hypot(x - 10, y - 20) == pytest.approx(radius) for x, y in points)
    steps = [hypot(b[0] - a[0], b[1] - a[1]) for a, b in pairwise(points)]
    assert max(steps) <= radius * 0.6


@pytest.mark.parametrize(("width", "patterned"), [(0.2, False), (0.9, False), (1.1, True), (30.0, True)])
def test_a_hair_has_no_pattern(width: float, *, patterned: bool) -> None:
    hatched, plain = (Rect(10, 10, width, 40, RED, MarkRole.BAR, hatch=hatch) for hatch in ("level", ""))
    drawing = svg.paint(scene(hatched)).decode()
    assert ('data-role="pattern"' in drawing) is patterned
    assert ("<pattern" in drawing) is patterned
    assert (png.paint(scene(hatched), 144) != png.paint(scene(plain), 144)) is patterned
