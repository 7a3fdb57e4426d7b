"""Tests, adjustment and letters."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from grainstack.errors import RequestError
from grainstack.summary.comparison.association import pearson
from grainstack.summary.comparison.differences import holm
from grainstack.summary.comparison.letters import comparison_letters
from grainstack.summary.comparison.shares import limits_of_difference, p_of_difference
from grainstack.summary.options import ComparisonRequest, SpreadRequest
from grainstack.summary.summary_request import SummaryRequest
from tests.summary.sampling import Sample

pairs = st.integers(2, 9).flatmap(
    lambda count: st.tuples(
        st.just(count),
        st.sets(st.tuples(st.integers(0, count - 1), st.integers(0, count - 1)).filter(lambda pair: pair[0] < pair[1])),
    )
)


@given(pairs)
def test_two_items_share_a_letter_exactly_when_they_do_not_differ(found: tuple[int, set[tuple[int, int]]]) -> None:
    count, different = found
    letters = comparison_letters(count, sorted(different))
    assert all(letters)
    for one in range(count):
        for other in range(one + 1, count):
            assert bool(set(letters[one]) & set(letters[other])) == ((one, other) not in different)


@given(st.lists(st.floats(0, 1), min_size=1, max_size=12))
def test_adjusted_p_values_keep_their_order_and_never_shrink(p_values: list[float]) -> None:
    adjusted = holm(p_values)
    assert all(0 <= p <= a <= 1 for p, a in zip(p_values, adjusted, strict=True))
    order = sorted(range(len(p_values)), key=p_values.__getitem__)
    assert [adjusted[place] for place in order] == sorted(adjusted)
    assert min(adjusted) == pytest.approx(min(1, len(p_values) * min(p_values)))


@given(st.tuples(*(st.integers(0, 40) for _ in range(4))), st.floats(-0.9, 0.9), st.floats(0.001, 0.5))
def test_a_p_value_of_shares_and_the_limits_of_their_difference_never_disagree(
    counts: tuple[int, int, int, int], correlation: float, alpha: float
) -> None:
    first, second = (counts[0], counts[0] + counts[1]), (counts[2], counts[2] + counts[3])
    if not (first[1] and second[1]):
        return
    p = p_of_difference(first, second, correlation)
    low, high = limits_of_difference(first, second, correlation, float(stats.norm.isf(alpha / 2)))
    if abs(p - alpha) > 1e-6:
        assert (p < alpha) == (low > 0 or high < 0)
    assert p == pytest.approx(p_of_difference(second, first, correlation), abs=1e-6)


@given(st.integers(20, 400), st.integers(20, 400), st.floats(0.2, 0.8), st.floats(0.2, 0.8))
def test_in_large_groups_it_is_nearly_the_pooled_test(n: int, m: int, one: float, other: float) -> None:
    a, b = round(n * one), round(m * other)
    pooled = (a + b) / (n + m)
    z = abs(a / n - b / m) / np.sqrt(pooled * (1 - pooled) * (1 / n + 1 / m))
    mine = float(stats.norm.isf(p_of_difference((a, n), (b, m), 0) / 2))
    if z < 4:
        assert mine == pytest.approx(z, abs=0.25)


@given(st.lists(st.integers(1, 60), min_size=6, max_size=6))
def test_pearson_is_that_of_scipy(counts: list[int]) -> None:
    table = np.array(counts, dtype=float).reshape(2, 3)
    expected = stats.chi2_contingency(table, correction=False)
    assert pearson(table)[0] == pytest.approx(expected.statistic)


def sample_of(groups: list[list[float]]) -> Sample:
    places = np.repeat(np.arange(len(groups)), [len(group) for group in groups])
    return Sample({"k": places}, {"x": np.array([value for group in groups for value in group])})


@given(
    st.lists(
        st.lists(st.integers(0, 20).map(float), min_size=2, max_size=12).filter(lambda v: len(set(v)) > 1),
        min_size=2,
        max_size=4,
    )
)
def test_welch_is_that_of_scipy(groups: list[list[float]]) -> None:
    request = SummaryRequest(by=("k",), measure=("x",), comparison=ComparisonRequest(compare="pairs"))
    table = sample_of(groups).table(request)
    assert table.comparison is not None
    tests = len(table.comparison.differences)
    for one in table.comparison.differences:
        assert one.other is not None
        first, second = (groups[int(table.levels_of(cell)[0].code)] for cell in (one.cell, one.other))
        expected = stats.ttest_ind(first, second, equal_var=False)
        assert one.p == pytest.approx(expected.pvalue, rel=1e-9)
        interval = expected.confidence_interval(1 - 0.05 * (one.p / one.adjusted if one.p else 1 / tests))
        assert (one.low < 0 < one.high) == (one.adjusted > 0.05)  # limits and adjusted test agree
        assert (one.low, one.high) == pytest.approx((interval.low, interval.high))


def test_shares_of_each_series_are_compared_between_series() -> None:
    answers = np.repeat([0, 1, 0, 1], [30, 10, 12, 28])
    sample = Sample({"ticket": answers, "season": np.repeat([0, 1], [40, 40])}, {})
    asked = {"by": ("ticket",), "split": "season", "stat": ("share",), "base": "series"}
    table = sample.table(SummaryRequest(**asked, comparison=ComparisonRequest(letters=True)))  # type: ignore[arg-type]
    assert table.comparison is not None
    assert table.comparison.of_series
    assert table.columns[0].letters == ("a", "b", "a", "b")  # ticket by ticket, season against season
    assert "each ticket compared between levels of season" in table.comparison.words
    inside = ComparisonRequest(compare="answers", letters=True)
    answered = sample.table(SummaryRequest(**asked, comparison=inside))  # type: ignore[arg-type]
    assert answered.comparison is not None
    assert "levels of ticket compared within each season" in answered.comparison.words
    assert answered.columns[0].letters == ("a", "a", "b", "b")


def test_the_rest_is_everybody_else_together() -> None:
    groups = [[1.0, 2, 3], [4.0, 4, 6], [7.0, 9]]
    request = SummaryRequest(by=("k",), measure=("x",), comparison=ComparisonRequest(compare="rest"))
    table = sample_of(groups).table(request)
    assert table.comparison is not None
    for one in table.comparison.differences:
        own = int(table.levels_of(one.cell)[0].code)
        rest = [value for place, group in enumerate(groups) if place != own for value in group]
        assert one.estimate == pytest.approx(np.mean(groups[own]) - np.mean(rest))
        assert one.p == pytest.approx(stats.ttest_ind(groups[own], rest, equal_var=False).pvalue)


def test_one_level_is_compared_with_all_others() -> None:
    request = SummaryRequest(by=("k",), measure=("x",), comparison=ComparisonRequest(compare="1"))
    table = sample_of([[1.0, 2], [3.0, 5], [4.0, 9]]).table(request)
    assert table.comparison is not None
    assert [(one.cell, one.other) for one in table.comparison.differences] == [(0, 1), (2, 1)]
    with pytest.raises(RequestError, match="no level `9`"):
        sample_of([[1.0, 2], [3.0, 5]]).table(
            SummaryRequest(by=("k",), measure=("x",), comparison=ComparisonRequest(compare="9"))
        )


def shares(first: tuple[int, int], second: tuple[int, int]) -> Sample:
    counts = [*first, *second]
    return Sample({"k": np.repeat([0, 0, 1, 1], counts), "y": np.repeat([0, 1, 0, 1], counts)}, {})


@pytest.mark.parametrize(("first", "second"), [((30, 20), (25, 40)), ((9, 1), (2, 8))])
def test_shares_are_compared_by_the_limits_of_their_difference(first: tuple[int, int], second: tuple[int, int]) -> None:
    request = SummaryRequest(by=("k",), split="y", stat=("share",), comparison=ComparisonRequest(compare="pairs"))
    comparison = shares(first, second).table(request).comparison
    assert comparison is not None
    one = comparison.differences[0]
    assert one.test == "the score limits of their differences (Newcombe)"
    hits, bases = (first[0], second[0]), (sum(first), sum(second))
    assert one.p == pytest.approx(p_of_difference((hits[0], bases[0]), (hits[1], bases[1]), 0), rel=1e-6)
    assert (one.p < 0.05) == (one.low > 0 or one.high < 0)
    assert comparison.differences == (one,)  # a yes and its no are one test
    assert one.adjusted == one.p


def test_letters_follow_the_adjusted_tests() -> None:
    groups = [[1.0, 1.1, 0.9, 1.0], [1.05, 0.95, 1.1, 1.0], [9.0, 9.2, 8.9, 9.1]]
    request = SummaryRequest(by=("k",), measure=("x",), comparison=ComparisonRequest(letters=True))
    table = sample_of(groups).table(request)
    assert table.columns[0].letters == ("a", "a", "b")
    (tested,) = table.provenance.tests
    assert "share a letter" in tested
    assert "3 comparisons adjusted by Holm's method" in tested
    assert "no difference was found at 0.05" in tested


@pytest.mark.parametrize(
    ("asked", "message"),
    [
        (
            {"measure": ("x",), "stat": ("median",), "comparison": ComparisonRequest(compare="pairs")},
            "does not test a median",
        ),
        (
            {"measure": ("x",), "stat": ("mean", "rate"), "per": "z", "comparison": ComparisonRequest(compare="pairs")},
            "several",
        ),
        ({"comparison": ComparisonRequest(association=True)}, "between two columns"),
    ],
)
def test_comparisons_that_cannot_be_are_refused(asked: dict[str, object], message: str) -> None:
    with pytest.raises(RequestError, match=message):
        SummaryRequest(by=("k",), **asked)  # type: ignore[arg-type]


def test_letters_need_pairs_and_comparisons_need_two_figures() -> None:
    with pytest.raises(RequestError, match="needs every pair"):
        ComparisonRequest(compare="rest", letters=True)
    request = SummaryRequest(by=("k",), measure=("x",), comparison=ComparisonRequest(compare="pairs"))
    with pytest.raises(RequestError, match="no two figures"):
        sample_of([[1.0, 2], [3.0]]).table(request)
    with pytest.raises(RequestError, match="not the bootstrap"):
        SummaryRequest(
            by=("k",),
            measure=("x",),
            comparison=ComparisonRequest(compare="pairs"),
            spread=SpreadRequest(interval="bootstrap"),
        )


def test_totals_are_no_part_of_the_family() -> None:
    random = np.random.default_rng(4)
    sample = Sample({"a": random.integers(0, 3, 200), "b": random.integers(0, 2, 200)}, {})
    wanted = ComparisonRequest(compare="pairs")
    for totals in (False, True):
        request = SummaryRequest(by=("a",), split="b", stat=("share",), totals=totals, comparison=wanted)
        comparison = sample.table(request).comparison
        assert comparison is not None
        assert len(comparison.differences) == 3  # a yes and its no are one test
