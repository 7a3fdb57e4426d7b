"""Records find their cell, whether the table of combinations is small or huge."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from grainstack.summary.sums import cell_index
from grainstack.summary.sums.cell_index import CellIndex

codes = st.lists(st.tuples(st.integers(-1, 4), st.integers(-1, 3)), min_size=1, max_size=40)


@pytest.mark.parametrize("dense", [1 << 22, 0])
@given(first=codes, second=codes)
def test_equal_levels_share_a_cell_and_missing_ones_have_none(
    dense: int, first: list[tuple[int, int]], second: list[tuple[int, int]]
) -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(cell_index, "_DENSE", dense)
        index = CellIndex(2)
        placed = [index.place([np.array(column) for column in zip(*part, strict=True)]) for part in (first, second)]
    for row, cell in zip(first + second, np.concatenate(placed), strict=True):
        assert (cell < 0) == (min(row) < 0)
        if cell >= 0:
            assert tuple(index.keys[cell]) == row
    assert len(index) == len({row for row in first + second if min(row) >= 0})


def test_adding_the_keys_of_another_index_tells_where_they_stand() -> None:
    one, other = CellIndex(1), CellIndex(1)
    one.place([np.array([3, 1])])
    other.place([np.array([1, 5])])
    places = one.add(other.keys)
    assert one.keys[places].tolist() == other.keys.tolist()
    assert one.place([np.array([5, 3, 1])]).tolist() == [one.keys.ravel().tolist().index(key) for key in (5, 3, 1)]
