"""Style files: what they may say, and what is refused with a reason."""

import tomllib
from pathlib import Path
from typing import Any

import pytest

from grainstack.chart.frame.frame import in_colors_of
from grainstack.chart.look.palette import shades, two_sided
from grainstack.chart.look.style import Style
from grainstack.chart.look.style_file import style_from, style_named
from grainstack.chart.marks import MarkRole, Rect, Text
from grainstack.errors import RequestError


def test_the_first_style_is_what_a_style_is_without_a_file() -> None:
    assert style_named("report") == Style()


@pytest.mark.parametrize(
    ("name", "title", "least", "palette"),
    [("report", 14, 6, "fields"), ("slide", 19, 7, "fields"), ("print", 12.5, 6, "fields"), ("mono", 14, 6, "slate")],
)
def test_styles_that_come_along_are_what_they_are_known_for(
    name: str, title: float, least: float, palette: str
) -> None:
    style = style_named(name)
    assert (style.title, style.least_type, style.nominal, style.hatched) == (title, least, palette, name == "mono")


def test_a_file_changes_what_it_says_and_nothing_else() -> None:
    style = style_from({"base": "print", "type": {"title": 20}, "strokes": {"bar": 60}}, "x.toml")
    assert (style.title, style.bar_most, style.note) == (20.0, 60.0, style_named("print").note)


@pytest.mark.parametrize(
    ("content", "said"),
    [
        ({"tipe": {}}, "no key tipe"),
        ({"type": {"titel": 4}}, "no key [type] titel"),
        ({"type": {"title": 4}}, "Give a number of 6 or more"),
        ({"type": {"title": True}}, "no size in points"),
        ({"type": 3}, "is a section"),
        ({"base": "reprot"}, "base"),
        ({"patterns": "yes"}, "neither true nor false"),
        ({"colors": {"ink": "reddish"}}, "is no colour"),
        ({"colors": {"ink": "#bbbbbb"}}, "contrast of 1.9"),
        ({"colors": {"paper": "black"}}, "contrast"),
        ({"palettes": {"sides": "forest"}}, "is no palette"),
        ({"places": {"title": "center"}}, "is not known"),
        ({"fonts": {"fallback": "one.ttf"}}, "is no list"),
        ({"numbers": {"locale": 3}}, "is no text"),
    ],
)
def test_what_cannot_be_is_said_with_its_place(content: dict[str, Any], said: str) -> None:
    with pytest.raises(RequestError) as caught:
        style_from(content, "x.toml")
    assert said in f"{caught.value.message} {caught.value.remedy}"
    assert caught.value.message.startswith("x.toml")


def test_listed_colours_are_used_as_named_palettes_are() -> None:
    listed = "#102040 #b0402a #7fb3b3"
    assert shades(listed, 2) == ("#102040", "#b0402a")
    ramp = shades("#f0d9c0 #b0402a #5a1f12", 5, ramp=True)
    assert len(set(ramp)) == 5
    assert (ramp[0], ramp[-1]) == ("#f0d9c0", "#5a1f12")


def test_ink_and_paper_are_those_of_the_style() -> None:
    style = Style(ink="#102040", paper="#fffaf0")
    marks = (Rect(0, 0, 1, 1, "#ffffff", MarkRole.GROUND), Text(0, 0, "a", 8, 4, "#1f2a33", MarkRole.TITLE))
    on_bar = Text(0, 0, "a", 8, 4, "#ffffff", MarkRole.VALUE, ground="#1a726a")
    patch, text, same = in_colors_of(style, (*marks, on_bar))
    assert isinstance(patch, Rect)
    assert isinstance(text, Text)
    assert (patch.fill, text.fill, text.ground) == ("#fffaf0", "#102040", "#fffaf0")
    assert same == on_bar  # white on a dark bar is what was checked for contrast


def test_the_style_file_of_the_guide_is_one() -> None:
    guide = Path(__file__).parents[2].joinpath("docs/looks.md").read_text("utf-8")
    content = tomllib.loads(guide.partition("```toml\n")[2].partition("```")[0])
    style = style_from(content, "guide.toml")
    assert (style.title, style.bar_most, style.ordered, style.logo_height) == (16.0, 50.0, "kiln", 24.0)


@pytest.mark.parametrize("listed", ["#5a1f12 #eeeeee #102040", "#5a1f12 #102040", "#5a1f12 #d8a173 #7fb3b3 #102040"])
@pytest.mark.parametrize("most", [1, 2, 3, 5])
def test_listed_sides_have_as_many_colours_as_a_scale_needs(listed: str, most: int) -> None:
    found = two_sided(listed, most)
    assert len(found) == len(set(found)) == 2 * most + 1
    assert (found[0], found[-1]) == ("#5a1f12", "#102040")
