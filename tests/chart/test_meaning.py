"""Colours and signs mean one thing in random pictures: what is in the legend, and what the note explains."""

from itertools import combinations

from hypothesis import HealthCheck, given, settings

from grainstack.chart.look.color import over
from grainstack.chart.look.palette import PALE, firm
from grainstack.chart.look.vision import distance
from grainstack.chart.marks import Dot, MarkRole, Rect, Sector, Text
from grainstack.chart.scene import Scene
from grainstack.errors import ChartError
from grainstack.requests import Requests
from grainstack.summary.table import SummaryTable
from tests.chart.kinds import kind_requests, kind_scene
from tests.chart.scenes import scene_of, working_size
from tests.chart.test_bars import requests
from tests.soak import SOAK

FIGURES = (MarkRole.VALUE, MarkRole.TOTAL, MarkRole.BASE, MarkRole.SECOND_VALUE, MarkRole.ASIDE, MarkRole.CATEGORY)
SERIES = (MarkRole.BAR, MarkRole.BOX, MarkRole.DOT, MarkRole.SLICE)
GREYS = (PALE, firm(PALE))  # as bars and as dots
MOST_DOTS = 11  # levels whose colours stay apart as dots on paper; bars have patterns too


def bar_scene(request: dict[str, object]) -> Scene:
    try:
        return scene_of(**request)  # type: ignore[arg-type]
    except ChartError as error:
        return scene_of(**{**request, "size": working_size(error)})  # type: ignore[arg-type]


def check_colors(scene: Scene) -> None:
    """Each colour of the legend fills a mark, each mark has one of these or all have one, and all can be told apart."""
    swatches = [mark for mark in scene.marks if isinstance(mark, Rect) and mark.role is MarkRole.LEGEND_SWATCH]
    shown = [mark for mark in scene.marks if isinstance(mark, Rect | Dot | Sector) and mark.role in SERIES]
    looks = [
        (over(mark.fill, scene.paper, getattr(mark, "opacity", 1.0)), getattr(mark, "hatch", "")) for mark in shown
    ]
    colors = {mark.key.series or mark.key.category: (mark.fill, mark.hatch) for mark in swatches}
    for mark, look in zip(shown, looks, strict=True):
        assert not colors or look == colors[mark.key.series or mark.key.category]
    alone = {
        look for mark, look in zip(shown, looks, strict=True) if not mark.key.series and mark.role != MarkRole.SLICE
    }
    assert colors or len({look for look in alone if look[0] not in GREYS}) <= 1  # no answer is pale among categories
    for one, other in combinations(set(colors.values()), 2):
        if one[1] == other[1] and (len(colors) <= MOST_DOTS or not any(isinstance(mark, Dot) for mark in shown)):
            assert distance(one[0], other[0]) >= 0.09, (one, other)


def check_signs(scene: Scene, words: str) -> None:
    """A sign stands in the picture if its note explains it, and only then."""
    texts = [mark for mark in scene.marks if isinstance(mark, Text)]
    note = " ".join(mark.content for mark in texts if mark.role is MarkRole.FOOTNOTE)
    drawn = {sign for mark in texts if mark.role in FIGURES for sign in "*†‡§" if sign in mark.content}
    explained = {sign for sign in "*†‡§" if f"{sign} " in note}
    if dict(scene.left_out).get(MarkRole.FOOTNOTE):
        return
    assert drawn == explained, (drawn, explained, words)


@settings(max_examples=80 * SOAK, deadline=None, suppress_health_check=list(HealthCheck))
@given(requests())
def test_colours_and_signs_of_bars_mean_one_thing(request: dict[str, object]) -> None:
    scene = bar_scene(request)
    if request["style"] != "mono":
        check_colors(scene)
    check_signs(scene, str(request))


@settings(max_examples=60 * SOAK, deadline=None, suppress_health_check=list(HealthCheck))
@given(kind_requests())
def test_colours_and_signs_of_other_kinds_mean_one_thing(drawn: tuple[str, SummaryTable, Requests, bool]) -> None:
    kind, table, request, ring = drawn
    try:
        scene = kind_scene(kind, table, request, ring=ring)
    except ChartError:
        return
    check_colors(scene)
    check_signs(scene, kind)
