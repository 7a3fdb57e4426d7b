"""Figures against published ones; the source stands beside each."""

from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from scipy.stats import chi2

from grainstack.summary.comparison.association import design_effects, pearson
from grainstack.summary.comparison.differences import holm
from grainstack.summary.comparison.shares import limits_of_difference, mover, p_of_difference
from grainstack.summary.figures.interval_formulas import clopper_pearson, order_statistic_ranks, wilson
from grainstack.summary.figures.quantiles import quantile
from grainstack.summary.options import ComparisonRequest, DesignRequest
from grainstack.summary.summary_request import SummaryRequest
from tests.summary.sampling import Sample
from tests.summary.test_known_shares import table_of


@pytest.mark.parametrize(
    ("hits", "base", "low", "high"),
    [
        # Newcombe RG (1998), Two-sided confidence intervals for the single proportion, Statistics in Medicine 17,
        # 857-872, table I, method 3 (Wilson score without continuity correction).
        (81, 263, 0.2553, 0.3662),
        (15, 148, 0.0624, 0.1605),
        (0, 20, 0.0000, 0.1611),
        (1, 29, 0.0061, 0.1718),
        # Agresti A (2007), An introduction to categorical data analysis, 2nd edition, section 1.4.3: 0 of 25
        # are vegetarians.
        (0, 25, 0.0000, 0.1332),
    ],
)
def test_wilson_limits(hits: int, base: int, low: float, high: float) -> None:
    lower, upper = wilson(np.array([hits]), np.array([base]), 95)
    assert (lower[0], upper[0]) == pytest.approx((low, high), abs=5e-5)


@pytest.mark.parametrize(
    ("hits", "base", "low", "high"),
    [
        # Newcombe (1998), table I, method 5 (Clopper-Pearson exact).
        (81, 263, 0.2527, 0.3676),
        (15, 148, 0.0578, 0.1617),
        (0, 20, 0.0000, 0.1684),
        (1, 29, 0.0009, 0.1776),
    ],
)
def test_exact_limits(hits: int, base: int, low: float, high: float) -> None:
    lower, upper = clopper_pearson(np.array([float(hits)]), np.array([float(base)]), 95)
    assert (lower[0], upper[0]) == pytest.approx((low, high), abs=6e-5)


def test_a_simple_random_sample_of_counties() -> None:
    # Lohr SL (2010), Sampling: design and analysis, 2nd edition, example 2.5: 300 of 3,078 counties, mean 297,897 acres
    # of farmland, standard deviation 344,551.9; standard error 18,898.4.
    values = _with_mean_and_variance(300, 297_897.0, 344_551.9**2)
    sample = Sample({"one": np.zeros(300)}, {"x": values, "N": np.full(300, 3078)})
    column = sample.table(SummaryRequest(by=("one",), measure=("x",), design=DesignRequest(population=("N",)))).columns[
        0
    ]
    assert column.estimate[0] == pytest.approx(297_897.0)
    assert column.standard_error[0] == pytest.approx(18_898.4, abs=0.1)


def test_a_stratified_sample_of_counties() -> None:
    # Lohr (2010), example 3.2: regions with their sizes, samples, means and variances; the total is 909,736,034.4 acres
    # with standard error 50,417,248, the mean 295,561 with standard error 16,380.
    regions = (
        (220, 21, 97_629.8, 7_647_472_708.0),
        (1054, 103, 300_504.2, 29_618_183_543.0),
        (1382, 135, 211_315.0, 53_587_487_856.0),
        (422, 41, 662_295.5, 396_185_950_266.0),
    )
    values = np.concatenate([_with_mean_and_variance(n, mean, variance) for _, n, mean, variance in regions])
    strata = np.repeat(np.arange(4), [n for _, n, _, _ in regions])
    sizes = np.repeat([float(size) for size, *_ in regions], [n for _, n, _, _ in regions])
    weights = np.repeat([size / n for size, n, _, _ in regions], [n for _, n, _, _ in regions])
    sample = Sample({"one": np.zeros(300), "region": strata}, {"x": values, "N": sizes, "w": weights})
    design = DesignRequest(weight="w", strata="region", population=("N",))
    total = sample.table(SummaryRequest(by=("one",), measure=("x",), stat=("sum",), design=design)).columns[0]
    mean = sample.table(SummaryRequest(by=("one",), measure=("x",), design=design)).columns[0]
    assert total.estimate[0] == pytest.approx(909_736_034.4, rel=1e-6)
    assert total.standard_error[0] == pytest.approx(50_417_248, rel=1e-6)
    assert mean.estimate[0] == pytest.approx(295_561, abs=1)
    assert mean.standard_error[0] == pytest.approx(16_380, abs=1)


