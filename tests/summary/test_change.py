"""Change instead of level, held against independent computations."""

import numpy as np
import pytest
from scipy import stats

from grainstack.errors import RequestError
from grainstack.summary.options import ComparisonRequest, DesignRequest, SpreadRequest
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.table import SummaryTable
from tests.summary.sampling import Sample

RANDOM = np.random.default_rng(12)
WAVE = np.repeat([0, 1, 2], [40, 50, 60])
CLUSTER = RANDOM.integers(0, 12, len(WAVE))  # the same clusters in every wave
MOOD = RANDOM.normal(0, 2, 12)
X = 10 + WAVE + MOOD[CLUSTER] + RANDOM.gamma(2, 2, len(WAVE))
Y = (RANDOM.random(len(WAVE)) < 0.3 + 0.1 * WAVE).astype(int)
SAMPLE = Sample({"wave": WAVE, "c": CLUSTER, "y": Y}, {"x": X})
CLUSTERED = DesignRequest(cluster=("c",))


def changes(relative_to: str, kind: str = "difference", **asked: object) -> SummaryTable:
    comparison = ComparisonRequest(relative_to=relative_to, as_=kind)
    return SAMPLE.table(SummaryRequest(**{"by": ("wave",), "measure": ("x",), "comparison": comparison, **asked}))  # type: ignore[arg-type]


def mean(wave: int) -> float:
    return float(X[wave == WAVE].mean())


def by_cluster(slopes: dict[int, float]) -> float:
    """n/(n − 1) Σ (z_c − z̄)² of a figure of the means of waves, by its slopes in these (Wolter 2007, section 6.2)."""
    z = np.zeros(len(X))
    for wave, slope in slopes.items():
        inside = np.equal(WAVE, wave)
        z[inside] = slope * (X[inside] - mean(wave)) / inside.sum()
    of_cluster = np.bincount(CLUSTER, z, 12)
    return float(12 / 11 * ((of_cluster - of_cluster.mean()) ** 2).sum())


def test_differences_of_independent_means_have_welchs_limits() -> None:
    column = changes("previous").columns[0]
    for place, wave in enumerate((1, 2)):
        expected = stats.ttest_ind(X[wave == WAVE], X[wave - 1 == WAVE], equal_var=False)
        interval = expected.confidence_interval(0.95)
        assert column.estimate[place] == pytest.approx(mean(wave) - mean(wave - 1))
        assert (column.low[place], column.high[place]) == pytest.approx((interval.low, interval.high))
        assert column.degrees[place] == pytest.approx(expected.df)


@pytest.mark.parametrize("kind", ["difference", "ratio", "percent", "index"])
def test_the_same_clusters_in_both_waves_count(kind: str) -> None:
    column = changes("first", kind, design=CLUSTERED).columns[0]
    place = 1 if kind in ("difference", "percent") else 2
    a, b = mean(2), mean(0)
    scale = 1 if kind == "ratio" else 100
    told = {"difference": a - b, "ratio": a / b, "percent": 100 * (a / b - 1), "index": 100 * a / b}[kind]
    slopes = {2: 1.0, 0: -1.0} if kind == "difference" else {2: scale / b, 0: -scale * a / b**2}
    assert column.estimate[place] == pytest.approx(told)
    assert column.standard_error[place] ** 2 == pytest.approx(by_cluster(slopes))
    if kind != "difference":
        ratio = [column.low[place], column.estimate[place], column.high[place]]
        scaled = [value / 100 + (kind == "percent") if kind != "ratio" else value for value in ratio]
        assert scaled[0] * scaled[2] == pytest.approx(scaled[1] ** 2)  # even on the logarithmic scale


def test_changes_of_shares_are_points_with_the_limits_of_tests() -> None:
    column = changes("2", split="y", measure=(), stat=("share",)).columns[0]
    tested = SAMPLE.table(
        SummaryRequest(by=("wave",), split="y", stat=("share",), comparison=ComparisonRequest(compare="2"))
    ).comparison
    assert tested is not None
    assert column.unit == "points"
    estimates = [100 * one.estimate for one in tested.differences]  # of a yes; its no changes the other way
    assert sorted(column.estimate) == pytest.approx(sorted([*estimates, *(-one for one in estimates)]))


