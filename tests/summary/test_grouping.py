"""Unions of cells, against looking for the rows of each cell one by one."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from grainstack.summary.levels.grouping import Grouping, joined


@st.composite
def groupings(draw: st.DrawFn) -> tuple[Grouping, list[list[int]]]:
    """A grouping in which each cell shown has one of three bases, and some unions of its cells."""
    count = draw(st.integers(1, 6))
    places = draw(st.lists(st.integers(0, count - 1), max_size=12))
    base_places = draw(st.lists(st.integers(0, 2), max_size=8))
    base_of = draw(st.lists(st.integers(0, 2), min_size=count, max_size=count))
    found = draw(st.lists(st.integers(0, 20), min_size=len(places), max_size=len(places)))
    base_found = draw(st.lists(st.integers(0, 20), min_size=len(base_places), max_size=len(base_places)))
    members = st.lists(st.integers(0, count - 1), min_size=1, max_size=count, unique=True)
    numbers = (np.array(one, dtype=np.int64) for one in (found, places))
    bases = (np.array(one, dtype=np.int64) for one in (base_found, base_places, base_of))
    inside, at = numbers
    base_inside, base_at, of = bases
    return Grouping(inside, at, count, base_inside, base_at, of), draw(st.lists(members, min_size=1, max_size=5))


@given(groupings())
def test_a_union_has_what_its_cells_have(drawn: tuple[Grouping, list[list[int]]]) -> None:
    one, sets = drawn
    made = joined(one, [np.array(members, dtype=np.int64) for members in sets])
    assert made.count == made.bases == len(sets)
    for place, members in enumerate(sets):
        expected = [cell for member in members for cell in one.inside[one.places == member].tolist()]
        assert made.inside[made.places == place].tolist() == expected
        bases = sorted({int(one.base_of[member]) for member in members})
        expected = [cell for base in bases for cell in one.base_inside[one.base_places == base].tolist()]
        assert made.base_inside[made.base_places == place].tolist() == expected
