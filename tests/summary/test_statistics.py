"""Every statistic and kind of limits against slow, obvious re-computation."""

from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from grainstack.errors import RequestError
from grainstack.summary.figures.bootstrap import percentile_limits, random_numbers, resampled_means, resampled_quantiles
from grainstack.summary.figures.quantiles import quantile
from grainstack.summary.figures.student_t import t_quantile
from grainstack.summary.options import DesignRequest, SpreadRequest
from grainstack.summary.statistics import STATISTICS, statistic_named
from grainstack.summary.summary_request import SummaryRequest
from tests.conftest import Records, figures
from tests.summary.sampling import Array, Sample

values = st.lists(st.integers(-5, 5).map(float) | st.floats(-1e3, 1e3), min_size=1, max_size=30)


def one_cell(x: Array, **numbers: Array) -> Sample:
    return Sample({"k": np.zeros(len(x))}, {"x": x, **numbers})


def estimate(sample: Sample, stat: str, **asked: object) -> float:
    request = SummaryRequest(by=("k",), measure=("x",), stat=(stat,), **asked)  # type: ignore[arg-type]
    return float(sample.table(request).columns[0].estimate[0])


@given(values)
def test_unweighted_statistics_are_those_of_numpy(x: list[float]) -> None:
    sample, array = one_cell(np.array(x)), np.array(x)
    assert estimate(sample, "median") == pytest.approx(np.median(array), abs=1e-9)
    assert estimate(sample, "p90") == pytest.approx(np.quantile(array, 0.9), abs=1e-9)
    assert estimate(sample, "iqr") == pytest.approx(np.subtract(*np.quantile(array, [0.75, 0.25])), abs=1e-9)
    assert (estimate(sample, "min"), estimate(sample, "max")) == (array.min(), array.max())
    assert estimate(sample, "distinct") == len(set(x))
    if len(x) > 1:
        assert estimate(sample, "sd") == pytest.approx(np.std(array, ddof=1), rel=1e-9, abs=1e-9)
        assert estimate(sample, "variance") == pytest.approx(np.var(array, ddof=1), rel=1e-9, abs=1e-9)
    else:
        assert np.isnan(estimate(sample, "sd"))


@given(values, st.data())
def test_a_weighted_quantile_is_where_the_cumulative_weight_reaches_its_part(
    x: list[float], data: st.DataObject
) -> None:
    weights = data.draw(st.lists(st.integers(0, 4), min_size=len(x), max_size=len(x)).filter(any))
    part = data.draw(st.sampled_from([0.25, 0.5, 0.9]))
    spelled_out = sorted(value for value, times in zip(x, weights, strict=True) for _ in range(times))
    n = len(spelled_out)
    place = part * n
    lower = spelled_out[int(np.ceil(place - 1e-9)) - 1]
    expected = (lower + spelled_out[round(place)]) / 2 if abs(place - round(place)) < 1e-9 and place < n else lower
    different, back = np.unique(x, return_inverse=True)
    counted = different, np.bincount(back), np.bincount(back, weights).astype(np.float64)
    assert quantile(counted, part, weighted=True) == pytest.approx(expected, abs=1e-12)


def test_weighted_deviation_and_rate() -> None:
    x, w, y = np.array([1.0, 2, 6]), np.array([1.0, 2, 1]), np.array([2.0, 4, 2])
    sample = one_cell(x, w=w, y=y)
    design = DesignRequest(weight="w")
    mean = (w * x).sum() / w.sum()
    expected = (w * (x - mean) ** 2).sum() / w.sum() * 3 / 2
    assert estimate(sample, "variance", design=design) == pytest.approx(expected)
    assert estimate(sample, "rate", per="y", design=design) == pytest.approx((w * x).sum() / (w * y).sum())


@pytest.mark.parametrize(
    ("name", "words"),
    [("p75", "75th percentile of wait"), ("p1", "1st percentile of wait"), ("p11", "11th percentile of wait")],
)
def test_percentiles_are_named(name: str, words: str) -> None:
    assert statistic_named(name).title("wait") == words
    with pytest.raises(RequestError, match="no statistic `p100`"):
        statistic_named("p100")


def limits(sample: Sample, stat: str, **spread: object) -> tuple[float, float]:
    request = SummaryRequest(by=("k",), measure=("x",), stat=(stat,), spread=SpreadRequest(**spread))  # type: ignore[arg-type]
    column = sample.table(request).columns[0]
    return float(column.low[0]), float(column.high[0])


