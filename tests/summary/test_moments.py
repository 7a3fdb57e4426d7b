"""Sums that merge: whatever the batches and their order, the figures are the same."""

from fractions import Fraction
from math import nan
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grainstack.summary.sums.exact import ExactSums
from grainstack.summary.sums.factors import Amounts, Column, Shared
from grainstack.summary.sums.moments import Floats, Integers, Moments
from tests.soak import SOAK
from tests.summary.fractions_of import fractions_of

numbers = st.floats(-1e6, 1e6) | st.integers(-50, 50).map(float)
record_lists = st.lists(st.tuples(st.integers(-1, 3), numbers, st.floats(0.01, 100)), min_size=1, max_size=60)
COUNT = 4


def sums(cells: Integers, values: Floats, weights: Floats) -> Moments:
    moments = Moments()
    absorb(moments, cells, COUNT, values, weights)
    return moments


def absorb(moments: Moments, cells: Integers, count: int, values: Floats, weights: Floats | None = None) -> None:
    with Shared() as shared:
        moments.absorb(cells, count, Column(values), Amounts(shared, None if weights is None else Column(weights)))


def columns(rows: list[tuple[int, float, float]]) -> tuple[Integers, Floats, Floats]:
    cells, values, weights = zip(*rows, strict=True)
    return np.array(cells), np.array(values), np.array(weights)


def decimal(number: float) -> Fraction | None:
    """The decimal number of at most four decimals that a double is the nearest to, if there is one."""
    nearest = Fraction(round(Fraction(number) * 10**4), 10**4)
    return nearest if float(nearest) == number else None


def factors(*numbers: float) -> list[Fraction]:
    """What a row is summed up from: decimal numbers if all of them are, else the doubles as they are."""
    decimals = [decimal(number) for number in numbers]
    known = [factor for factor in decimals if factor is not None]
    return known if len(known) == len(numbers) else [Fraction(number) for number in numbers]


def same(one: Moments, other: Moments) -> None:
    for name in ("records", "weight", "weight_squares", "sum", "mean", "squares"):
        np.testing.assert_array_equal(getattr(one, name), getattr(other, name), err_msg=name)


@given(record_lists, st.integers(1, 60), st.randoms(use_true_random=False))
def test_batches_of_any_size_in_any_order_give_the_same_sums(
    rows: list[tuple[int, float, float]], size: int, shuffle: "np.random.Generator"
) -> None:
    whole = sums(*columns(rows))
    shuffled = list(rows)
    shuffle.shuffle(shuffled)
    one_by_one = Moments()
    merged = Moments()
    for start in range(0, len(rows), size):
        cells, values, weights = columns(rows[start : start + size])
        absorb(one_by_one, cells, COUNT, values, weights)
        merged.merge(sums(*columns(shuffled[start : start + size])), np.arange(COUNT))
    same(whole, one_by_one)
    same(whole, merged)


@given(record_lists)
def test_sums_are_those_of_exact_arithmetic_rounded_once(rows: list[tuple[int, float, float]]) -> None:
    moments = sums(*columns(rows))
    for cell in range(COUNT):
        mine = [factors(value, weight) for place, value, weight in rows if place == cell]
        weight = sum((w for _, w in mine), Fraction(0))
        total = sum((x * w for x, w in mine), Fraction(0))
        assert moments.records[cell] == len(mine)
        assert moments.weight[cell] == float(weight)
        assert moments.sum[cell] == pytest.approx(float(total), rel=1e-15, abs=1e-280)
        if mine:
            assert moments.mean[cell] == pytest.approx(float(total / weight), rel=1e-15, abs=1e-280)
            squares = sum((w * (x - total / weight) ** 2 for x, w in mine), Fraction(0))
            assert moments.squares[cell] == pytest.approx(float(squares), rel=1e-9, abs=1e-18)


@given(st.lists(st.floats(allow_nan=False, allow_infinity=False, width=64), min_size=1, max_size=40))
def test_exact_sums_of_any_numbers(values: list[float]) -> None:
    exact = sum((Fraction(value) for value in values), Fraction(0))
    found = ExactSums()
    found.add(np.zeros(len(values), dtype=np.int64), np.array(values), 1)
    assert fractions_of(found) == [exact]


def test_exact_sums_carry_over_many_large_numbers() -> None:
    found = ExactSums()
    for _ in range(40):
        found.add(np.zeros(1000, dtype=np.int64), np.full(1000, 2.0**36 - 1), 1)
    assert found.values()[0] == 40_000 * (2.0**36 - 1)


@given(record_lists, st.lists(st.integers(0, 1), min_size=COUNT, max_size=COUNT))
def test_regrouping_is_summing_over_the_groups(rows: list[tuple[int, float, float]], groups: list[int]) -> None:
    cells, values, weights = columns(rows)
    of_cell = np.array([*groups, -1])
    direct = Moments()
    absorb(direct, of_cell[cells], 2, values, weights)
    regrouped = sums(cells, values, weights).regrouped(np.array(groups), 2)
    same(direct, regrouped)