def test_a_cluster_sample_of_grades() -> None:
    # Lohr (2010), example 5.2: grade point averages in 5 of 100 suites of 4 students; mean 2.826, standard error 0.164,
    # total 1,130.4.
    grades = (
        *(3.08, 2.60, 3.44, 3.04, 2.36, 3.04, 3.28, 2.68, 2.00, 2.56, 2.52, 1.88),
        *(3.00, 2.88, 3.44, 3.64, 2.68, 1.92, 3.28, 3.20),
    )
    suites = np.repeat(np.arange(5), 4)
    sample = Sample(
        {"one": np.zeros(20), "suite": suites}, {"x": np.array(grades), "N": np.full(20, 100), "w": np.full(20, 20)}
    )
    design = DesignRequest(weight="w", cluster=("suite",), population=("N",))
    mean = sample.table(SummaryRequest(by=("one",), measure=("x",), design=design)).columns[0]
    total = sample.table(SummaryRequest(by=("one",), measure=("x",), stat=("sum",), design=design)).columns[0]
    assert mean.estimate[0] == pytest.approx(2.826)
    assert mean.standard_error[0] == pytest.approx(0.164, abs=5e-4)
    assert total.estimate[0] == pytest.approx(1130.4)


@pytest.mark.parametrize(
    ("values", "part", "expected"),
    [
        # Hyndman RJ, Fan Y (1996), Sample quantiles in statistical packages, The American Statistician 50, 361-365,
        # definition 7: p(k) = (k - 1)/(n - 1). Quartiles by this rule in Freund JE, Perles BM (1987), A new look at
        # quartiles of ungrouped data, The American Statistician 41, 200-203: place (n + 3)/4.
        ([1, 2, 3, 4, 5, 6, 7], 0.25, 2.5),
        ([1, 2, 3, 4, 5, 6, 7], 0.75, 5.5),
        ([1, 2, 3, 4, 5, 6, 7, 8], 0.25, 2.75),
        ([1, 2, 3, 4, 5, 6, 7, 8], 0.75, 6.25),
        ([1, 2, 3, 4, 5, 6, 7, 8], 0.5, 4.5),
    ],
)
def test_quantiles(values: list[float], part: float, expected: float) -> None:
    counted = np.array(values, dtype=float), np.ones(len(values), dtype=np.int64), np.ones(len(values))
    assert quantile(counted, part, weighted=False) == expected


@pytest.mark.parametrize(
    ("records", "ranks"),
    [
        # Ranks of the 95 % limits of a median: Geigy scientific tables (Lentner C ed., 1982, volume 2, page 103).
        (6, (1, 6)),
        (10, (2, 9)),
        (15, (4, 12)),
        (20, (6, 15)),
        (25, (8, 18)),
        (50, (18, 33)),
        (100, (40, 61)),
    ],
)
def test_ranks_of_the_limits_of_a_median(records: int, ranks: tuple[int, int]) -> None:
    assert order_statistic_ranks(records, 0.5, 95) == ranks
    assert order_statistic_ranks(5, 0.5, 95) is None


