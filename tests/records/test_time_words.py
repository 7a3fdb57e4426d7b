"""Names of times stand in their order, whatever the form; two that can be read in two ways have none."""

import pytest

from grainstack.records.known_orders import known_order
from grainstack.records.time_words import distances


@pytest.mark.parametrize(
    "names",
    [
        ["2024-12-31", "2025-01-01", "2025-02-03T10:00:00Z"],
        ["2024/12/31", "2025/01/01"],
        ["31.12.2024", "1.1.2025", "15.01.2025"],
        ["12/31/2024", "01/02/2025", "02/01/2025"],
        ["31/12/2024", "01/02/2025", "15/02/2025"],
        ["Dec 2024", "January 2025", "Feb 2025"],
        ["Dezember 2024", "März 2025"],
        ["31 Dec 2024", "1 Jan 2025", "Feb 3, 2025"],
        ["12/2024", "01/2025"],
        ["2024 Q4", "2025 Q1", "2025 Q2"],
        ["Q4 2024", "Q1 2025"],
        ["4. Quartal 2024", "1. Quartal 2025"],
        ["2024-W52", "2025-W07", "2025-W10"],
        ["KW 7 2025", "KW 10 2025"],
        ["H2 2024", "H1 2025"],
        ["2023/24", "2024/25"],
        ["1999/00", "2000/01"],
        ["FY 2023/24", "FY 2024/25"],
        ["Wave 2", "Wave 10"],
        ["(0,19]", "(19,39]", "(39,59]"],
    ],
)
def test_times_stand_in_their_order(names: list[str]) -> None:
    shuffled = [*names[1:], names[0]]
    order = known_order(shuffled)
    assert order is not None
    assert [shuffled[place] for place in order] == names


@pytest.mark.parametrize("names", [["01/02/2025", "02/03/2025"], ["Dec 2024", "Q1 2025"], ["31/02/2025", "x"]])
def test_what_can_be_read_in_two_ways_has_no_order(names: list[str]) -> None:
    assert known_order(names) is None


@pytest.mark.parametrize(
    ("names", "places", "unit"),
    [
        (["2001", "2002", "2003", "2015"], [0, 1, 2, 14], "year"),
        (["2024 Q4", "2025 Q1", "2025 Q3"], [0, 1, 3], "quarter"),
        (["Dec 2024", "Jan 2025"], [0, 1], "month"),
        (["31.12.2024", "2.1.2025"], [0, 2], "day"),
        (["Wave 1", "Wave 4"], [0, 3], "wave"),
        (["2023/24", "2025/26"], [0, 2], "year"),
        (["1", "2.5"], [0, 1.5], ""),
    ],
)
def test_times_and_numbers_have_distances(names: list[str], places: list[float], unit: str) -> None:
    found = distances(names)
    assert found is not None
    assert ([place - found.places[0] for place in found.places], found.unit) == (places, unit)


def test_grades_have_none() -> None:
    assert distances(["poor", "fair", "good"]) is None