def test_a_small_spread_on_a_large_value_survives() -> None:
    noise = np.sin(np.arange(10_000)) * 1e-3
    moments = Moments()
    for part in np.array_split(1e9 + noise, 7):
        absorb(moments, np.zeros(len(part), dtype=np.int64), 1, part)
    expected = np.var((1e9 + noise) - 1e9)
    assert moments.squares[0] / 10_000 == pytest.approx(expected, rel=1e-12)


def test_records_without_an_answer_or_a_cell_are_passed_over() -> None:
    moments = sums(np.array([0, 0, -1]), np.array([1.0, np.nan, 5.0]), np.ones(3))
    assert moments.records.tolist() == [1, 0, 0, 0]
    assert moments.sum.tolist() == [1, 0, 0, 0]


NUMBERS = st.one_of(
    st.integers(-(10**6), 10**6).map(lambda n: n / 10 ** (abs(n) % 5)),  # decimals: money, minutes, weights
    st.integers(-(10**11), 10**11).map(float),
    st.floats(-1e6, 1e6, allow_nan=False),
    st.sampled_from([0.1, 1 / 3, 2.0**-40, 1e10, 1e10 + 0.5, 123456789.1234, -0.0]),
)


def _is_decimal(number: float) -> bool:
    """Whether a number takes four decimals at most, as it is written."""
    return abs(number) <= 1e10 and (Fraction(repr(number)) * 10**4).denominator == 1


@settings(max_examples=150 * SOAK)
@given(st.lists(st.tuples(st.integers(0, 2), NUMBERS, NUMBERS), min_size=1, max_size=40), st.data())
def test_products_of_decimals_are_summed_up_as_they_are_written(rows: list[Any], data: st.DataObject) -> None:
    cells, x, w = (np.array(column) for column in zip(*rows, strict=True))
    whole = Moments()
    absorb(whole, cells, 3, x.astype(float), np.abs(w).astype(float))
    cut = data.draw(st.integers(0, len(rows)))
    order = data.draw(st.permutations(range(len(rows))))
    parts = Moments()
    for places in (list(order)[:cut], list(order)[cut:]):
        some = Moments()
        absorb(some, cells[places], 3, x[places].astype(float), np.abs(w)[places].astype(float))
        parts.merge(some, np.arange(3))
    for name in ("totals", "products", "weights", "weight_products"):
        sums, other = getattr(whole, name), getattr(parts, name)
        assert fractions_of(sums) == fractions_of(other), name
        assert sums.values().tobytes() == other.values().tobytes(), name
        assert sums.values().tolist() == [float(one) for one in fractions_of(sums)], name  # each rounded once
    for cell in range(3):
        mine = [(float(a), float(abs(b))) for c, a, b in rows if c == cell]
        if all(_is_decimal(a) and _is_decimal(b) for a, b in mine):
            written = [(Fraction(repr(a)), Fraction(repr(b))) for a, b in mine]
            assert fractions_of(whole.totals)[cell] == sum((a * b for a, b in written), Fraction(0))
            assert fractions_of(whole.products)[cell] == sum((a * a * b for a, b in written), Fraction(0))


def test_tenths_add_up() -> None:
    moments = Moments()
    absorb(moments, np.zeros(10, dtype=np.int64), 1, np.full(10, 0.1))
    assert moments.sum.tolist() == [1.0]
    assert moments.mean.tolist() == [0.1]
    assert moments.squares.tolist() == [0.0]


def test_products_do_not_depend_on_where_columns_lie_in_memory() -> None:
    values, weights = Column(np.array([2.935254743734534e-152])), Column(np.array([2.0]))
    found: dict[bool, list[Fraction]] = {}
    kept: list[Any] = []  # so that the next ones lie elsewhere
    while len(found) < 2:
        with Shared() as shared:
            [(_, (value, weight))] = shared.factored([values, weights])
            if len(kept) % 2:
                [(_, (weight, value))] = shared.factored([weights, values])
            kept.append((value, weight))
            total = ExactSums()
            shared.ask(total, np.zeros(1, dtype=np.int64), [value, value, weight], 1)
        found[id(value) < id(weight)] = fractions_of(total)
    assert found[True] == found[False]


@settings(max_examples=100 * SOAK)
@given(st.lists(st.tuples(st.integers(-1, 2), NUMBERS | st.just(nan), NUMBERS), min_size=1, max_size=80))
def test_sums_that_share_their_work_are_those_that_do_not(rows: list[Any]) -> None:
    cells, x, w = (np.array(column) for column in zip(*rows, strict=True))
    values, weights, times = Column(x.astype(float)), Column(np.abs(w).astype(float)), Column(1.0 + np.abs(cells))
    columns = (None, values, weights, values)
    together, alone = [Moments() for _ in columns], [Moments() for _ in columns]
    with Shared() as shared:
        for moments, column in zip(together, columns, strict=True):
            moments.absorb(cells, 3, column, Amounts(shared, weights, times))
    for moments, column in zip(alone, columns, strict=True):
        with Shared() as single:
            moments.absorb(cells, 3, column, Amounts(single, weights, times))
    for one, other in zip(together, alone, strict=True):
        assert one.records.tolist() == other.records.tolist()
        for name in ("totals", "products", "weights", "weight_products"):
            assert fractions_of(getattr(one, name)) == fractions_of(getattr(other, name)), name
