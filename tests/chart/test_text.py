"""Text measured, wrapped and shortened."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from grainstack.chart.marks import Weight
from grainstack.chart.writing.character_columns import columns_wide, fitted, lines_within
from grainstack.chart.writing.fonts import typefaces, with_boxes
from grainstack.chart.writing.text import balanced, runs, shortened, width, wrapped

labels = st.text(st.sampled_from("abcdefgh ÄßñőŁžЖийΔλ€—…&<>'\"$\\{}0123456789✈"), min_size=1, max_size=60)


def test_widths_are_those_of_the_font() -> None:
    # Every digit of Source Sans is 497 of 1000 units wide, and 513 in the semibold.
    assert width("0", 10) == pytest.approx(4.97)
    assert width("7", 10, Weight.SEMIBOLD) == pytest.approx(5.13)
    assert width("AV", 10) < width("A", 10) + width("V", 10)


def test_missing_letters_come_from_the_second_font_and_unknown_ones_are_boxes() -> None:
    assert [run.face.name for run in runs("fly ✈ now")] == ["Source Sans Pro", "DejaVu Sans", "Source Sans Pro"]
    assert width("\U0010fffd", 10) > 0
    assert with_boxes("a\U0010fffd") == "a□"


def test_other_scripts_come_from_the_fonts_of_the_machine() -> None:
    [run] = runs("漢字")
    assert run.face not in [family.regular for family in typefaces()]
    assert run.width == pytest.approx(2, abs=0.2)  # ideographs are as wide as they are tall


def test_scripts_from_the_right_stand_in_the_order_they_are_read_there() -> None:
    # Unicode Standard Annex 9: numbers keep their direction among letters from the right.
    assert [run.content for run in runs("from שלום 12 on")] == ["from ", "12", "שלום ", " on"]
    [word] = runs("שלום")
    glyphs = [runs(letter)[0].glyphs[0][0] for letter in "שלום"]
    assert [glyph for glyph, _, _ in word.glyphs] == glyphs[::-1]


def test_arabic_letters_join() -> None:
    [word] = runs("سلام")
    alone = [runs(letter)[0].glyphs[0][0] for letter in "سلام"]
    assert not set(alone[:2]) & {glyph for glyph, _, _ in word.glyphs}


@given(labels, st.floats(20, 200), st.integers(1, 4))
def test_wrapped_lines_fit_and_lose_nothing_without_an_ellipsis(label: str, room: float, most: int) -> None:
    for lines in (wrapped(label, 9, room, most), balanced(label, 9, room, most)):
        assert 1 <= len(lines) <= most
        assert all(width(line, 9) <= room + 1e-9 for line in lines)
        if not any(line.endswith("…") or not line for line in lines):
            assert " ".join(lines) == " ".join(label.split())


@given(labels, st.floats(0, 100))
def test_shortened_text_is_a_beginning_of_it(label: str, room: float) -> None:
    short = shortened(label, 9, room)
    assert width(short, 9) <= room or not short
    assert label.startswith(short.removesuffix("…")) or not short


@given(st.text(st.sampled_from("ab 漢字é"), max_size=30), st.integers(1, 20))
def test_text_in_cells_never_takes_more_than_its_room(text: str, room: int) -> None:
    assert columns_wide(fitted(text, room)) <= room
    assert all(columns_wide(line) <= room for line in lines_within(text, room))