@pytest.mark.parametrize(
    ("first", "second", "low", "high"),
    [  # Newcombe RG (1998), Interval estimation for the difference between independent proportions, Statistics in
        # Medicine 17, 873-890, table II, method 10.
        ((56, 70), (48, 80), 0.0524, 0.3339),
        ((9, 10), (3, 10), 0.1705, 0.8090),
        ((6, 7), (2, 7), 0.0582, 0.8062),
        ((5, 56), (0, 29), -0.0381, 0.1926),
        ((10, 10), (0, 20), 0.6791, 1.0000),
    ],
)
def test_limits_of_differences_of_shares(
    first: tuple[int, int], second: tuple[int, int], low: float, high: float
) -> None:
    assert limits_of_difference(first, second, 0.0, 1.959964) == pytest.approx((low, high), abs=5e-5)
    assert (p_of_difference(first, second, 0.0) < 0.05) == (low > 0)


def test_sleep_by_two_drugs() -> None:
    # Student (1908), The probable error of a mean, Biometrika 6, 1-25: additional hours of sleep. Welch, as worked
    # out from these data in many textbooks: t = -1.8608 with 17.776 degrees of freedom, p = 0.07939, 95 % limits of the
    # difference -3.3655 and 0.2055.
    first = [0.7, -1.6, -0.2, -1.2, -0.1, 3.4, 3.7, 0.8, 0.0, 2.0]
    second = [1.9, 0.8, 1.1, 0.1, -0.1, 4.4, 5.5, 1.6, 4.6, 3.4]
    sample = Sample({"drug": np.repeat([0, 1], 10)}, {"x": np.array(first + second)})
    request = SummaryRequest(by=("drug",), measure=("x",), comparison=ComparisonRequest(compare="pairs"))
    comparison = sample.table(request).comparison
    assert comparison is not None
    [difference] = comparison.differences
    assert difference.p == pytest.approx(0.07939, abs=5e-6)
    assert (difference.low, difference.high) == pytest.approx((-3.3655, 0.2055), abs=5e-5)


def test_holm_rejects_what_is_published() -> None:
    # Four hypotheses with p-values .01, .04, .03 and .005 at .05: the first and the last are rejected, the others not
    # (worked example of Holm S (1979), A simple sequentially rejective multiple test procedure, Scandinavian Journal of
    # Statistics 6, 65-70, in the usual presentation; adjusted values .03, .06, .06 and .02).
    adjusted = holm([0.01, 0.04, 0.03, 0.005])
    assert adjusted == pytest.approx([0.03, 0.06, 0.06, 0.02])
    assert [p <= 0.05 for p in adjusted] == [True, False, False, True]


def test_party_and_gender() -> None:
    # Agresti (2007), table 2.5: X² = 30.1 with 2 degrees of freedom; expected count of women for the Democrats 703.7.
    statistic, expected = pearson(np.array([[762.0, 327, 468], [484, 239, 477]]))
    assert statistic == pytest.approx(30.07, abs=0.005)
    assert expected[0, 0] == pytest.approx(703.7, abs=0.05)
    rows = np.repeat([0, 0, 0, 1, 1, 1], [762, 327, 468, 484, 239, 477])
    columns = np.repeat([0, 1, 2, 0, 1, 2], [762, 327, 468, 484, 239, 477])
    sample = Sample({"gender": rows, "party": columns}, {})
    request = SummaryRequest(by=("gender",), split="party", comparison=ComparisonRequest(association=True))
    [association] = sample.table(request).associations
    assert association.statistic == pytest.approx(30.07, abs=0.005)
    assert list(association.degrees) == [2]
    assert association.p < 0.0001


