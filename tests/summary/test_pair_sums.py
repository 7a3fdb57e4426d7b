"""Sums of ratios per drawn unit and cell: those of a mean are a count less the records that have no number."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from grainstack.summary.sums.design import MeanSums, PairSums
from grainstack.summary.sums.exact import ExactSums
from grainstack.summary.sums.factors import Amounts, Column, Shared
from tests.summary.fractions_of import fractions_of

NUMBERS = st.one_of(st.integers(-(10**6), 10**6).map(lambda whole: whole / 10**4), st.floats(-1000, 1000, width=16))
ROWS = st.lists(
    st.tuples(st.integers(-1, 3), st.one_of(NUMBERS, st.just(float("nan"))), st.floats(0.5, 3, width=16)), max_size=30
)


@given(st.lists(st.tuples(st.integers(0, 2), NUMBERS), max_size=20), st.data())
def test_sums_less_a_part_are_those_of_the_rest(rows: list[tuple[int, float]], data: st.DataObject) -> None:
    part = [row for row in rows if data.draw(st.booleans())]
    whole, taken = ExactSums(), ExactSums()
    for sums, chosen in ((whole, rows), (taken, part)):
        sums.add(np.array([cell for cell, _ in chosen], dtype=np.int64), np.array([one for _, one in chosen]), 3)
    expected = [one - other for one, other in zip(fractions_of(whole), fractions_of(taken), strict=True)]
    assert fractions_of(whole.less(taken)) == expected


@given(batches=st.lists(ROWS, min_size=1, max_size=3), squares=st.booleans(), two=st.booleans())
def test_a_mean_has_the_sums_of_its_records(
    batches: list[list[tuple[int, float, float]]], *, squares: bool, two: bool
) -> None:
    count, mean = PairSums.of_counts(), MeanSums()
    other_count, other_mean = PairSums.of_counts(), MeanSums()
    expected = PairSums()
    for number, rows in enumerate(batches):
        pairs = np.array([pair for pair, _, _ in rows], dtype=np.int64)
        values, weights = (Column(np.array([row[place] for row in rows], dtype=float)) for place in (1, 2))
        apart = two and number % 2
        with Shared() as shared:
            amounts = Amounts(shared, weights)
            counted, means = (other_count, other_mean) if apart else (count, mean)
            counted.absorb(pairs, 4, (None, None), amounts, squares=squares)
            means.absorb(pairs, 4, values, amounts, squares=squares)
        with Shared() as shared:
            ones = Column(np.where(np.isnan(values.numbers), np.nan, 1.0))
            expected.absorb(pairs, 4, (values, ones), Amounts(shared, weights), squares=squares)
    places = np.arange(4)
    count.merge(other_count, places, 4)
    mean.merge(other_mean, places, 4)
    found = mean.of(count)
    assert found.records.tolist() == [*expected.records.tolist(), 0, 0, 0, 0][:4]
    for name in ("x", "y", "xx", "xy", "yy") if squares else ("x", "y"):
        pair = (getattr(found, name), getattr(expected, name))
        one, other = ([*fractions_of(sums), 0, 0, 0, 0][:4] for sums in pair)
        assert [float(value) for value in one] == [float(value) for value in other], name
