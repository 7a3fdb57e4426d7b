"""Figures as text, and round numbers for an axis."""

from decimal import Decimal
from math import isclose, nan

import pytest
from hypothesis import given
from hypothesis import strategies as st

from grainstack.chart.frame.ticks import ticks_for
from grainstack.chart.writing.numbers import number_style, rounded, written


@pytest.mark.parametrize(
    ("value", "decimals", "text"),
    [
        (2.675, 2, "2.68"),
        (0.5, 0, "1"),
        (-2.5, 0, "−3"),
        (1234567.0, 0, "1,234,567"),
        (-0.04, 1, "0.0"),
        (nan, 1, ""),
        (1e21, 0, "1,000,000,000,000,000,000,000"),
    ],
)
def test_figures_are_rounded_half_away_from_zero(value: float, decimals: int, text: str) -> None:
    assert written(value, decimals) == text


@given(st.floats(-1e9, 1e9), st.integers(0, 4))
def test_rounding_is_never_off_by_more_than_half_a_step(value: float, decimals: int) -> None:
    assert abs(rounded(value, decimals) - Decimal(repr(value))) <= Decimal("0.5").scaleb(-decimals)


@pytest.mark.parametrize(
    ("values", "unit", "texts"),
    [
        ([3, 3_000_000], "", ["3", "3,000,000"]),
        ([12.34, 5.0], "", ["12.3", "5.0"]),
        ([0.126, 0.5], "%", ["13", "50"]),
        ([0.0126, 0.05], "%", ["1.3", "5.0"]),
        ([0.00123, nan], "", ["0.00123", ""]),
        ([nan], "", [""]),
    ],
)
def test_a_column_of_figures_is_written_alike(values: list[float], unit: str, texts: list[str]) -> None:
    write = number_style(values, share=unit == "%")
    assert [write(value) for value in values] == texts


@given(st.floats(-1e6, 1e6), st.floats(1e-6, 1e7), st.integers(1, 10))
def test_ticks_cover_the_range_in_few_equal_round_steps(low: float, span: float, most: int) -> None:
    span = max(span, abs(low) * 1e-6)
    high = low + span
    ticks = ticks_for(low, high, most)
    assert ticks.values[0] <= low + 1e-6 * span
    assert ticks.values[-1] >= high - 1e-6 * span
    assert len(ticks.values) - 1 <= most + 1
    steps = [b - a for a, b in zip(ticks.values, ticks.values[1:], strict=False)]
    assert all(isclose(step, steps[0], rel_tol=1e-6) for step in steps)


@given(st.integers(-500, 500), st.integers(1, 1000), st.integers(2, 8))
def test_tick_labels_lose_nothing(low: int, span: int, most: int) -> None:
    ticks = ticks_for(low / 10, (low + span) / 10, most)
    for value in ticks.values:
        assert isclose(float(rounded(value, ticks.decimals)), value, abs_tol=1e-9)


def test_an_empty_range_still_has_ticks() -> None:
    assert ticks_for(0, 0, 5).values[-1] > 0
