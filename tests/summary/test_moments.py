"""Sums that merge: whatever the batches and their order, the figures are the same."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from grainstack.summary.moments import Floats, Integers, Moments

numbers = st.floats(-1e6, 1e6) | st.integers(-50, 50).map(float)
record_lists = st.lists(st.tuples(st.integers(-1, 3), numbers, st.floats(0.01, 100)), min_size=1, max_size=60)
COUNT = 4


def sums(cells: Integers, values: Floats, weights: Floats) -> Moments:
    moments = Moments()
    moments.absorb(cells, COUNT, values, weights)
    return moments


def columns(rows: list[tuple[int, float, float]]) -> tuple[Integers, Floats, Floats]:
    cells, values, weights = zip(*rows, strict=True)
    return np.array(cells), np.array(values), np.array(weights)


def close(one: Moments, other: Moments, scale: float) -> None:
    assert one.records.tolist() == other.records.tolist()
    np.testing.assert_allclose(one.weight, other.weight, rtol=1e-12)
    np.testing.assert_allclose(one.sum, other.sum, rtol=1e-12, atol=1e-12 * scale)
    np.testing.assert_allclose(one.mean, other.mean, rtol=1e-12, atol=1e-12 * scale)
    np.testing.assert_allclose(one.squares, other.squares, rtol=1e-10, atol=1e-12 * scale * scale)


@given(record_lists, st.integers(1, 60), st.randoms(use_true_random=False))
def test_batches_of_any_size_in_any_order_give_the_same_sums(
    rows: list[tuple[int, float, float]], size: int, shuffle: "np.random.Generator"
) -> None:
    whole = sums(*columns(rows))
    scale = 1 + sum(abs(value) * weight for _, value, weight in rows)
    shuffled = list(rows)
    shuffle.shuffle(shuffled)
    one_by_one = Moments()
    merged = Moments()
    for start in range(0, len(rows), size):
        cells, values, weights = columns(rows[start : start + size])
        one_by_one.absorb(cells, COUNT, values, weights)
        merged.merge(sums(*columns(shuffled[start : start + size])), np.arange(COUNT))
    close(whole, one_by_one, scale)
    close(whole, merged, scale)


@given(record_lists)
def test_sums_are_those_of_a_plain_loop(rows: list[tuple[int, float, float]]) -> None:
    moments = sums(*columns(rows))
    for cell in range(COUNT):
        mine = [(value, weight) for place, value, weight in rows if place == cell]
        weight = sum(w for _, w in mine)
        scale = 1 + sum(abs(x) * w for x, w in mine)
        assert moments.records[cell] == len(mine)
        np.testing.assert_allclose(moments.sum[cell], sum(x * w for x, w in mine), atol=1e-12 * scale)
        if mine:
            mean = sum(x * w for x, w in mine) / weight
            np.testing.assert_allclose(moments.mean[cell], mean, atol=1e-10 * (1 + abs(mean)))


@given(record_lists, st.lists(st.integers(0, 1), min_size=COUNT, max_size=COUNT))
def test_regrouping_is_summing_over_the_groups(rows: list[tuple[int, float, float]], groups: list[int]) -> None:
    cells, values, weights = columns(rows)
    of_cell = np.array([*groups, -1])
    direct = Moments()
    direct.absorb(of_cell[cells], 2, values, weights)
    regrouped = sums(cells, values, weights).regrouped(np.array(groups), 2)
    close(direct, regrouped, 1 + float(np.abs(values * weights).sum()))


def test_a_small_spread_on_a_large_value_survives() -> None:
    noise = np.sin(np.arange(10_000)) * 1e-3
    moments = Moments()
    for part in np.array_split(1e9 + noise, 7):
        moments.absorb(np.zeros(len(part), dtype=np.int64), 1, part)
    expected = np.var((1e9 + noise) - 1e9)
    np.testing.assert_allclose(moments.squares[0] / 10_000, expected, rtol=1e-6)


def test_records_without_an_answer_or_a_cell_are_passed_over() -> None:
    moments = sums(np.array([0, 0, -1]), np.array([1.0, np.nan, 5.0]), np.ones(3))
    assert moments.records.tolist() == [1, 0, 0, 0]
    assert moments.sum.tolist() == [1, 0, 0, 0]
