"""What the values of a column suggest."""

import math

import pytest

from grainstack.records.kinds import guessed_kind, likely_missing
from grainstack.records.numerals import parsed
from grainstack.records.variable import Kind


@pytest.mark.parametrize(
    ("codes", "kind"),
    [
        (["1", "2", "3"], Kind.NUMBER),
        (["1.5", "-2", "n/a"], Kind.NUMBER),
        (["00123", "00124"], Kind.CATEGORY),
        (["2025-01-03", "2025-02-11"], Kind.DATE),
        (["app", "web"], Kind.CATEGORY),
        (["cafe;deck", "cafe;lounge", "deck;lounge", "cafe"], Kind.MULTI),
        ([], Kind.TEXT),
    ],
)
def test_kinds(codes: list[str], kind: Kind) -> None:
    assert guessed_kind(dict.fromkeys(codes, 10)) is kind


def test_a_column_of_different_texts_is_text() -> None:
    assert guessed_kind({f"remark {n}": 1 for n in range(300)}) is Kind.TEXT


@pytest.mark.parametrize(
    ("codes", "missing"),
    [
        (["1", "2", "3", "4", "5", "9"], ("9",)),
        (["1", "2", "3", "4", "5", "6", "7", "8", "9"], ()),
        (["18", "35", "64", "91", "999"], ("999",)),
        (["0", "3", "12", "-1"], ("-1",)),
        (["-4", "3", "12", "-1"], ()),
        (["yes", "no", "n/a", "Don't know"], ("n/a", "Don't know")),
    ],
)
def test_codes_that_probably_mean_no_answer(codes: list[str], missing: tuple[str, ...]) -> None:
    assert likely_missing(dict.fromkeys(codes, 5)) == missing


@pytest.mark.parametrize(("text", "value"), [("4", 4.0), (" -2.5 ", -2.5), ("1e3", 1000.0), ("00123", 123.0)])
def test_numbers_are_parsed(text: str, value: float) -> None:
    assert parsed(text) == value


@pytest.mark.parametrize("text", ["soon", "1,234", "3,5", "inf", "nan", "4 min"])
def test_what_is_not_surely_a_number_is_none(text: str) -> None:
    assert parsed(text) is None


def test_blank_is_no_answer() -> None:
    blank = parsed("  ")
    assert blank is not None
    assert math.isnan(blank)