def test_other_kinds_of_spread() -> None:
    x = np.array([1.0, 2, 3, 4, 10])
    sample = one_cell(x)
    assert limits(sample, "mean", error_bars="quartiles") == (2, 4)
    assert limits(sample, "mean", error_bars="range") == (1, 10)
    deviation = np.std(x, ddof=1)
    assert limits(sample, "mean", error_bars="standard-deviation") == pytest.approx((4 - deviation, 4 + deviation))
    assert limits(sample, "median") == pytest.approx((np.nan, np.nan), nan_ok=True)
    ten = one_cell(np.arange(1.0, 11))
    assert limits(ten, "median") == (2, 9)


@pytest.mark.parametrize(
    ("asked", "message"),
    [
        ({"stat": ("min",), "spread": SpreadRequest(error_bars="confidence")}, "no interval for a min"),
        ({"stat": ("max",), "spread": SpreadRequest(interval="bootstrap")}, "no interval for a max"),
        ({"stat": ("rate",)}, "needs a column to divide by"),
        ({"stat": ("mean",), "per": "y"}, "per belongs to rates"),
    ],
)
def test_limits_that_cannot_be_are_refused(asked: dict[str, object], message: str) -> None:
    with pytest.raises(RequestError, match=message):
        SummaryRequest(by=("k",), measure=("x",), **asked)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("stat", "spread", "message"),
    [
        ("mean", {"interval": "wilson"}, "interval wilson is not for a mean"),
        ("sd", {"error_bars": "confidence"}, "no confidence limits of `sd`"),
        ("distinct", {"interval": "bootstrap"}, "no bootstrap of a distinct"),
        ("median", {"interval": "woodruff"}, "woodruff is not for a quantile without weights"),
        ("sum", {"error_bars": "standard-error"}, "no standard error"),
    ],
)
def test_limits_that_do_not_suit_a_figure_are_refused(stat: str, spread: dict[str, object], message: str) -> None:
    with pytest.raises(RequestError, match=message):
        limits(one_cell(np.arange(9.0)), stat, **spread)


@pytest.mark.parametrize("size", [40, 3000])
def test_the_bootstrap_of_a_mean_has_the_right_spread_and_follows_its_seed(size: int) -> None:
    x = np.random.default_rng(4).gamma(2, 3, size)
    different, records = np.unique(np.round(x, 1 if size < 100 else 4), return_counts=True)
    cell = different, records, records.astype(float)
    drawn = resampled_means(cell, 4000, random_numbers(7, 0))
    n = records.sum()
    mean = (different * records).sum() / n
    error = np.sqrt((records * (different - mean) ** 2).sum() / n / n)
    assert drawn.mean() == pytest.approx(mean, abs=4 * error / np.sqrt(4000))
    assert drawn.std() == pytest.approx(error, rel=0.05)
    assert percentile_limits(drawn, 95)[0] == pytest.approx(mean - 1.96 * error, abs=0.35 * error)
    np.testing.assert_array_equal(drawn, resampled_means(cell, 4000, random_numbers(7, 0)))
    assert (drawn != resampled_means(cell, 4000, random_numbers(8, 0))).any()


def test_the_bootstrap_of_quantiles_is_that_of_drawing_records() -> None:
    x = np.array([1.0, 2, 2, 4, 7, 8, 11])
    different, records = np.unique(x, return_counts=True)
    quick = resampled_quantiles((different, records, records.astype(float)), [0.25, 0.5], 20_000, random_numbers(1, 0))
    slow = np.quantile(np.random.default_rng(2).choice(x, (20_000, 7)), [0.25, 0.5], axis=1).T
    for part in range(2):
        np.testing.assert_allclose(
            np.quantile(quick[:, part], [0.1, 0.5, 0.9]), np.quantile(slow[:, part], [0.1, 0.5, 0.9]), atol=0.35
        )
        assert quick[:, part].mean() == pytest.approx(slow[:, part].mean(), abs=0.06)


@pytest.mark.parametrize("stat", ["mean", "median", "sd", "iqr"])
def test_bootstrap_limits_do_not_depend_on_the_order_of_records(stat: str) -> None:
    x = np.random.default_rng(4).normal(10, 2, 400)
    one, other = (limits(one_cell(part), stat, interval="bootstrap", seed=3) for part in (x, x[::-1]))
    assert one == other
    assert one[0] < estimate(one_cell(x), stat) < one[1]


def test_woodruff_limits_enclose_the_quantile_and_narrow_with_more_records() -> None:
    random = np.random.default_rng(1)
    widths = []
    for n in (200, 5000):
        x = random.exponential(10, n)
        sample = Sample({"k": np.zeros(n)}, {"x": x, "w": np.ones(n)})
        request = SummaryRequest(by=("k",), measure=("x",), stat=("median",), design=DesignRequest(weight="w"))
        column = sample.table(request).columns[0]
        assert column.low[0] < column.estimate[0] < column.high[0]
        widths.append(column.high[0] - column.low[0])
        # The density of the median of an exponential distribution with mean 10 is 1/20.
        assert widths[-1] == pytest.approx(2 * 1.96 * 0.5 / np.sqrt(n) * 20, rel=0.35)
    assert widths[1] < widths[0] / 3


