"""Functions of text in formulas, against what a database makes of the same words."""

import csv
import sqlite3
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from grainstack.errors import GrainStackError
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from tests.soak import SOAK

word = st.text(st.sampled_from("abAB äÖ-.1 "), max_size=6).map(str.strip)
few = st.integers(1, 5)
formulas = st.one_of(
    st.sampled_from(["LOWER(t)", "UPPER(u)", "TRIM(t)", "LENGTH(t)", "t || '-' || u", "REPLACE(t, 'a', 'xy')"]),
    st.tuples(few, few).map(lambda n: f"SUBSTRING(t, {n[0]}, {n[1]})"),
    few.map(lambda n: f"SUBSTRING(t, {n})"),
    st.tuples(few, few).map(lambda n: f"LOWER(SUBSTRING(t, {n[0]}, {n[1]})) || UPPER(u)"),
)


def values(folder: Path, rows: list[tuple[str, str]], formula: str) -> list[object]:
    with (folder / "t.csv").open("w", newline="", encoding="utf-8") as file:
        csv.writer(file, quoting=csv.QUOTE_ALL).writerows([("n", "t", "u"), *((n, *row) for n, row in enumerate(rows))])
    source = open_records(
        RecordsRequest(file=(str(folder / "t.csv"),), compute=(f"g = {formula}",), keep_totals=True)
    ).source
    return [value for batch in source.batches(["n", "g"]) for value in batch.column("g").to_pylist()]


@settings(max_examples=60 * SOAK, deadline=None, suppress_health_check=list(HealthCheck))
@given(st.lists(st.tuples(word, word), min_size=1, max_size=6), formulas)
def test_functions_of_text_are_those_of_a_database(tmp_path: Path, rows: list[tuple[str, str]], formula: str) -> None:
    database = sqlite3.connect(":memory:")
    database.create_function("LOWER", 1, lambda text: None if text is None else text.lower())  # its own know ASCII only
    database.create_function("UPPER", 1, lambda text: None if text is None else text.upper())
    database.execute("CREATE TABLE r (t TEXT, u TEXT)")
    database.executemany("INSERT INTO r VALUES (NULLIF(?, ''), NULLIF(?, ''))", rows)
    expected = [found if found != "" else None for (found,) in database.execute(f"SELECT {formula} FROM r")]  # noqa: S608 - made here
    assert [found if found != "" else None for found in values(tmp_path, rows, formula)] == expected


@pytest.mark.parametrize(
    ("formula", "found"),
    [
        ("CAST(t AS DATE FORMAT 'DD.MM.YYYY')", ["2025-01-31", "2024-12-01"]),
        ("YEAR(CAST(t AS DATE FORMAT 'DD.MM.YYYY'))", [2025, 2024]),
        ("CAST(u AS DATE FORMAT 'DD MON YYYY')", ["2025-03-05", "2024-05-07"]),
        ("REGEXP_EXTRACT(t, '[.]([0-9]+)[.]')", ["01", "12"]),
        ("REGEXP_EXTRACT(u, '[A-Z][a-z]+')", ["Mar", None]),
        ("CAST(LEFT(t, 2) AS INTEGER) + 1", [32, 2]),
        ("CAST(YEAR(CAST(t AS DATE FORMAT 'DD.MM.YYYY')) AS TEXT) || '!'", ["2025!", "2024!"]),
        ("RIGHT(t, 4)", ["2025", "2024"]),
    ],
)
def test_dates_and_patterns(tmp_path: Path, formula: str, found: list[object]) -> None:
    assert values(tmp_path, [("31.01.2025", "5 Mar 2025"), ("01.12.2024", "7 mai 2024")], formula) == found


@pytest.mark.parametrize(
    ("formula", "message"),
    [
        ("CAST(t AS DATE FORMAT 'MM.YYYY')", "is no form of dates"),
        ("CAST(t AS DATE FORMAT 'DD.MM.YYYY')", "`31.02.2025` is no date of the form DD.MM.YYYY"),
        ("CAST(t AS DATE)", "no CAST to date"),
        ("CAST(t AS INTEGER)", "`31.02.2025` is no number"),
        ("SUBSTRING(t, u)", "whole numbers of letters"),
        ("REPLACE(t, u, 'a')", "text in single quotes"),
        ("REGEXP_EXTRACT(t, '(')", "this pattern cannot be read"),
        ("REGEXP_EXTRACT(t, 'a', 2)", "takes a text and a pattern"),
        ("TRIM(LEADING 'a' FROM t)", "white space off both ends"),
    ],
)
def test_what_cannot_be_is_refused_at_its_place(tmp_path: Path, formula: str, message: str) -> None:
    with pytest.raises(GrainStackError, match=message) as refused:
        values(tmp_path, [("31.02.2025", "a")], formula)
    assert "^" in str(refused.value)
