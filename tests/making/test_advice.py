"""Every kind of advice: what provokes it, and what must not."""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt
import pytest
from msgspec.structs import replace

from grainstack.advice import NAMES, MessagesRequest
from grainstack.chart.bars.bar_arrangement import arranged_bars
from grainstack.chart.bars.bar_request import BarRequest
from grainstack.chart.chart_advice import advice_on_bars, advice_on_pies, advice_on_series, advice_on_tree
from grainstack.chart.chart_requests import AxisRequest
from grainstack.chart.pies.pie_arrangement import arranged_pies
from grainstack.chart.pies.pie_request import PieRequest
from grainstack.chart.treemaps.tile_tree import arranged_tree
from grainstack.making.table_advice import advice_on
from grainstack.option_names import plain
from grainstack.records.arrow import text_rows
from grainstack.summary.figures.quantiles import Counted
from grainstack.summary.figures.shape import CellShape, cell_shape_of
from grainstack.summary.summary_request import SummaryRequest
from tests.chart.asking import chart_requests
from tests.chart.scenes import table_of

if TYPE_CHECKING:
    import pyarrow as pa

    from grainstack.advice import Advice
    from tests.conftest import Records


Columns = Mapping[str, Sequence[object]]


def on_table(records: "Records", columns: Columns, request: SummaryRequest) -> "list[Advice]":
    """The advice on the table of some columns."""
    table = records.table(columns, request)

    def head() -> "pa.RecordBatch":
        return text_rows(list(zip(*[map(str, column) for column in columns.values()], strict=True)), list(columns))

    return advice_on(table, chart_requests(request), head)


def names(found: "list[Advice]") -> list[str]:
    return [one.name for one in found]


