"""Which values occur how often in each cell, whatever batches they come in and whether a table has room for them."""

from collections import Counter

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from grainstack.summary.sums.factors import Column
from grainstack.summary.sums.values import Values

NUMBERS = st.one_of(
    st.integers(-20, 20).map(float), st.integers(-500, 500).map(lambda tenths: tenths / 10), st.just(float("nan"))
)
ODD = st.one_of(NUMBERS, st.sampled_from([1e9, -1e9, 0.12345, 1e12, -0.0]))
BATCHES = st.lists(st.lists(st.tuples(st.integers(-1, 4), ODD, st.integers(1, 30)), max_size=12), max_size=6)
PLAIN = st.lists(st.lists(st.tuples(st.integers(-1, 4), NUMBERS, st.integers(1, 30)), max_size=12), max_size=6)


@given(st.one_of(BATCHES, PLAIN), st.booleans())
def test_values_are_counted(batches: list[list[tuple[int, float, int]]], weighted: bool) -> None:  # noqa: FBT001
    found = Values()
    records: Counter[tuple[int, float]] = Counter()
    weights: Counter[tuple[int, float]] = Counter()
    for batch in batches:
        cells, values, tenths = (np.array([row[place] for row in batch]) for place in range(3))
        weight = Column(tenths.astype(float) / 10) if weighted else None
        found.absorb(cells.astype(np.int64), Column(values.astype(float)), weight)
        for cell, value, tenth in batch:
            if cell >= 0 and not np.isnan(value):
                records[cell, value + 0.0] += 1
                weights[cell, value + 0.0] += tenth
    found.settle()
    pairs = list(zip(found.cells.tolist(), found.values.tolist(), strict=True))
    assert pairs == sorted(records)
    assert found.records.tolist() == [records[pair] for pair in pairs]
    if weighted and pairs:
        assert found.weights.tolist() == [weights[pair] / 10 for pair in pairs]


@given(BATCHES, st.integers(1, 10))
def test_more_values_than_wanted_are_dropped_whatever_the_batches(
    batches: list[list[tuple[int, float, int]]], most: int
) -> None:
    found = Values(most=most)
    different = {(cell, value) for batch in batches for cell, value, _ in batch if cell >= 0 and not np.isnan(value)}
    for batch in batches:
        cells, values = np.array([row[0] for row in batch], dtype=np.int64), np.array([row[1] for row in batch])
        found.absorb(cells, Column(values.astype(float)), None)
    found.settle()
    assert found.complete == (len(different) <= most)