def test_totals_of_a_ledger_change_without_limits() -> None:
    column = changes("first", "index", stat=("sum",)).columns[0]
    totals = [X[wave == WAVE].sum() for wave in range(3)]
    assert column.estimate == pytest.approx([100 * total / totals[0] for total in totals])
    assert np.isnan(column.low).all()
    assert column.interval == ""


def test_a_trend_is_a_contrast_of_all_waves() -> None:
    [trend] = changes("previous").trends
    means = [mean(wave) for wave in range(3)]
    assert trend.estimate == pytest.approx((means[2] - means[0]) / 2)
    parts, sizes = [], []
    for wave in (0, 2):
        inside = np.equal(WAVE, wave)
        sizes.append(int(inside.sum()))
        parts.append(float(X[inside].var(ddof=1)) / sizes[-1] / 4)
    variance = sum(parts)
    degrees = variance**2 / sum(part**2 / (size - 1) for part, size in zip(parts, sizes, strict=True))
    assert trend.p == pytest.approx(2 * stats.t.sf(abs(trend.estimate) / variance**0.5, degrees))
    [clustered] = changes("previous", design=CLUSTERED).trends
    expected = by_cluster({2: 0.5, 0: -0.5})
    assert clustered.p == pytest.approx(2 * stats.t.sf(clustered.estimate / expected**0.5, 11), rel=1e-6)


@pytest.mark.parametrize("relative_to", ["previous", "first"])
@pytest.mark.parametrize("lone", [0, 1, 3])
def test_a_trend_goes_past_levels_that_have_no_standard_error(relative_to: str, lone: int) -> None:
    waves = np.concatenate([np.repeat([wave for wave in range(4) if wave != lone], 20), [lone]])
    values = RANDOM.normal(5, 1, len(waves))
    request = SummaryRequest(by=("wave",), measure=("x",), comparison=ComparisonRequest(relative_to=relative_to))
    table = Sample({"wave": waves}, {"x": values}).table(request)
    [trend] = table.trends
    assert trend.steps == 3
    assert trend.cell == len(table.keys) - 1
    kept = [wave for wave in range(4) if wave != lone]
    means = [values[waves == wave].mean() for wave in kept]
    assert trend.estimate == pytest.approx(np.polyfit(kept, means, 1)[0])


def test_the_level_they_start_from_is_left_out_where_it_has_no_change() -> None:
    assert [level.code for level in changes("previous").dimensions[0].levels] == ["1", "2"]
    assert [level.code for level in changes("1").dimensions[0].levels] == ["0", "2"]
    assert [level.code for level in changes("1", "index").dimensions[0].levels] == ["0", "1", "2"]
    assert changes("1", "index").columns[0].estimate[1] == 100


@pytest.mark.parametrize(
    ("asked", "message"),
    [
        ({"comparison": ComparisonRequest(relative_to="9")}, "no level `9`"),
        ({"spread": SpreadRequest(error_bars="quartiles")}, "A change has no quartiles"),
        ({"spread": SpreadRequest(interval="bootstrap")}, "no bootstrap of a change"),
        ({"by": ("one",)}, "no two levels"),
    ],
)
def test_changes_that_cannot_be_are_refused(asked: dict[str, object], message: str) -> None:
    sample = Sample({"wave": WAVE, "one": np.zeros(len(WAVE))}, {"x": X})
    comparison = ComparisonRequest(relative_to="previous")
    with pytest.raises(RequestError, match=message):
        sample.table(SummaryRequest(**{"by": ("wave",), "measure": ("x",), "comparison": comparison, **asked}))  # type: ignore[arg-type]


def test_changes_and_tests_are_not_asked_for_together() -> None:
    with pytest.raises(RequestError, match="shows how they change"):
        ComparisonRequest(relative_to="first", letters=True)
