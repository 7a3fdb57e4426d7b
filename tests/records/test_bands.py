"""Bands: labels from the edges, order from the values, nothing lost unsaid."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from grainstack.errors import RequestError
from grainstack.records.readers.bands import DateBands, NumberBands, band_rule
from grainstack.records.readers.levels import Rows
from grainstack.records.readers.widths import auto_width
from grainstack.records.variable import NO_BAND_CODE


def labels_of(rule: str, values: list[float], closed: str = "left") -> list[str]:
    """The label of the band of each value; `lost` where there is none."""
    bands = NumberBands(band_rule(f"x={rule}", closed))
    places = bands.place(np.array(values), Rows(0))
    names = {level.code: level.label for level in bands.levels()} | {NO_BAND_CODE: "lost"}
    return [names[bands.codes[place]] if place >= 0 else "missing" for place in places]


@pytest.mark.parametrize(
    ("rule", "closed", "values", "labels"),
    [
        ("10", "left", [0, 9, 10, 19, 95], ["0–9", "0–9", "10–19", "10–19", "90–99"]),
        ("10", "right", [0, 10, 11], ["−9–0", "1–10", "11–20"]),
        ("1", "left", [3, 4], ["3", "4"]),
        ("0.5", "left", [0.2, 0.5], ["0 to under 0.5", "0.5 to under 1"]),
        ("0.1", "left", [0.3, 0.7], ["0.3 to under 0.4", "0.7 to under 0.8"]),
        ("0,18,65", "left", [0, 17, 18, 64, 65, -1], ["0–17", "0–17", "18–64", "18–64", "lost", "lost"]),
        ("0,18,65", "right", [0, 1, 18, 65], ["lost", "1–18", "1–18", "19–65"]),
        (
            "under,18,65,over",
            "left",
            [-5, 17, 18, 65, 90],
            ["under 18", "under 18", "18–64", "65 and over", "65 and over"],
        ),
        ("under,18,over", "right", [18, 18.5], ["18 and under", "over 18"]),
        ("0,1000,20000", "left", [5, 1500], ["0–999", "1,000–19,999"]),
        ("10", "left", [float("nan"), 4], ["missing", "0–9"]),
    ],
)
def test_values_fall_in_the_band_their_edges_say(
    rule: str, closed: str, values: list[float], labels: list[str]
) -> None:
    assert labels_of(rule, values, closed) == labels


@given(st.lists(st.floats(-1e4, 1e4), min_size=1, max_size=40), st.sampled_from([0.1, 0.25, 1, 7, 1000]), st.booleans())
def test_every_value_lies_in_one_band_of_equal_width_and_bands_leave_no_gap(
    values: list[float],
    width: float,
    left: bool,  # noqa: FBT001
) -> None:
    if (max(values) - min(values)) / width > 450:
        return
    bands = NumberBands(band_rule(f"x={width}", "left" if left else "right"))
    places = bands.place(np.array(values), Rows(0))
    numbers = [int(code.split()[1]) for code in bands.codes]
    for value, place in zip(values, places, strict=True):
        low = numbers[place] * width
        assert low - 1e-9 * max(1, abs(low)) <= value <= low + width + 1e-9 * max(1, abs(low))
    order = [int(level.code.split()[1]) for level in bands.levels()]
    assert order == list(range(min(numbers), max(numbers) + 1))


def test_values_in_no_band_are_remembered_as_examples() -> None:
    bands = NumberBands(band_rule("x=0,10", "left"))
    bands.place(np.array([-1.0, 10, 10, 11, 12]), Rows(0))
    assert bands.outside == ("-1", "10", "11")


@pytest.mark.parametrize(
    ("rule", "message"),
    [
        ("age", "names no bands"),
        ("age=", "names no bands"),
        ("age=10,,20", "names no bands"),
        ("age=ten", "`ten` in"),
        ("age=0", "must be above 0"),
        ("age=0,10,10", "overlap: 10 comes after 10"),
        ("age=0,20,10", "overlap: 10 comes after 20"),
        ("age=under,over", "no finite edges"),
    ],
)
def test_bands_that_cannot_be_are_refused(rule: str, message: str) -> None:
    with pytest.raises(RequestError, match=message):
        band_rule(rule, "left")


def test_too_many_bands_are_refused() -> None:
    with pytest.raises(RequestError, match="more than 500 bands"):
        NumberBands(band_rule("x=1", "left")).place(np.arange(1000.0), Rows(0))


@pytest.mark.parametrize("far", [1e6, -1e10, 1e300])
def test_a_far_value_is_refused_for_the_empty_bands_before_it(far: float) -> None:
    with pytest.raises(RequestError, match="more than 500 bands of `x`"):
        NumberBands(band_rule("x=10", "left")).place(np.array([1.0, 2, far]), Rows(0))


def test_a_date_that_stands_for_no_date_is_refused() -> None:
    bands = DateBands(band_rule("day=month", "left"))
    bands.place_of("2024-11-30")
    with pytest.raises(RequestError, match="`day` reaches over more than 500 bands by month, with 9999-12-31"):
        bands.place_of("9999-12-31")


def test_the_rule_of_freedman_and_diaconis_gives_round_widths() -> None:
    values = np.arange(1000.0)
    # 2 · IQR / ∛n = 2 · 500 / 10 = 100
    assert auto_width(values, np.ones(1000)) == 100
    assert auto_width(values / 1000 + 0.0001, np.ones(1000)) == pytest.approx(0.1)
    assert auto_width(np.array([1.0, 2, 3, 4, 5]), np.full(5, 200.0)) == 1


def test_a_far_value_makes_the_bands_of_the_rule_wider() -> None:
    assert auto_width(np.array([1.0, 2, 3, 4, 5, 1e12]), np.full(6, 200.0)) == 5e9


@pytest.mark.parametrize(
    ("by", "labels"),
    [
        ("month", ["Nov 2024", "Dec 2024", "Jan 2025"]),
        ("quarter", ["Q4 2024", "Q1 2025"]),
        ("year", ["2024", "2025"]),
        ("weekday", ["Tuesday", "Wednesday", "Thursday", "Friday"]),
    ],
)
def test_dates_are_cut_by_the_calendar(by: str, labels: list[str]) -> None:
    bands = DateBands(band_rule(f"x={by}", "left"))
    places = [bands.place_of(text) for text in ("2025-01-31", "2024-11-05", " ", "soon")]
    assert places[2:] == [-1, None]
    assert [level.label for level in bands.levels()] == labels
