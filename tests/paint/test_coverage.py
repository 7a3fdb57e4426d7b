"""How much of each pixel shapes cover, against their areas and against many small samples."""

from math import pi

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from grainstack.chart.look.coloring import HATCHES
from grainstack.chart.scene import arc_points
from grainstack.paint.coverage import Coverage, Outline, Window, area, box, pattern_coverage, stroke
from grainstack.paint.hatching import STROKE, strokes_over

PLACES = st.floats(-30, 70)
WINDOW = Window(0, 0, 40, 30)


def sampled(window: Window, corners: Outline, each: int = 16) -> Coverage:
    """The coverage of a convex shape, from points within each pixel that lie on the same side of all its edges."""
    steps = (np.arange((window.right - window.left) * each) + 0.5) / each + window.left
    down = ((np.arange((window.bottom - window.top) * each) + 0.5) / each + window.top)[:, np.newaxis]
    sides = [
        (x2 - x1) * (down - y1) - (y2 - y1) * (steps - x1)
        for (x1, y1), (x2, y2) in zip(corners, (*corners[1:], corners[0]), strict=True)
    ]
    within = np.all([side >= 0 for side in sides], axis=0) | np.all([side <= 0 for side in sides], axis=0)
    tall, wide = window.bottom - window.top, window.right - window.left
    covered: Coverage = within.reshape(tall, each, wide, each).mean(axis=(1, 3), dtype=np.float32)
    return covered


@given(st.tuples(PLACES, PLACES), st.tuples(PLACES, PLACES), st.tuples(PLACES, PLACES))
def test_a_triangle_covers_what_samples_find(
    first: tuple[float, float], second: tuple[float, float], third: tuple[float, float]
) -> None:
    (x1, y1), (x2, y2), (x3, y3) = corners = [first, second, third]
    assume(abs((x2 - x1) * (y3 - y1) - (y2 - y1) * (x3 - x1)) > 1)  # samples of a thinner one tell little
    covered = area(WINDOW, [corners])
    assert covered.shape == (30, 40)
    off = np.abs(covered - sampled(WINDOW, corners))
    assert off.max() < 0.15  # half a sixteenth along each edge, and more at the corners


@given(PLACES, PLACES, st.floats(0, 50), st.floats(0, 50))
def test_a_box_is_the_shape_of_its_corners(left: float, top: float, wide: float, tall: float) -> None:
    right, bottom = left + wide, top + tall
    corners = [(left, top), (right, top), (right, bottom), (left, bottom)]
    assert box(WINDOW, (left, top, right, bottom)) == pytest.approx(area(WINDOW, [corners]), abs=1e-4)


@given(st.floats(12, 20), st.floats(12, 18), st.floats(0.3, 9), st.floats(0, 0.9))
def test_discs_and_rings_cover_their_areas(x: float, y: float, radius: float, hole: float) -> None:
    circles = [arc_points(x, y, radius, 0, 360)[:-1], arc_points(x, y, radius * hole, 360, 0)[:-1]]
    expected = pi * radius**2 * (1 - hole**2)
    assert area(WINDOW, circles).sum() == pytest.approx(expected, rel=0.03)


@given(st.lists(st.floats(0, 359), min_size=2, max_size=6, unique=True))
def test_slices_cover_their_disc_once(angles: list[float]) -> None:
    starts = sorted(angles)
    slices = [
        area(WINDOW, [[*arc_points(20, 15, 12, start, end), (20, 15)]])
        for start, end in zip(starts, (*starts[1:], starts[0] + 360), strict=True)
    ]
    inside = area(WINDOW, [arc_points(20, 15, 11, 0, 360)[:-1]]) == 1
    assert np.sum(slices, axis=0)[inside] == pytest.approx(1, abs=1e-3)


@given(st.integers(1, 60), st.integers(1, 60))
def test_bands_cover_a_window_once(wide: int, tall: int) -> None:
    window = Window(3, 5, 3 + wide * 1000, 5 + tall)
    bands = list(window.bands())
    assert [band.top for band in bands] == [window.top, *(band.bottom for band in bands[:-1])]
    assert bands[-1].bottom == window.bottom
    assert {(band.left, band.right) for band in bands} == {(window.left, window.right)}


@pytest.mark.parametrize("scale", [1.0, 2.0, 4.17])
@pytest.mark.parametrize("hatch", [name for name in HATCHES if name])
def test_a_pattern_covers_what_its_strokes_do(hatch: str, scale: float) -> None:
    window = Window(10, 20, 90, 80)
    sides = [side / scale for side in (window.left, window.top, window.right, window.bottom)]
    strokes = (tuple(at * scale for at in line) for line in strokes_over(hatch, *sides))
    each = [area(window, [stroke((x1, y1), (x2, y2), STROKE * scale)]) for x1, y1, x2, y2 in strokes]
    covered = pattern_coverage(hatch, window, scale)
    inner = (slice(8, -8), slice(8, -8))  # strokes end beyond the window, or start before it
    assert covered[inner] == pytest.approx(np.max(each, axis=0)[inner], abs=0.01)
