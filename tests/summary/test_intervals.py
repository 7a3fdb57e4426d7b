"""Limits against published figures and against direct computation."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from grainstack.summary.figures.interval_formulas import student, wilson


@given(st.integers(0, 400), st.integers(1, 400), st.sampled_from([80.0, 95.0, 99.0]))
def test_wilson_limits_solve_the_score_equation(hits: int, base: int, level: float) -> None:
    hits = min(hits, base)
    lower, upper = wilson(np.array([hits]), np.array([base]), level)
    z = stats.norm.ppf(0.5 + level / 200)
    share = hits / base
    assert 0 <= lower[0] <= share <= upper[0] <= 1
    for limit in (lower[0], upper[0]):
        if 0 < limit < 1:
            assert abs(share - limit) == pytest.approx(z * np.sqrt(limit * (1 - limit) / base), rel=1e-6)


def test_no_base_has_no_limits() -> None:
    lower, upper = wilson(np.array([0]), np.array([0]), 95)
    assert np.isnan(lower[0])
    assert np.isnan(upper[0])


@given(st.lists(st.floats(-100, 100), min_size=2, max_size=30), st.sampled_from([90.0, 95.0]))
def test_student_limits_are_those_of_scipy(values: list[float], level: float) -> None:
    n = len(values)
    error = np.std(values, ddof=1) / np.sqrt(n)
    low, high = student(np.array([np.mean(values)]), np.array([error]), np.array([n - 1.0]), level)
    reach = stats.t.ppf(0.5 + level / 200, n - 1) * error
    assert low[0] == pytest.approx(np.mean(values) - reach, abs=1e-9)
    assert high[0] == pytest.approx(np.mean(values) + reach, abs=1e-9)