def test_admissions_by_sex_within_departments() -> None:
    # Bickel PJ, Hammel EA, O'Connell JW (1975), Sex bias in graduate admissions, Science 187, 398-404: admitted and
    # rejected men and women in six departments. The statistic of Mantel and Haenszel, written out for tables of two by
    # two (Agresti 2002, Categorical Data Analysis, equation 6.6, without the correction for continuity), is 1.525.
    counts = [
        ((512, 313), (89, 19)),
        ((353, 207), (17, 8)),
        ((120, 205), (202, 391)),
        ((138, 279), (131, 244)),
        ((53, 138), (94, 299)),
        ((22, 351), (24, 317)),
    ]
    above = below = 0.0
    for (a, b), (c, d) in counts:
        n = a + b + c + d
        above += a - (a + b) * (a + c) / n
        below += (a + b) * (c + d) * (a + c) * (b + d) / (n * n * (n - 1))
    assert above**2 / below == pytest.approx(1.525, abs=0.001)
    each = [n for table in counts for row in table for n in row]
    places = [(k, i, j) for k in range(6) for i in range(2) for j in range(2)]
    department, sex, decision = (np.repeat([place[axis] for place in places], each) for axis in range(3))
    sample = Sample({"department": department, "sex": sex, "decision": decision}, {})
    asked = {"by": ("sex",), "split": "decision", "comparison": ComparisonRequest(association=True)}
    *alone, pooled = sample.table(SummaryRequest(panel="department", **asked)).associations  # type: ignore[arg-type]
    assert pooled.statistic == pytest.approx(above**2 / below)
    assert list(pooled.degrees) == [1]
    assert len(alone) == 6
    for found, table in zip(alone, counts, strict=True):
        assert found.statistic == pytest.approx(pearson(np.array(table, dtype=float))[0])