def test_totals_are_of_all_records_together() -> None:
    sample = Sample({"k": np.array([0, 0, 1]), "s": np.array([0, 1, 1])}, {"x": np.array([2.0, 4, 9])})
    table = sample.table(SummaryRequest(by=("k",), split="s", measure=("x",), totals=True))
    assert figures(table)["All", "All"] == 5
    assert figures(table)["0", "All"] == 3
    assert figures(table)["All", "1"] == 6.5
    shares = sample.table(SummaryRequest(by=("k",), split="s", stat=("share",), totals=True))
    assert figures(shares)["All", "1"] == pytest.approx(2 / 3)
    assert figures(shares)["1", "All"] == 1


def test_nested_categories_have_totals_for_each_outer_one() -> None:
    sample = Sample({"a": np.array([0, 0, 1]), "b": np.array([0, 1, 1])}, {})
    table = sample.table(SummaryRequest(by=("a", "b"), totals=True))
    assert figures(table) == {
        ("0", "0"): 1,
        ("0", "1"): 1,
        ("0", "All"): 2,
        ("1", "1"): 1,
        ("1", "All"): 1,
        ("All", "All"): 3,
    }


def test_panels_repeat_the_same_categories() -> None:
    sample = Sample({"p": np.array([0, 0, 1]), "k": np.array([0, 1, 1])}, {})
    table = sample.table(SummaryRequest(by=("k",), panel="p", stat=("share",)))
    assert figures(table) == {("0", "0"): 0.5, ("0", "1"): 0.5, ("1", "0"): 0, ("1", "1"): 1}


@pytest.mark.parametrize("part", [0.75, 0.9, 0.95, 0.975, 0.995, 0.99995])
def test_quantiles_of_students_t_are_those_of_the_library(part: float) -> None:
    degrees = np.concatenate([np.arange(1.0, 60), [1.5, 2.7, 99.5, 300, 999, 1000, 1001, 1e4, 1e7]])
    np.testing.assert_allclose(t_quantile(part, degrees), stats.t.ppf(part, degrees), rtol=1e-11)


def test_a_printed_table_of_students_t() -> None:
    """Upper 2.5 % points for 1, 2, 5, 10, 30 and 120 degrees of freedom (Fisher & Yates 1963, table III)."""
    found = t_quantile(0.975, np.array([1.0, 2, 5, 10, 30, 120]))
    assert found.round(3).tolist() == [12.706, 4.303, 2.571, 2.228, 2.042, 1.98]


# What each statistic is by itself, of the values of a cell, what they are divided by, and how many records there are.
REFERENCES: dict[str, Callable[[Any, Any, int], float]] = {
    "count": lambda x, _, __: len(x),
    "share": lambda x, _, records: len(x) / records,
    "sum": lambda x, _, __: np.sum(x),
    "mean": lambda x, _, __: np.mean(x),
    "median": lambda x, _, __: np.median(x),
    "min": lambda x, _, __: np.min(x),
    "max": lambda x, _, __: np.max(x),
    "sd": lambda x, _, __: np.std(x, ddof=1),
    "variance": lambda x, _, __: np.var(x, ddof=1),
    "iqr": lambda x, _, __: np.subtract(*np.quantile(x, [0.75, 0.25])),
    "distinct": lambda x, _, __: len(set(x)),
    "rate": lambda x, y, _: np.sum(x) / np.sum(y),
}


@pytest.mark.parametrize("name", [name for name in STATISTICS if name != "value"])  # which is given, not worked out
def test_every_statistic_has_a_reference_and_is_what_that_says(name: str, records: Records) -> None:
    """A new statistic fails here until it has one."""
    x = [3.0, 9.5, 4.0, 4.0, 2.25, 10.0, 7.0, 1.5, 8.0]
    y = [1.0, 2.0, 1.0, 4.0, 1.0, 2.0, 2.0, 1.0, 5.0]
    groups = ["a", "b", "a", "a", "b", "a", "b", "a", "b"]
    measure = () if name in ("count", "share") else ("x",)
    request = SummaryRequest(by=("g",), measure=measure, stat=(name,), per="y" if name == "rate" else None)
    found = figures(records.table({"g": groups, "x": x, "y": y}, request))
    for group in "ab":
        mine = [place for place, one in enumerate(groups) if one == group]
        expected = REFERENCES[name](np.array(x)[mine], np.array(y)[mine], len(x))
        assert found[group,] == pytest.approx(expected, rel=1e-12)
