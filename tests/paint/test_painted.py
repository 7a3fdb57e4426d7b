"""Random drawings of every kind, read back from the files they are painted into: every text is in its place."""

import io
from xml.etree import ElementTree as ET

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pypdf import PdfReader

from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.scene import Scene, Text
from grainstack.errors import ChartError
from grainstack.paint import pdf, svg
from tests.chart.kinds import kind_requests, kind_scene
from tests.chart.scenes import check, check_grounds, check_type, scene_of
from tests.chart.test_bars import requests
from tests.soak import SOAK

SVG = "{http://www.w3.org/2000/svg}"


@st.composite
def drawings(draw: st.DrawFn) -> tuple[Scene, str]:
    """A random drawing with its style; none that is too small for its names."""
    try:
        if draw(st.booleans()):
            asked = draw(requests())
            return scene_of(**asked), str(asked["style"])  # type: ignore[arg-type]
        kind, table, request, ring = draw(kind_requests())
        return kind_scene(kind, table, request, ring=ring), request[PictureRequest].style_named
    except ChartError:
        return Scene(100, 100, (), ""), "report"


def _texts(scene: Scene) -> list[Text]:
    return [mark for mark in scene.marks if isinstance(mark, Text)]


@settings(max_examples=30 * SOAK, deadline=None, suppress_health_check=list(HealthCheck))
@given(drawings())
def test_what_is_painted_is_what_was_composed(drawn: tuple[Scene, str]) -> None:
    scene, style = drawn
    if not scene.marks:
        return
    check(scene)
    check_grounds(scene)
    check_type(scene, style)
    _check_svg(scene)
    _check_pdf(scene)


def _check_svg(scene: Scene) -> None:
    root = ET.fromstring(svg.paint(scene))  # noqa: S314 - our own output
    written = [item for item in root.iter(f"{SVG}text") if item.get("data-role")]
    texts = _texts(scene)
    assert len(written) == len(texts)
    for item, text in zip(written, texts, strict=True):
        assert "".join(item.itertext()).removeprefix(text.tip) == text.content
        place = tuple(float(item.get(name, "nan")) for name in ("x", "y", "font-size", "textLength"))
        assert place == pytest.approx((text.x, text.y, text.size, text.width), abs=0.006)
        assert (item.get("transform") is not None) == text.turned


def _check_pdf(scene: Scene) -> None:
    starts: list[tuple[float, float]] = []

    def note(content: str, place: list[float], *_: object) -> None:
        if content.strip():
            starts.append((place[4], scene.height - place[5]))

    PdfReader(io.BytesIO(pdf.paint(scene, 72))).pages[0].extract_text(visitor_text=note)
    for text in _texts(scene):
        start = (text.x, text.y + text.before) if text.turned else (text.left, text.y)
        near = min(abs(x - start[0]) + abs(y - start[1]) for x, y in starts)
        assert near < 0.5, (text, near)