def test_one_panel_tested_within_a_design_is_the_table_alone() -> None:
    # The statistic of departures added up over panels is Pearson's where there is one panel (Rao & Scott 1981).
    random = np.random.default_rng(3)
    cluster = random.integers(0, 40, 900)
    row, column = (cluster + random.integers(0, 2, 900)) % 3, (cluster // 3 + random.integers(0, 3, 900)) % 3
    weight = random.uniform(1, 3, 900)
    shares = np.zeros((1, 3, 3))
    np.add.at(shares[0], (row, column), weight / weight.sum())
    values = np.zeros((9, 40))
    np.add.at(values, (3 * row + column, cluster), weight / weight.sum())
    spread = values - shares.ravel()[:, None] * values.sum(axis=0)
    covariance = spread @ spread.T * 40 / 39
    departures = (shares[0] - pearson(shares[0])[1])[:2, :2].ravel()
    r, c = shares[0].sum(axis=1)[:2], shares[0].sum(axis=0)[:2]
    plain = np.kron(np.diag(r) - np.outer(r, r), np.diag(c) - np.outer(c, c))
    assert departures @ np.linalg.inv(plain) @ departures == pytest.approx(pearson(shares[0])[0])
    slopes = np.zeros((4, 9))
    for free, (i, j) in enumerate([(0, 0), (0, 1), (1, 0), (1, 1)]):
        for a in range(3):
            for b in range(3):
                full_r, full_c = shares[0].sum(axis=1), shares[0].sum(axis=0)
                slopes[free, 3 * a + b] = (i == a) * (j == b) - (i == a) * full_c[j] - (j == b) * full_r[i]
    expected = np.linalg.eigvals(np.linalg.inv(plain / 900) @ slopes @ covariance @ slopes.T)
    assert sorted(design_effects(covariance, shares, 900)) == pytest.approx(sorted(expected.real))


def test_each_of_several_answers_is_tested_on_its_own(tmp_path: Path) -> None:
    # Pearson's X² of who gave an answer and who did not, p-values adjusted by Holm's method.
    random = np.random.default_rng(5)
    rows = [("north", "south", "west")[n % 3] for n in range(300)]
    chosen = [[a for a, p in (("x", 0.5), ("y", 0.2 + 0.1 * (n % 3))) if random.random() < p] for n in range(300)]
    lines = [f"{row},{';'.join(answers) or 'none'}" for row, answers in zip(rows, chosen, strict=True)]
    table = table_of(
        tmp_path, ["place,given", *lines], by=("given",), split="place", answers=("given",), association=True
    )
    for found in table.associations:
        name = found.answer
        given = [name in answers if answers else name == "none" for answers in chosen]
        hits = np.array([sum(yes for yes, row in zip(given, rows, strict=True) if row == place) for place in set(rows)])
        assert found.statistic == pytest.approx(pearson(np.array([hits, 100 - hits], dtype=float))[0])
    assert len(table.associations) == 3
    assert [one.p for one in table.associations] == pytest.approx(
        holm([float(chi2.sf(one.statistic, 2)) for one in table.associations])
    )


def test_equal_clusters_of_equal_answers_divide_the_statistic_by_their_size() -> None:
    # Rao JNK, Scott AJ (1981), The analysis of categorical data from complex sample surveys, Journal of the American
    # Statistical Association 76, 221-230, section 3: where every design effect is the same, X² is divided by it.
    # Clusters of m records that all answer alike have design effect m (but for the factor of the number of clusters).
    m, pattern = 5, [(0, 0)] * 30 + [(0, 1)] * 20 + [(1, 0)] * 18 + [(1, 1)] * 32
    row = np.repeat([a for a, _ in pattern], m)
    column = np.repeat([b for _, b in pattern], m)
    cluster = np.repeat(np.arange(len(pattern)), m)
    sample = Sample({"a": row, "b": column, "c": cluster}, {"w": np.ones(len(row))})
    wanted = ComparisonRequest(association=True)
    clusters, records = DesignRequest(weight="w", cluster=("c",)), DesignRequest(weight="w")
    by_cluster = sample.table(SummaryRequest(by=("a",), split="b", design=clusters, comparison=wanted)).associations[0]
    by_record = sample.table(SummaryRequest(by=("a",), split="b", design=records, comparison=wanted)).associations[0]
    assert by_cluster is not None
    assert by_record is not None
    effect = m * (100 / 99) / (500 / 499)
    assert by_record.statistic / by_cluster.statistic == pytest.approx(effect)
    assert list(by_cluster.degrees) == [1, 99]


def _with_mean_and_variance(count: int, mean: float, variance: float) -> "np.ndarray[tuple[int], np.dtype[np.float64]]":
    """Numbers with exactly this mean and variance (n − 1), not all alike in shape."""
    shape = np.sin(np.arange(count) * 1.7) + 0.3 * np.arange(count) / count
    shape = shape - shape.mean()
    return np.asarray(mean + shape * np.sqrt(variance / shape.var(ddof=1)))


def test_the_made_up_samples_have_the_published_moments() -> None:
    values = _with_mean_and_variance(21, 97_629.8, 7_647_472_708.0)
    assert values.mean() == pytest.approx(97_629.8)
    assert values.var(ddof=1) == pytest.approx(7_647_472_708.0)
    assert any(a > b for a, b in pairwise(values.tolist()))


@pytest.mark.parametrize(
    ("first", "second", "low", "high"),
    [
        ((56, 70), (48, 80), 0.0524, 0.3339),
        ((9, 10), (3, 10), 0.1705, 0.8090),
        ((5, 56), (0, 29), -0.0381, 0.1926),
        ((10, 10), (0, 10), 0.6075, 1.0000),
    ],
)
def test_differences_of_shares_have_newcombes_limits(
    first: tuple[int, int], second: tuple[int, int], low: float, high: float
) -> None:
    # Newcombe RG (1998), Interval estimation for the difference between independent proportions, Statistics in Medicine
    # 17, 873-890, table II, method 10.
    hits, base = np.array([first, second], dtype=float).T
    lows, highs = wilson(hits, base, 95)
    sides = [(float(h / n), float(one), float(other)) for h, n, one, other in zip(hits, base, lows, highs, strict=True)]
    assert mover(sides[0], sides[1]) == pytest.approx((low, high), abs=5e-5)
