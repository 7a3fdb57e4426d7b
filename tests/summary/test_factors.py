"""Products summed up exactly: compiled and with numpy alone, against fractions."""

from fractions import Fraction
from types import ModuleType

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from grainstack.compiled import compiled
from grainstack.summary.sums import factors, plain_factors
from grainstack.summary.sums.exact import ExactSums
from grainstack.summary.sums.factors import Column
from tests.summary.fractions_of import fractions_of

WAYS = [plain_factors]
if compiled("grainstack.summary.sums.kernel") is not None:
    from grainstack.summary.sums import compiled_factors

    WAYS.append(compiled_factors)
DECIMALS = st.integers(-(10**6), 10**6).map(lambda whole: whole / 10**4)
NUMBERS = st.one_of(
    DECIMALS,
    st.floats(-1e6, 1e6).filter(
        lambda number: number == 0 or abs(number) > 1e-60
    ),  # products still have all their bits
    st.sampled_from([0.0, 1e10, -1e10, 1e-60, 1e60, 0.1 + 1e-9, 99999.9999, 1e10 + 1]),
)


def as_taken(number: float) -> Fraction:
    """A number as it counts: the decimal it stands for, if it has at most four decimals, else what the double holds."""
    return Fraction(round(Fraction(number) * 10**4), 10**4) if is_decimal(number) else Fraction(number)


def is_decimal(number: float) -> bool:
    return abs(number) <= 1e10 and float(Fraction(round(Fraction(number) * 10**4), 10**4)) == number


@pytest.mark.parametrize("way", WAYS)
@given(st.data(), st.integers(1, 4))
def test_sums_of_products_are_exact(way: ModuleType, data: st.DataObject, count: int) -> None:
    numbers = data.draw(st.sampled_from([DECIMALS, NUMBERS]))
    rows = data.draw(st.lists(st.tuples(st.integers(0, 2), *[numbers] * count), min_size=1, max_size=20))
    sums, expected = ExactSums(), [Fraction(0)] * 3
    columns = [Column(np.array([row[1 + place] for row in rows])) for place in range(count)]
    cells = np.array([row[0] for row in rows])
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(factors, "way", way)
        for _ in range(2):
            for chosen, found in way.factored(columns):
                way.add_products(cells if chosen is None else cells[chosen], [(found, [sums])], 3)
    for cell, *values in rows:
        alike = [as_taken(one) if all(map(is_decimal, values)) else Fraction(one) for one in values]
        expected[cell] += 2 * np.prod(np.array(alike, dtype=object))
    assert fractions_of(sums) == expected
