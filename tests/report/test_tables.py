"""Tables for people and for machines: the same figures, rounded or not."""

import csv
import io
import json
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

import pytest

from grainstack.report.cells import as_csv, as_json, cell_rows, difference_rows
from grainstack.report.printed import aligned, as_markdown, as_text, printed
from grainstack.report.printing import PrintRequest
from grainstack.summary.options import ComparisonRequest, SmallBaseRequest, SpreadRequest
from grainstack.summary.summary_request import SummaryRequest

if TYPE_CHECKING:
    from tests.conftest import Records

PEOPLE: Mapping[str, Sequence[object]] = {
    "route": ["Osk"] * 4 + ["Pell"] * 5 + ["Dun"] * 3,
    "ticket": ["app", "web", "web", "web"] * 3,
    "wait": [10, 12, 14, 16, 30, 31, 33, 35, 36, 11, 12, 13],
}
MEAN = SummaryRequest(by=("route",), measure=("wait",))


def rows(text: str) -> list[list[str]]:
    """The cells of a printed table, line by line, up to its notes."""
    lines = text.split("\n\n", maxsplit=1)[0].splitlines()
    return [[cell for cell in line.split("  ") if cell.strip()] for line in lines if not line.startswith("─")]


def test_a_table_lists_figures_with_limits_and_bases(records: "Records") -> None:
    text = as_text(printed(records.table(PEOPLE, MEAN), PrintRequest()))
    heading, first, *_ = rows(text)
    assert [cell.strip() for cell in heading] == ["route", "n", "Mean wait", "95 % limits"]
    assert [cell.strip() for cell in first][:3] == ["Pell", "5", "33*"]
    assert "* base below 30." in text
    assert "Base: 12 records." in text
    assert "Order – route: largest first." in text


def test_a_split_table_stands_side_by_side_unless_limits_are_wanted(records: "Records") -> None:
    table = records.table(PEOPLE, SummaryRequest(by=("route",), split="ticket", stat=("share",)))
    across = rows(as_text(printed(table, PrintRequest())))
    assert [cell.strip() for cell in across[0]] == ["route", "web", "app", "n"]
    assert len(across) == 4
    down = rows(as_text(printed(table, PrintRequest(limits=True))))
    assert len(down) == 7
    assert "95 % limits" in [cell.strip() for cell in down[0]]


def test_figures_of_one_whole_can_be_made_to_add_up(records: "Records") -> None:
    thirds: Mapping[str, Sequence[object]] = {"k": ["a", "b", "c"], "s": ["x", "x", "x"]}
    table = records.table(thirds, SummaryRequest(by=("k",), stat=("share",)))
    plain = [row[2].strip(" *†") for row in rows(as_text(printed(table, PrintRequest())))[1:]]
    added = [row[2].strip(" *†") for row in rows(as_text(printed(table, PrintRequest(add_up=True))))[1:]]
    assert plain == ["33", "33", "33"]
    assert sum(map(int, added)) == 100


def test_columns_are_aligned_by_what_they_hold() -> None:
    text = aligned([["name", "n"], ["a", "1,000"], ["long name", "5"]], [False, True])
    assert text.splitlines() == ["name           n", "─────────  ─────", "a          1,000", "long name      5"]
    wide = aligned([["日本", "n"], ["a", "1"]], [False, True])
    assert wide.splitlines()[2] == "a     1"


def test_markdown_escapes_bars_and_aligns_numbers(records: "Records") -> None:
    odd: Mapping[str, Sequence[object]] = {"k": ["a|b", "c", "c"], "n": [1, 2, 3]}
    content = as_markdown(printed(records.table(odd, SummaryRequest(by=("k",))), PrintRequest())).decode()
    assert "a\\|b" in content
    assert "| --- |" in content
    assert "---:" in content


def test_machine_readable_rows_are_unrounded_and_named(records: "Records") -> None:
    table = records.table(PEOPLE, MEAN)
    found = list(csv.DictReader(io.StringIO(as_csv(cell_rows(table)).decode())))
    assert list(found[0]) == [
        *(
            "route",
            "measure",
            "statistic",
            "estimate",
            "low",
            "high",
            "standard_error",
            "degrees_of_freedom",
            "method",
            "base",
            "flags",
        ),
    ]
    by_route = {row["route"]: row for row in found}
    assert float(by_route["Osk"]["estimate"]) == 13
    assert float(by_route["Dun"]["low"]) == pytest.approx(9.515862, abs=1e-6)
    assert by_route["Dun"]["flags"] == "small-base"


def test_json_holds_cells_differences_and_where_they_come_from(records: "Records") -> None:
    request = SummaryRequest(by=("route",), measure=("wait",), comparison=ComparisonRequest(letters=True))
    table = records.table(PEOPLE, request)
    content = json.loads(as_json(table, cell_rows(table)))
    assert set(content) == {"provenance", "cells", "differences"}
    assert content["provenance"]["records_read"] == 12
    assert content["provenance"]["order"] == {"route": "largest first"}
    assert len(content["differences"]) == len(difference_rows(table)) == 3
    letters = {cell["route"]: cell["letters"] for cell in content["cells"]}
    assert letters["Osk"] == letters["Dun"] != letters["Pell"]
    for one in content["differences"]:
        assert one["low"] <= one["difference"] <= one["high"]
        assert one["p"] <= one["adjusted_p"]


def test_what_is_not_known_is_null_and_whole_numbers_stay_whole(records: "Records") -> None:
    single: Mapping[str, Sequence[object]] = {"k": ["a", "b", "b"], "n": [1, 2, 4]}
    rows_found = cell_rows(records.table(single, SummaryRequest(by=("k",), measure=("n",))))
    by_level = {row["k"]: row for row in rows_found}
    assert by_level["a"]["low"] is None
    assert by_level["b"]["estimate"] == 3
    assert isinstance(by_level["b"]["estimate"], int)
    assert by_level["a"]["flags"] == ["small-base", "no-interval"]


def test_a_comparison_has_a_table_of_its_own(records: "Records") -> None:
    request = SummaryRequest(by=("route",), measure=("wait",), comparison=ComparisonRequest(compare="Osk"))
    tables = printed(records.table(PEOPLE, request), PrintRequest())
    assert len(tables) == 2
    assert tables[1].heading == ("route", "less", "difference", "95 % limits", "df", "adjusted p")
    assert [row[:2] for row in tables[1].rows] == [("Pell", "Osk"), ("Dun", "Osk")]


def test_hidden_figures_are_marked_and_never_printed(records: "Records") -> None:
    request = SummaryRequest(
        by=("route",), split="ticket", stat=("count",), small=SmallBaseRequest(min_base=2, hide_small=True)
    )
    text = as_text(printed(records.table(PEOPLE, request), PrintRequest(least=2)))
    assert "…" in text
    assert "… left out." in text


def test_other_kinds_of_limits_are_named(records: "Records") -> None:
    request = SummaryRequest(by=("route",), measure=("wait",), spread=SpreadRequest(error_bars="range"))
    text = as_text(printed(records.table(PEOPLE, request), PrintRequest(limits=True)))
    assert "From the lowest to the highest value." in text
    assert [cell.strip() for cell in rows(text)[1]][3:] == ["30–36"]
