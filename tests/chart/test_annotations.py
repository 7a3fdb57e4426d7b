"""Notes within plots: at their marks, over nothing, and told of where they have no room."""

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from grainstack.chart.marks import Dot, Line, Mark, MarkRole, Rect, Text
from grainstack.chart.scene import Scene
from grainstack.errors import ChartError, RequestError
from grainstack.summary.table import SummaryTable
from tests.chart.scenes import check, scene_of, table_of, working_size
from tests.chart.test_bars import requests
from tests.soak import SOAK

MARKS = (MarkRole.BAR, MarkRole.DOT, MarkRole.BOX, MarkRole.WHISKER, MarkRole.LEGEND_SWATCH)
NOTES = st.lists(st.text("abc defg ", min_size=1, max_size=60).map(str.strip).filter(bool), min_size=1, max_size=3)


def notes_of(scene: Scene) -> list[Text]:
    return [mark for mark in scene.marks if isinstance(mark, Text) and mark.role is MarkRole.ANNOTATION]


def box_of(mark: Mark) -> tuple[float, float, float, float]:
    if isinstance(mark, Rect):
        return mark.x, mark.y, mark.x + mark.width, mark.y + mark.height
    if isinstance(mark, Dot):
        return mark.x - mark.radius, mark.y - mark.radius, mark.x + mark.radius, mark.y + mark.radius
    assert isinstance(mark, Line)
    return min(mark.x1, mark.x2), min(mark.y1, mark.y2), max(mark.x1, mark.x2), max(mark.y1, mark.y2)


def meet(one: tuple[float, ...], other: tuple[float, ...]) -> bool:
    across = min(one[2], other[2]) - max(one[0], other[0])
    return across > 0.01 and min(one[3], other[3]) - max(one[1], other[1]) > 0.01


@settings(max_examples=20 * SOAK, deadline=None, suppress_health_check=list(HealthCheck))
@given(requests(), NOTES, st.data())
def test_a_note_stands_on_nothing_or_is_told_to_have_no_room(
    request: dict[str, object], texts: list[str], data: st.DataObject
) -> None:
    table = request["table"]
    assert isinstance(table, SummaryTable)
    levels = [level.label for level in table.categories[-1].levels]
    if any("," in label or '"' in label or ":" in label for label in levels):
        return
    places = [data.draw(st.sampled_from([*levels, "top-right", "bottom-left"])) for _ in texts]
    asked = {**request, "annotation": tuple(f"{at}: {text}" for at, text in zip(places, texts, strict=True))}
    try:
        scene = scene_of(**asked)  # type: ignore[arg-type]
    except ChartError as error:
        scene = scene_of(**{**asked, "size": working_size(error)})  # type: ignore[arg-type]
    except RequestError as error:
        assert "no mark of" in str(error)  # noqa: PT017 - a level whose figure is missing
        return
    check(scene)
    notes = notes_of(scene)
    shapes = [box_of(mark) for mark in scene.marks if isinstance(mark, Rect | Dot | Line) and mark.role in MARKS]
    for note in notes:
        assert not any(meet(note.box, shape) for shape in shapes), note
    left_out = dict(scene.left_out).get(MarkRole.ANNOTATION, 0)
    assert len({note.key for note in notes}) + left_out == len(texts)
    for text in texts:
        assert f": {' '.join(text.split())}." in scene.alt


def test_a_note_stands_at_its_bar() -> None:
    table = table_of(["Dunmar", "Skerra", "Vey"], [], [10, 4, 7])
    scene = scene_of(table, annotation=("Skerra: mended in May",))
    [note] = notes_of(scene)
    [bar] = [m for m in scene.marks if isinstance(m, Rect) and m.role is MarkRole.BAR and m.key.category == ("Skerra",)]
    assert abs(note.x + note.width / 2 - (bar.x + bar.width / 2)) < bar.width
    assert note.box[3] < bar.y
    assert bar.y - note.box[3] < 6 * note.size


@pytest.mark.parametrize(
    ("annotation", "message"),
    [("Dunmer: text", "no mark of `Dunmer`"), ("no colon", "does not say"), ("Dunmar: ", "does not say")],
)
def test_notes_that_cannot_be_are_refused(annotation: str, message: str) -> None:
    with pytest.raises(RequestError, match=message):
        scene_of(table_of(["Dunmar", "Skerra"], [], [10, 4]), annotation=(annotation,))
