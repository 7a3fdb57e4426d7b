"""Times that a column leaves out are named as the others are, and only where they are few and the steps are even."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from grainstack.records.missing_times import filled
from grainstack.records.time_words import distances

SERIES = {
    "years": [str(year) for year in range(2008, 2026)],
    "fiscal years": [f"{year}/{(year + 1) % 100:02d}" for year in range(1998, 2020)],
    "named fiscal years": [f"FY {year}–{(year + 1) % 100:02d}" for year in range(2015, 2030)],
    "quarters": [f"{year} Q{part}" for year in range(2019, 2024) for part in range(1, 5)],
    "quarters first": [f"Q{part} {year}" for year in range(2019, 2024) for part in range(1, 5)],
    "fiscal quarters": [f"{year}/{year + 1 - 2000} Q{part}" for year in range(2019, 2024) for part in range(1, 5)],
    "half-years": [f"H{part} {year}" for year in range(2010, 2024) for part in (1, 2)],
    "months": [f"{year}-{month:02d}" for year in range(2002, 2006) for month in range(1, 13)],
    "months first": [f"{month:02d}/{year}" for year in range(2002, 2006) for month in range(1, 13)],
    "weeks": [f"{year}-W{week:02d}" for year in (2022, 2023) for week in range(1, 53)],
    "waves": [f"Wave {number}" for number in range(1, 15)],
    "months by name": ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"],
    "German months": [
        f"{month} {year}"
        for year in (2024, 2025)
        for month in ("Januar", "Februar", "März", "April", "Mai", "Juni", "Juli", "August", "September", "Oktober")
    ][:10],
}


@pytest.mark.parametrize("series", SERIES)
@given(data=st.data())
def test_what_is_taken_out_of_a_series_comes_back(series: str, data: st.DataObject) -> None:
    whole = SERIES[series]
    start = data.draw(st.integers(0, len(whole) - 7))
    names = whole[start : start + data.draw(st.integers(7, min(14, len(whole) - start)))]
    place = data.draw(st.integers(1, len(names) - 2))
    left = names[:place] + names[place + 1 :]
    assert filled(left) == names
    assert filled(names) is None


@pytest.mark.parametrize(
    "names",
    [
        ["2001", "2002", "2003", "2015"],  # more would be missing than there are
        ["2010", "2014", "2018", "2024"],  # no even steps
        ["Jan", "Apr", "Jul", "Oct"],
        ["18", "19", "21"],
        ["2024-01-01", "2024-01-02", "2024-01-05"],  # of days a weekend is no gap
        ["Spring", "Summer", "Winter"],
        ["2023", "2025"],
    ],
)
def test_what_leaves_nothing_out_stays(names: list[str]) -> None:
    assert filled(names) is None


@given(st.lists(st.integers(2000, 2030), min_size=3, max_size=12, unique=True))
def test_what_is_filled_in_lies_in_even_steps(years: list[int]) -> None:
    names = [str(year) for year in sorted(years)]
    found = filled(names)
    if found is None:
        return
    apart = distances(found)
    assert apart is not None
    assert set(names) <= set(found)
    assert len({after - before for before, after in zip(apart.places, apart.places[1:], strict=False)}) == 1
    assert len(found) <= 2 * len(names)
