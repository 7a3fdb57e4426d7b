"""Random drawings of every kind, read back from the files they are painted into: every text is in its place."""

import io
from xml.etree import ElementTree as ET

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from grainstack.chart.look.color import channels
from grainstack.chart.marks import MarkRole, Rect, Text
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.scene import Scene
from grainstack.errors import ChartError
from grainstack.paint import pdf, png, svg
from tests.chart.kinds import kind_requests, kind_scene
from tests.chart.scenes import check, check_grounds, check_type, scene_of
from tests.chart.test_bars import requests
from tests.paint.pdf_text import letters_of
from tests.soak import SOAK

SVG = "{http://www.w3.org/2000/svg}"
SOLID = (MarkRole.BAR, MarkRole.TILE, MarkRole.FRAME, MarkRole.LEGEND_SWATCH)
PIXELS = 144  # to the inch: two to a point


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
    _check_svg(scene, svg.paint(scene))
    _check_svg(scene, svg.drawing(scene, "part-1"))  # as it stands in a page
    _check_pdf(scene)
    _check_png(scene)


def _check_svg(scene: Scene, content: bytes | str) -> None:
    root = ET.fromstring(content)  # noqa: S314 - our own output
    written = [item for item in root.iter(f"{SVG}text") if item.get("data-role")]
    texts = _texts(scene)
    assert len(written) == len(texts)
    for item, text in zip(written, texts, strict=True):
        assert "".join(item.itertext()).removeprefix(text.tip) == text.content
        place = tuple(float(item.get(name, "nan")) for name in ("x", "y", "font-size", "textLength"))
        assert place == pytest.approx((text.x, text.y, text.size, text.width), abs=0.006)
        assert (item.get("transform") is not None) == text.turned


def _check_pdf(scene: Scene) -> None:
    starts = [(x, y) for _, x, y in letters_of(pdf.paint(scene, 72))]
    for text in _texts(scene):
        start = (text.x, text.y + text.before) if text.turned else (text.left, text.y)
        near = min(abs(x - start[0]) + abs(y - start[1]) for x, y in starts)
        assert near < 0.5, (text, near)


def _check_png(scene: Scene) -> None:
    """Every shape that is large enough shows its colour, and every text its ink, where the scene has them."""
    scale = PIXELS / 72
    picture = np.asarray(Image.open(io.BytesIO(png.paint(scene, PIXELS))).convert("RGB")).astype(int)
    assert picture.shape[:2] == (round(scene.height * scale), round(scene.width * scale))
    for mark in scene.marks:
        if isinstance(mark, Rect) and mark.opacity == 1 and mark.role in SOLID:
            box = (
                mark.x,
                mark.y,
                mark.x + mark.width,
                mark.y + mark.height,
            )
            near = 2
        elif isinstance(mark, Text) and any(map(str.isalnum, mark.content)):
            across = (mark.left, mark.y - mark.size * 0.8, mark.left + mark.width, mark.y + mark.size * 0.25)
            along = (mark.x - mark.size * 0.8, mark.y - mark.width, mark.x + mark.size * 0.25, mark.y + mark.width)
            box = along if mark.turned else across
            near = 150  # its stems are thinner than a pixel
        else:
            continue
        left, top, right, bottom = (round(value * scale) for value in box)
        seen = picture[max(top, 0) : bottom, max(left, 0) : right].reshape(-1, 3)
        if len(seen) > 3:
            off = np.abs(seen - np.array(channels(mark.fill)) * 255).sum(axis=1).min()
            assert off <= near, (off, mark)
