"""Weights that meet known totals."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import minimize

from grainstack.errors import RequestError
from grainstack.summary.calibration import Margin, calibrated

CELLS = np.array([(row, column) for row in range(3) for column in range(2)])


def margins(rows: list[float], columns: list[float]) -> list[Margin]:
    return [
        Margin("row", ("a", "b", "c")[: len(rows)], CELLS[:, 0], np.array(rows)),
        Margin("column", ("x", "y"), CELLS[:, 1], np.array(columns)),
    ]


def test_two_by_two_keeps_its_odds_ratio() -> None:
    # Proportional fitting keeps cross-product ratios: 30·40 / (20·10) = 6 here, so the first cell of a table with all
    # totals 50 is 50 √6 / (1 + √6).
    cells = np.array([(0, 0), (0, 1), (1, 0), (1, 1)])
    even = np.array([50.0, 50.0])
    known = [Margin("row", ("a", "b"), cells[:, 0], even), Margin("column", ("x", "y"), cells[:, 1], even)]
    start = np.array([30.0, 20, 10, 40])
    weights = start * calibrated(start, known).factors
    assert weights[0] == pytest.approx(50 * 6**0.5 / (1 + 6**0.5))
    assert weights.sum() == pytest.approx(100)


def test_one_margin_is_post_stratification() -> None:
    start = np.array([4.0, 6, 10, 20, 5, 5])
    known = margins([20.0, 60.0, 30.0], [1.0, 1.0])[:1]
    found = calibrated(start, known)
    assert found.factors == pytest.approx([2, 2, 2, 2, 3, 3])
    assert found.rounds == 1


amounts = st.lists(st.floats(1, 50), min_size=6, max_size=6)


@given(amounts, amounts)
def test_totals_are_met_and_factors_are_products(start: list[float], truth: list[float]) -> None:
    weights, aim = np.array(start), np.array(truth)
    known = margins(np.bincount(CELLS[:, 0], aim).tolist(), np.bincount(CELLS[:, 1], aim).tolist())
    factors = calibrated(weights, known).factors
    for margin in known:
        assert np.bincount(margin.of_cell, weights * factors) == pytest.approx(margin.totals)
    logs = np.log(factors).reshape(3, 2)
    assert logs[:, 1] - logs[:, 0] == pytest.approx([logs[0, 1] - logs[0, 0]] * 3)


def test_bounds_hold_and_the_distance_is_the_smallest() -> None:
    start = np.array([10.0, 30, 25, 15, 8, 12])
    known = margins([30.0, 45.0, 25.0], [55.0, 45.0])
    free = calibrated(start, known).factors
    low, high = 0.55, 1.5
    assert free.max() > high or free.min() < low
    factors = calibrated(start, known, (low, high)).factors
    assert low <= factors.min() <= factors.max() <= high
    for margin in known:
        assert np.bincount(margin.of_cell, start * factors) == pytest.approx(margin.totals)

    def distance(g: "np.ndarray[tuple[int], np.dtype[np.float64]]") -> float:
        # Deville & Särndal (1992), case 6
        slope = (high - low) / ((1 - low) * (high - 1))
        inner = (g - low) * np.log((g - low) / (1 - low)) + (high - g) * np.log((high - g) / (high - 1))
        return float((start * inner / slope).sum())

    rules = [
        {"type": "eq", "fun": lambda g, m=margin: np.bincount(m.of_cell, start * g) - m.totals} for margin in known
    ]
    rules[1] = {"type": "eq", "fun": lambda g: (np.bincount(CELLS[:, 1], start * g) - known[1].totals)[:1]}
    edge = 1e-6
    best = minimize(
        distance, factors * 0.98 + 0.02, bounds=[(low + edge, high - edge)] * 6, constraints=rules, tol=1e-12
    )
    assert factors == pytest.approx(best.x, abs=2e-3)


def test_what_cannot_be_met_is_said() -> None:
    start = np.array([10.0, 30, 25, 15, 8, 12])
    with pytest.raises(RequestError, match=r"cannot all be met within 0.9 to 1.1"):
        calibrated(start, margins([70.0, 15.0, 15.0], [50.0, 50.0]), (0.9, 1.1))
