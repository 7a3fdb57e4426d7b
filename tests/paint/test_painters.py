"""Scenes as SVG, PNG, PDF and terminal text."""

import io
import re
from xml.etree import ElementTree as ET

import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image
from pypdf import PdfReader

from grainstack.chart.marks import Anchor, Key, Line, MarkRole, Rect, Text
from grainstack.chart.scene import Scene
from grainstack.chart.terminal.screen import Bar, Characters, Screen, Whisker
from grainstack.chart.writing.text import width
from grainstack.paint import pdf, png, svg, terminal
from tests.paint.pdf_text import letters_of

NAME = '<b>A & "B"</b> €\''
SCENE = Scene(
    200,
    100,
    (
        Rect(10, 20, 100, 30, "#1a726a", MarkRole.BAR, Key(category=(NAME,), series=("s",)), tip="tip & tip"),
        Line(110, 10, 110, 60, "#1f2a33", 1.5, MarkRole.WHISKER, Key(category=(NAME,))),
        Text(20, 80, NAME, 10, 60, "#1f2a33", MarkRole.CATEGORY, key=Key(category=(NAME,))),
        Text(190, 80, "Берег ✈", 8, 40, "#1f2a33", MarkRole.SOURCE, anchor=Anchor.END),
    ),
    "Two words & more",
    "A title",
)
NAMESPACE = {"svg": "http://www.w3.org/2000/svg"}


def test_svg_is_well_formed_and_every_mark_says_what_it_shows() -> None:
    root = ET.fromstring(svg.paint(SCENE))  # noqa: S314 - our own output
    assert root.findtext("svg:title", namespaces=NAMESPACE) == "A title"
    assert root.findtext("svg:desc", namespaces=NAMESPACE) == "Two words & more"
    [bar] = root.findall("svg:rect[@data-role='bar']", NAMESPACE)
    assert bar.get("data-category") == NAME.replace("/", "%2F")
    assert bar.get("data-series") == "s"
    assert bar.findtext("svg:title", namespaces=NAMESPACE) == "tip & tip"
    [label] = root.findall("svg:text[@data-role='category']", NAMESPACE)
    assert label.text == NAME
    marks = [item for item in root if item.get("data-role")]
    assert len(marks) == len(SCENE.marks)


def test_svg_carries_the_letters_it_uses() -> None:
    faces = re.findall(rb"font-family:'([^']+)';font-weight:(\d+)", svg.paint(SCENE))
    assert set(faces) == {(b"Source Sans Pro", b"400"), (b"DejaVu Sans", b"400")}


@pytest.mark.parametrize("paint", [svg.paint, pdf.paint, png.paint])
def test_the_same_scene_gives_the_same_bytes(paint: "object") -> None:
    assert callable(paint)
    assert paint(SCENE, 144.0) == paint(SCENE, 144.0)


def test_png_has_the_size_and_colours_of_the_scene() -> None:
    picture = Image.open(io.BytesIO(png.paint(SCENE, 144)))
    assert picture.size == (400, 200)
    assert picture.getpixel((60, 70)) == (0x1A, 0x72, 0x6A)
    assert picture.getpixel((390, 10)) == (255, 255, 255)
    assert picture.info["Description"] == "Two words & more"
    dark = [picture.getpixel((x, 156)) != (255, 255, 255) for x in range(40, 160)]
    assert any(dark)


def test_pdf_has_the_size_of_the_scene_and_real_text() -> None:
    content = pdf.paint(SCENE, 72)
    document = PdfReader(io.BytesIO(content))
    assert [float(side) for side in document.pages[0].mediabox] == [0, 0, 200, 100]
    assert "Берег" in document.pages[0].extract_text()
    assert document.metadata is not None
    assert (document.metadata.title, document.metadata.subject) == ("A title", "Two words & more")
    assert b"CreationDate" not in content
    assert b"pdfuaid" in content  # screen readers can go through it


def test_every_text_of_a_pdf_stands_where_the_scene_has_it() -> None:
    texts = tuple(
        Text(150, 40 + 20 * place, content, 8, width(content, 8), "#1f2a33", MarkRole.CATEGORY, anchor=anchor)
        for place, (content, anchor) in enumerate(zip(("From", "About", "Upto"), Anchor, strict=True))
    )
    texts += tuple(replace(text, x=30, content=text.content[::-1], turned=True) for text in texts)
    scene = replace(SCENE, marks=texts)
    letters = letters_of(pdf.paint(scene, 72))
    for text in texts:
        start = (text.x, text.y + text.before) if text.turned else (text.left, text.y)
        places = [(x, y) for character, x, y in letters if character == text.content[0]]
        assert any(place == pytest.approx(start, abs=0.1) for place in places), text


def test_a_space_between_directions_stays_between_them() -> None:
    label = "\u05e8\u05e6\u05d9\u05e3 12"  # read from the right: the number ends up on the left
    scene = Scene(200, 60, (Text(20, 40, label, 20, width(label, 20), "#000000", MarkRole.CATEGORY),), "a", "t")
    inked = np.asarray(Image.open(io.BytesIO(png.paint(scene, 144.0))).convert("L")).min(axis=0) < 128
    columns = np.flatnonzero(inked)
    gaps = np.diff(columns)
    behind_the_number = 20 + width("12", 20)
    assert columns[int(gaps.argmax())] / 2 == pytest.approx(behind_the_number, abs=2)
    assert gaps.max() / 2 >= 0.15 * 20


def test_terminal_bars_end_in_eighths_and_whiskers_have_ends() -> None:
    screen = Screen(
        20,
        2,
        (
            Bar(2, 3.5, 0, "#1a726a", MarkRole.BAR),
            Bar(2, 6, 1, "#1a726a", MarkRole.BAR),
            Whisker(4, 10, 1, "#1f2a33"),
            Characters(0, 0, "a", MarkRole.CATEGORY),
        ),
        "",
    )
    assert terminal.paint(screen, colors=False) == "a ███▌\n  ██├─────┤\n"


def test_terminal_colours_are_switched_off_at_the_end() -> None:
    screen = Screen(4, 1, (Bar(0, 2, 0, "#1a726a", MarkRole.BAR),), "")
    assert terminal.paint(screen, colors=True) == "\x1b[38;2;26;114;106m██\x1b[0m\n"


def test_bars_of_equal_height_are_equal_to_the_pixel() -> None:
    bars = tuple(Rect(10.13 + 37.21 * n, 20.37, 23.57, 70.29, "#1a726a", MarkRole.BAR) for n in range(5))
    for dpi in (96, 144, 150, 300):
        picture = np.asarray(Image.open(io.BytesIO(png.paint(Scene(200, 100, bars, "Five bars", ""), dpi))))
        colors = {tuple(color) for color in picture.reshape(-1, 3).tolist()}
        assert colors == {(255, 255, 255), (0x1A, 0x72, 0x6A)}
        columns = (picture[:, :, 0] == 0x1A).sum(axis=0)
        assert len(set(columns[columns > 0].tolist())) == 1
