"""Numbers as offices write them: read in the one way they can be read in, and asked about where there are two."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from grainstack.records.numerals import NumberForm, form_of, parsed


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("$1,234.50", 1234.5),
        ("1.234,5", None),  # until it is settled that commas stand before decimals
        ("1 234", 1234),
        ("1\u202f234.5", 1234.5),
        ("1'234", 1234),
        ("1’234’567", 1234567),
        ("1,234,567", 1234567),
        ("1.234.567", 1234567),
        ("1,234", None),
        ("12 %", 12),
        ("EUR 5", 5),
        ("5 €", 5),
        ("(3.5)", -3.5),
        ("−7", -7),
        ("5-", -5),
        ("- 5", -5),
        ("1,23,456", None),
        ("12 34", None),
        ("030 123 456", None),
        ("5 apples", None),
        ("€ 5 €", None),
        ("1-2", None),
        ("", math.nan),
    ],
)
def test_a_number_in_its_dress(text: str, value: float | None) -> None:
    found = parsed(text)
    assert found == value or (found is not None and value is not None and math.isnan(found) and math.isnan(value))


@pytest.mark.parametrize(
    ("texts", "signs", "unit", "doubtful"),
    [
        (["1.234", "2.500"], ".", "", "1.234"),
        (["1,234", "2,500"], ".", "", "1,234"),
        (["1.234", "0.500"], ".", "", ""),
        (["1.234", "2.5"], ".", "", ""),
        (["1,234", "2,5"], ",", "", ""),
        (["1,234", "2,500.50"], ".,", "", ""),
        (["1.234", "2.500,50"], ",", "", ""),
        (["1,234", "1,234,567"], ".,", "", ""),
        (["$1,234.50", "$2"], ".,", "$", ""),
        (["12 %", "7 %"], ".,", "%", ""),
        (["1", "2", "NA"], ".", "", ""),
    ],
)
def test_a_column_settles_how_its_numbers_are_written(texts: list[str], signs: str, unit: str, doubtful: str) -> None:
    assert form_of(texts) == NumberForm(signs, unit, doubtful)


@given(st.integers(-(10**9), 10**9), st.sampled_from([".,", ",."]))
def test_a_number_that_was_written_is_read_again(cents: int, signs: str) -> None:
    plain = f"{cents / 100:,.2f}"
    written = plain.translate(str.maketrans(",.", signs[1] + signs[0]))
    assert parsed(written, signs) == pytest.approx(cents / 100)