def on_bars(figures: list[float], *, layout: str | None = None, series: int = 0, **more: object) -> list[str]:
    labels = [f"c{n}" for n in range(len(figures) // max(series, 1))]
    second = bool(more.pop("second", False))
    statistic = str(more.pop("statistic", "sum"))
    table = table_of(labels, [f"s{n}" for n in range(series)], figures, statistic, second=second)
    request = chart_requests(BarRequest(layout=layout), AxisRequest(**more))  # type: ignore[arg-type]
    return names(advice_on_bars(arranged_bars(table, request[BarRequest]), request))


Numbers = npt.NDArray[np.float64]


def counted(values: Numbers) -> Counted:
    different, back = np.unique(np.round(values, 1), return_inverse=True)
    records = np.bincount(back)
    return different, records, records.astype(np.float64)


def shape(values: Numbers) -> CellShape:
    found = cell_shape_of(counted(values))
    assert found is not None
    return found


def test_rows_that_are_summed_up_already(records: "Records") -> None:
    by = SummaryRequest(by=("k",))
    ledger: Columns = {"k": [f"k{n}" for n in range(14)], "cost": list(range(10, 150, 10))}
    [advice] = on_table(records, ledger, by)
    assert advice.name == "already-summarised"
    assert "value cost" in plain(advice.text)
    assert on_table(records, {"k": ledger["k"], "cost": ["x"] * 14}, by) == []
    assert on_table(records, {"k": ["a", *[f"k{n}" for n in range(13)], "a"], "cost": list(range(15))}, by) == []


def test_rows_that_say_how_many_records_they_stand_for(records: "Records") -> None:
    by = SummaryRequest(by=("k",))
    table: Columns = {"k": ["a", "a", "b", "b"], "l": ["x", "y", "x", "y"], "Freq": [118, 62, 4, 141]}
    [advice] = on_table(records, table, by)
    assert "times Freq" in plain(advice.text)
    assert on_table(records, table, replace(by, times="Freq")) == []
    assert on_table(records, {**table, "Freq": ["x"] * 4}, by) == []


def test_zeros_that_stand_apart(records: "Records") -> None:
    request = SummaryRequest(by=("k",), measure=("n",))
    apart: Columns = {"k": ["a"] * 30, "n": [0] * 12 + list(range(40, 58))}
    assert "many-zeros" in names(on_table(records, apart, request))
    among: Columns = {"k": ["a"] * 30, "n": [0] * 2 + list(range(28))}
    assert "many-zeros" not in names(on_table(records, among, request))


def test_a_total_among_its_parts(records: "Records") -> None:
    request = SummaryRequest(by=("k",), measure=("n",), stat=("sum",))
    with_total: Columns = {"k": ["a", "All", "b", "c"], "n": [1, 6, 2, 3]}
    assert "not-additive" in names(on_table(records, with_total, request))
    without: Columns = {"k": ["a", "b", "c", "d"], "n": [1, 2, 3, 7]}
    assert "not-additive" not in names(on_table(records, without, request))


def test_totals_of_our_own_are_no_total_among_parts(records: "Records") -> None:
    request = SummaryRequest(by=("k",), measure=("n",), stat=("sum",), totals=True)
    assert on_table(records, {"k": list("abcd"), "n": [1, 2, 3, 7]}, request) == []


def test_years_that_are_added_up(records: "Records") -> None:
    ledger: Columns = {"k": ["a", "b", "a"], "year": [2024, 2024, 2025], "n": [1, 2, 4]}
    request = SummaryRequest(by=("k",), measure=("n",), stat=("sum",))
    [advice] = on_table(records, ledger, request)
    assert "the years 2024 to 2025 of `year` are added up" in advice.text
    assert on_table(records, {"k": ledger["k"], "n": ledger["n"]}, request) == []
    assert on_table(records, ledger, SummaryRequest(by=("k",))) == []
    assert on_table(records, ledger, SummaryRequest(by=("k",), split="year", measure=("n",), stat=("sum",))) == []


def test_a_mean_pulled_by_a_few_values(records: "Records") -> None:
    request = SummaryRequest(by=("k",), measure=("n",))
    pulled: Columns = {"k": ["a"] * 43, "n": [*range(10, 50), 900, 950, 990]}
    [advice] = on_table(records, pulled, request)
    assert advice.name == "hidden-shape"
    assert "without 3 outliers" in advice.text
    assert "its median is" in advice.text
    assert on_table(records, {"k": ["a"] * 40, "n": list(range(10, 50))}, request) == []


def test_a_mean_between_two_peaks(records: "Records") -> None:
    request = SummaryRequest(by=("k",), measure=("n",))
    low, high = [1, 2, 2, 3, 3, 3, 4, 4, 5] * 6, [41, 42, 42, 43, 43, 43, 44, 44, 45] * 6
    [advice] = on_table(records, {"k": ["a"] * 108, "n": low + high}, request)
    assert advice.name == "hidden-shape"
    assert "between two peaks" in advice.text


@pytest.mark.parametrize("seed", range(8))
def test_ordinary_shapes_are_let_alone(seed: int) -> None:
    random = np.random.default_rng(seed)
    for values in (random.normal(50, 10, 400), random.uniform(0, 100, 400), random.exponential(20, 400)):
        found = shape(values)
        assert found.valley is None
    two = shape(np.concatenate([random.normal(20, 4, 200), random.normal(70, 4, 200)]))
    assert two.valley == pytest.approx((20, 70), abs=8)


def test_few_records_have_no_shape() -> None:
    assert cell_shape_of(counted(np.arange(7.0))) is None
    assert shape(np.arange(20.0)).valley is None


def test_the_shape_of_more_records_than_whole_numbers_multiply() -> None:
    values, records = np.array([1.0, 2.0, 9.0]), np.array([4 * 10**15, 10**15, 10**15])
    found, few = (cell_shape_of((values, each, each.astype(float))) for each in (records, records // 10**9))
    assert found is not None
    assert few is not None
    assert found.skewness == pytest.approx(few.skewness, rel=1e-5)


def test_a_rating_scale_has_two_peaks_only_where_its_ends_are_full() -> None:
    steps = np.arange(1.0, 6)
    assert shape(np.repeat(steps, [132, 322, 634, 686, 588])).valley is None
    assert shape(np.repeat(steps, [400, 20, 10, 30, 400])).valley == (1, 5)


def test_counts_of_unequal_groups() -> None:
    assert "unequal-groups" in on_bars([90.0, 10, 9, 1], series=2, statistic="count")
    assert "unequal-groups" not in on_bars([90.0, 10, 80, 15], series=2, statistic="count")
    assert "unequal-groups" not in on_bars([90.0, 9], statistic="count")
    assert "unequal-groups" not in on_bars([90.0, 10, 9, 1], series=2, statistic="sum")


def test_too_many_bars_colours_and_slices() -> None:
    assert on_bars([1.0] * 41) == ["too-many"]
    assert on_bars([1.0] * 40) == []
    assert on_bars([1.0] * 18, series=9, layout="stacked") == ["too-many"]
    assert on_bars([1.0] * 16, series=8, layout="stacked") == []
    pies = arranged_pies(table_of([f"s{n}" for n in range(8)], [], [2.0**n for n in range(8)], "sum"), PieRequest())
    assert names(advice_on_pies(pies, chart_requests())) == ["too-many"]


def test_slices_too_alike() -> None:
    alike = arranged_pies(table_of(["a", "b", "c"], [], [10.0, 10, 9.8], "sum"), PieRequest())
    assert names(advice_on_pies(alike, chart_requests())) == ["area-limits"]
    clear = arranged_pies(table_of(["a", "b", "c"], [], [10.0, 6, 3], "sum"), PieRequest())
    assert advice_on_pies(clear, chart_requests()) == []


def test_a_second_axis() -> None:
    assert on_bars([1.0, 2.0], second=True) == ["second-axis"]
    assert on_bars([1.0, 2.0]) == []


def test_bars_that_do_not_start_at_zero() -> None:
    assert on_bars([10.0, 20.0], value_range="5,25") == ["axis-start"]
    assert on_bars([10.0, 20.0], value_range="0,25") == []


def test_nesting_from_the_particular_to_the_general(records: "Records") -> None:
    items, kinds = ["oil", "coal", "rope", "oil"], ["fuel", "fuel", "gear", "fuel"]
    ledger: Columns = {"item": items, "kind": kinds, "n": [1, 2, 3, 4]}

    def advised(*by: str) -> list[str]:
        request = SummaryRequest(by=by, measure=("n",), stat=("sum",))
        return names(advice_on_tree(arranged_tree(records.table(ledger, request)), chart_requests()))

    assert advised("item", "kind") == ["nested-backwards"]
    assert advised("kind", "item") == []


def test_series_are_counted_wherever_they_are_drawn() -> None:
    from grainstack.chart.cells import chart_cells  # noqa: PLC0415 - used once

    many = chart_cells(table_of(["a"], [f"s{n}" for n in range(9)], [1.0] * 9))
    assert names(advice_on_series(many, chart_requests())) == ["too-many"]


def test_every_kind_can_be_silenced_and_nothing_else() -> None:
    assert MessagesRequest(no_advice=NAMES).no_advice == NAMES
    with pytest.raises(Exception, match="no advice"):
        MessagesRequest(no_advice=("hidden",))


def test_no_peaks_are_seen_in_noise_or_between_uneven_codes() -> None:
    chance = np.random.default_rng(7)
    for _ in range(200):
        assert shape(np.round(chance.normal(30, 9, 80))).valley is None
    codes = np.repeat([5000.0, 7500, 12500, 17500, 27500, 37500, 60000], [30, 60, 55, 50, 40, 35, 20])
    assert shape(codes).valley is None
