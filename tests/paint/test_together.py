"""Rectangles drawn together look as if each had been drawn after the one before it."""

from itertools import combinations

from hypothesis import given
from hypothesis import strategies as st

from grainstack.chart.scene import Line, Mark, MarkRole, Rect
from grainstack.paint.together import are_apart, drawn_together

_PLACES = st.integers(0, 12).map(float)
_SIZES = st.integers(0, 4).map(float)
_RECTS = st.builds(
    lambda x, y, width, height, outline: Rect(x, y, width, height, "#336699", MarkRole.BAR, outline=outline),
    *(_PLACES, _PLACES, _SIZES, _SIZES, st.sampled_from(["", "", "#000000"])),
)


def _meet(one: Rect, other: Rect, rim: float) -> bool:
    """Whether two rectangles with their outlines share more than an edge."""
    boxes = []
    for rect in (one, other):
        more = rim if rect.outline else 0.0
        box = (rect.x - more, rect.y - more, rect.x + rect.width + more, rect.y + rect.height + more)
        if box[0] == box[2] or box[1] == box[3]:
            return False
        boxes.append(box)
    (left, top, right, bottom), (left2, top2, right2, bottom2) = boxes
    return min(right, right2) > max(left, left2) and min(bottom, bottom2) > max(top, top2)


@given(rects=st.lists(_RECTS, max_size=8), rim=st.sampled_from([0.25, 0.75]))
def test_rectangles_are_apart_when_no_two_of_them_meet(rects: list[Rect], rim: float) -> None:
    assert are_apart(rects, rim) == (not any(_meet(*pair, rim) for pair in combinations(rects, 2)))


@given(
    marks=st.lists(st.one_of(_RECTS, st.just(Line(0, 0, 1, 1, "#000000", 1.0, MarkRole.GRID))), max_size=10),
    rim=st.sampled_from([0.25, 0.75]),
)
def test_no_mark_is_lost_or_comes_before_one_it_covers(marks: list[Mark], rim: float) -> None:
    groups = list(drawn_together(marks, rim))
    assert [mark for group in groups for mark in group] == marks
    for group in groups:
        rects = [mark for mark in group if isinstance(mark, Rect)]
        assert len(group) == 1 or len(rects) == len(group)
        assert not any(_meet(*pair, rim) for pair in combinations(rects, 2))


def test_bars_side_by_side_are_drawn_together() -> None:
    bars = [Rect(place * 0.1, 0.0, 0.1, 5.0, "#336699", MarkRole.BAR) for place in range(1000)]
    assert list(drawn_together(bars, 0.3)) == [tuple(bars)]
