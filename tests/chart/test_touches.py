"""Touches change the marks they name, and no others; what finds nothing or gets in the way is told."""

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from grainstack.chart.look.color import contrast
from grainstack.chart.marks import Line, Mark, MarkRole, Rect, Text, Weight
from grainstack.chart.scene import Scene
from grainstack.chart.touch_request import PARTS, TouchRequest, touch_from_table
from grainstack.chart.touches import touched
from grainstack.errors import ChartError, RequestError
from grainstack.summary.table import SummaryTable
from tests.chart.scenes import scene_of, table_of
from tests.chart.test_bars import requests
from tests.soak import SOAK

TABLE = table_of(["a", "b"], [], [3.0, 5.0])
LOOKS = ("color=#123456", "color=teal, opacity=0.5", "outline=#000, pattern=dots", "width=3", "bold", "size=9")


def after(scene: Scene, *touches: str, table: SummaryTable = TABLE) -> Scene:
    return touched(scene, TouchRequest(touches).touches, table)


def differing(one: Scene, other: Scene) -> list[Mark]:
    return [new for old, new in zip(one.marks, other.marks, strict=True) if old != new]


@settings(max_examples=15 * SOAK, deadline=None, suppress_health_check=list(HealthCheck))
@given(requests(), st.sampled_from(sorted(PARTS)), st.sampled_from(LOOKS))
def test_a_part_is_changed_and_nothing_else(request: dict[str, object], part: str, look: str) -> None:
    table = request["table"]
    assert isinstance(table, SummaryTable)
    try:
        scene = scene_of(**request)  # type: ignore[arg-type]
    except (RequestError, ChartError):
        return
    changed = after(scene, f"{part}: {look}", table=table)
    recolored = {MarkRole.VALUE, MarkRole.LABEL} if "color" in look else set()  # figures on bars of another colour
    assert {mark.role for mark in differing(scene, changed)} <= {*PARTS[part], *recolored}
    there = any(mark.role in PARTS[part] for mark in scene.marks)
    assert there or any("finds nothing" in sentence for sentence in changed.touches_told)
    for mark in changed.marks:
        if isinstance(mark, Text) and mark.role in recolored and mark not in scene.marks:
            assert contrast(mark.fill, mark.ground) >= 4.5


def test_a_level_is_its_marks_and_with_a_part_that_part_of_it() -> None:
    scene = scene_of(TABLE, label="value")
    [bar] = differing(scene, after(scene, "b: color=#aa0000"))
    assert isinstance(bar, Rect)
    assert (bar.fill, bar.key.category) == ("#aa0000", ("b",))
    [name] = differing(scene, after(scene, "b, names: bold"))
    assert isinstance(name, Text)
    assert (name.content, name.weight, name.role) == ("b", Weight.SEMIBOLD, MarkRole.CATEGORY)
    [figure] = differing(scene, after(scene, "figures, a: offset=3 -2"))
    before = next(mark for mark in scene.marks if isinstance(mark, Text) and mark.role is MarkRole.VALUE)
    assert figure == replace(before, x=before.x + 3, y=before.y - 2)


def test_what_is_hidden_is_gone() -> None:
    scene = scene_of(TABLE)
    gone = set(scene.marks) - set(after(scene, "grid: hidden").marks)
    assert gone
    assert {mark.role for mark in gone} == {MarkRole.GRID}
    assert all(isinstance(mark, Line) for mark in gone)


@pytest.mark.parametrize(
    ("touch", "told"),
    [
        ("c: bold", "finds nothing in this picture. "),
        ("slices: color=#111", "Its parts are bars"),
        ("title: width=2", "changes nothing of what it names"),
        ("a, names: offset=-400 0", "out of the picture"),
    ],
)
def test_what_finds_nothing_or_gets_in_the_way_is_told(touch: str, told: str) -> None:
    [sentence] = after(scene_of(TABLE), touch).touches_told
    assert told in sentence


def test_a_text_moved_over_another_is_told() -> None:
    scene = scene_of(TABLE)
    one, other = (mark.x for mark in scene.marks if isinstance(mark, Text) and mark.role is MarkRole.CATEGORY)
    [sentence] = after(scene, f"a, names: offset={other - one} 0").touches_told
    assert "lets “a” stand over “b”" in sentence


@pytest.mark.parametrize(
    ("touch", "message"),
    [
        ("bars", "does not say what is to be different"),
        (": bold", "does not say what is to be different"),
        ("bars: colr=#123", "there is no `colr`"),
        ("bars: bold=yes", "`bold` takes no value"),
        ("bars: color", "`color` needs a value"),
        ("bars: color=mud", "is no colour"),
        ("bars: pattern=zigzag", "is no pattern"),
        ("names: size=900", "a number from 1 to 72"),
        ("names: offset=3", "two numbers"),
        ("whiskers: hidden", "hides all whiskers"),
        ("b: hidden", "leaves a figure out"),
        ("slices, b: hidden", "leaves a figure out"),
    ],
)
def test_what_cannot_be_is_refused(touch: str, message: str) -> None:
    with pytest.raises(RequestError, match=message):
        TouchRequest((touch,))


def test_a_table_of_a_plan_says_the_same() -> None:
    table = {"of": ["b", "names"], "bold": True, "hidden": False, "offset": [1, 2], "color": "#111"}
    [one], [other] = (
        TouchRequest((text,)).touches for text in (touch_from_table(table), "b, names: bold, offset=1 2, color=#111")
    )
    assert replace(one, text="") == replace(other, text="")
    with pytest.raises(ValueError, match="must say `of` what"):
        touch_from_table({"bold": True})
