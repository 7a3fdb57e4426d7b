"""Design-based variances against slow and obvious re-computation."""

from dataclasses import dataclass

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grainstack.errors import RequestError
from grainstack.summary.options import ComparisonRequest, DesignRequest, SpreadRequest
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.sums.accumulator import Accumulator
from tests.soak import SOAK
from tests.summary.sampling import Array, Sample


@dataclass(frozen=True, slots=True)
class Survey:
    """A random survey: records in clusters in strata, with weights, two columns of categories and a measure."""

    sample: Sample
    kept: Array

    def column(self, name: str) -> Array:
        return (self.sample.levels | self.sample.numbers)[name]


@st.composite
def surveys(draw: st.DrawFn) -> Survey:
    seed = draw(st.integers(0, 10_000))
    random = np.random.default_rng(seed)
    strata = draw(st.integers(1, 3))
    clusters = [draw(st.integers(2, 5)) for _ in range(strata)]
    sizes = [random.integers(1, 6, count) for count in clusters]
    h = np.concatenate([np.repeat(s, part.sum()) for s, part in enumerate(sizes)])
    c = np.concatenate([np.repeat(np.arange(len(part)), part) for part in sizes])
    n = len(h)
    x = np.where(random.random(n) < 0.1, np.nan, random.integers(0, 9, n).astype(float))
    columns = {"h": h, "c": c, "k": random.integers(-1, 3, n), "y": random.integers(0, 2, n)}
    weights = random.choice([0.0, 0.5, 1.0, 2.5], n)
    weights[0] = 1.0
    numbers = {"x": x, "d": random.integers(1, 5, n).astype(float), "w": weights, "N": 3.0 + 2 * np.array(clusters)[h]}
    return Survey(Sample(columns, numbers), random.random(n) < 0.9)


def variance(survey: Survey, z: Array, *, cluster: bool, population: bool) -> float:
    """V = Σ (1 − f) n/(n − 1) Σ (z_c − z̄)², cluster by cluster, stratum by stratum."""
    total = 0.0
    h, c, sizes = survey.column("h"), survey.column("c"), survey.column("N")
    for stratum in np.unique(h):
        inside = h == stratum
        units = [z[inside & (c == one)].sum() for one in np.unique(c[inside])] if cluster else list(z[inside])
        n = len(units)
        fraction = n / float(sizes[inside][0]) if population else 0.0
        total += (1 - fraction) * n / (n - 1) * sum((unit - np.mean(units)) ** 2 for unit in units)
    return float(total)


DESIGNS = st.sampled_from(
    [
        DesignRequest(weight="w", strata="h", cluster=("c",)),
        DesignRequest(weight="w", strata="h", cluster=("c",), population=("N",)),
        DesignRequest(weight="w", strata="h"),
        DesignRequest(strata="h", cluster=("c",)),
    ]
)


def linearised(survey: Survey, design: DesignRequest, name: str, cell: int) -> tuple[float, Array]:
    """The figure of one cell and the linearised value of every record."""
    w = survey.column("w") if design.weight else np.ones(len(survey.kept))
    inside = survey.kept & (survey.column("k") == cell)
    x = survey.column("x")
    if name == "share":
        hits = inside & (survey.column("y") == 1)
        share = (w * hits).sum() / (w * inside).sum()
        return float(share), w * inside * (hits - share) / (w * inside).sum()
    known = inside & ~np.isnan(x)
    filled = np.where(known, x, 0.0)
    if name == "sum":
        return float((w * filled).sum()), w * filled
    divisor = known * survey.column("d") if name == "rate" else known.astype(float)
    ratio = (w * filled).sum() / (w * divisor).sum()
    return float(ratio), w * (filled - ratio * divisor) / (w * divisor).sum()


@settings(max_examples=60 * SOAK)
@given(surveys(), DESIGNS, st.sampled_from(["mean", "sum", "rate", "share"]))
def test_estimates_and_standard_errors_are_those_of_a_plain_loop(
    survey: Survey, design: DesignRequest, name: str
) -> None:
    if name == "share":
        request = SummaryRequest(by=("k",), split="y", stat=("share",), design=design)
    else:
        per = "d" if name == "rate" else None
        request = SummaryRequest(by=("k",), measure=("x",), stat=(name,), per=per, design=design)
    counted = survey.kept & (survey.column("w") > 0) if design.weight else survey.kept
    if not (counted & (survey.column("k") >= 0)).any():
        with pytest.raises(RequestError, match="No record"):
            survey.sample.table(request, survey.kept)
        return
    table = survey.sample.table(request, survey.kept)
    column = table.columns[0]
    for cell in range(len(table.keys)):
        levels = [int(level.code) for level in table.levels_of(cell)]
        if len(levels) == 2 and levels[1] == 0:
            continue
        with np.errstate(invalid="ignore", divide="ignore"):
            figure, z = linearised(survey, design, name, levels[0])
        if np.isnan(figure):
            assert np.isnan(column.estimate[cell])
            continue
        assert column.estimate[cell] == pytest.approx(figure, abs=1e-12)
        slow = variance(survey, z, cluster=bool(design.cluster), population=bool(design.population))
        if not np.isnan(column.standard_error[cell]):
            assert column.standard_error[cell] ** 2 == pytest.approx(slow, rel=1e-9, abs=1e-12)


def domain(survey: Survey, design: DesignRequest, cell: int) -> Array:
    """Which records have a value and are in a cell."""
    inside = survey.kept & (survey.column("k") == cell) & ~np.isnan(survey.column("x"))
    return np.asarray(inside & (survey.column("w") > 0) if design.weight else inside)


def degrees_of(survey: Survey, design: DesignRequest, inside: Array) -> int:
    """Units that hold a record of a domain less the strata that do (Korn & Graubard 1999)."""
    h, c = survey.column("h")[inside], survey.column("c")[inside]
    units = len(np.unique(h * 100 + c)) if design.cluster else int(inside.sum())
    return units - len(np.unique(h))


@settings(max_examples=40 * SOAK)
@given(surveys(), DESIGNS)
def test_degrees_of_freedom_are_those_of_the_domain(survey: Survey, design: DesignRequest) -> None:
    table = survey.sample.table(SummaryRequest(by=("k",), measure=("x",), design=design), survey.kept)
    column = table.columns[0]
    for cell in range(len(table.keys)):
        inside = domain(survey, design, int(table.levels_of(cell)[0].code))
        degrees = degrees_of(survey, design, inside)
        if inside.any():
            assert column.degrees[cell] == degrees
        if degrees < 1:
            assert np.isnan([column.standard_error[cell], column.low[cell], column.high[cell]]).all()


@settings(max_examples=40 * SOAK)
@given(surveys(), DESIGNS)
def test_differences_take_the_covariance_of_shared_clusters(survey: Survey, design: DesignRequest) -> None:
    request = SummaryRequest(by=("k",), measure=("x",), design=design, comparison=ComparisonRequest(compare="pairs"))
    try:
        comparison = survey.sample.table(request, survey.kept).comparison
    except RequestError:
        return
    table = survey.sample.table(request, survey.kept)
    assert comparison is not None
    for one in comparison.differences:
        assert one.other is not None
        cells = [int(table.levels_of(cell)[0].code) for cell in (one.cell, one.other)]
        (first, z1), (second, z2) = (linearised(survey, design, "mean", cell) for cell in cells)
        slow = variance(survey, z1 - z2, cluster=bool(design.cluster), population=bool(design.population))
        assert one.estimate == pytest.approx(first - second)
        mine, other = (domain(survey, design, cell) for cell in cells)
        variances = [
            variance(survey, z, cluster=bool(design.cluster), population=bool(design.population)) for z in (z1, z2)
        ]
        parts = sum(v**2 / degrees_of(survey, design, d) for v, d in zip(variances, (mine, other), strict=True))
        joint = degrees_of(survey, design, mine | other)
        degrees = max(min(joint, sum(variances) ** 2 / parts) if parts else joint, 1)
        if slow > 1e-12:
            from scipy import stats  # noqa: PLC0415 - slow to load

            assert one.p == pytest.approx(2 * stats.t.sf(abs(first - second) / np.sqrt(slow), degrees), rel=1e-6)


@settings(max_examples=40 * SOAK)
@given(surveys(), DESIGNS, st.integers(1, 7))
def test_batches_and_merges_change_nothing(survey: Survey, design: DesignRequest, parts: int) -> None:
    request = SummaryRequest(
        by=("k",),
        split="y",
        measure=("x",),
        stat=("mean", "sum", "median", "min", "sd"),
        design=design,
        spread=SpreadRequest(error_bars="none"),
    )
    if not (survey.kept & (survey.column("k") >= 0)).any():
        return
    whole = survey.sample.table(request, survey.kept)
    pieces = np.array_split(np.arange(len(survey.kept)), parts)
    one_by_one = Accumulator(request)
    accumulators = []
    for rows in pieces:
        batch = survey.sample.batch(rows, survey.kept[rows])
        one_by_one.absorb(batch)
        accumulators.append(Accumulator(request))
        accumulators[-1].absorb(batch)
    merged = accumulators.pop()
    for accumulator in accumulators:
        merged.merge(accumulator, survey.sample.places, survey.sample.places)
    for other in (survey.sample.finished(one_by_one), survey.sample.finished(merged)):
        assert other.keys.tolist() == whole.keys.tolist()
        for mine, theirs in zip(whole.columns, other.columns, strict=True):
            np.testing.assert_array_equal(mine.estimate, theirs.estimate)
            np.testing.assert_array_equal(mine.base, theirs.base)
            np.testing.assert_allclose(mine.standard_error, theirs.standard_error, rtol=1e-9)


def test_clusters_without_a_record_in_the_cell_count() -> None:
    # Two clusters are in the domain, four were drawn: n = 4 in n/(n − 1).
    sample = Sample({"k": np.array([0, 0, 1, 1]), "c": np.arange(4)}, {"x": np.array([1.0, 3, 9, 9])})
    request = SummaryRequest(by=("k",), measure=("x",), design=DesignRequest(cluster=("c",)))
    column = sample.table(request).columns[0]
    assert column.standard_error[0] ** 2 == pytest.approx(4 / 3 * 2 * 0.5**2)
    filtered = sample.table(request, np.array([True, True, False, False])).columns[0]
    assert filtered.standard_error[0] == pytest.approx(column.standard_error[0])


def test_replicate_weights_give_the_jackknife() -> None:
    x = np.array([3.0, 7, 8, 1, 6, 2])
    n = len(x)
    weights = {f"r{drop}": np.where(np.arange(n) == drop, 0.0, n / (n - 1)) for drop in range(n)}
    sample = Sample({"k": np.zeros(n)}, {"x": x, "w": np.ones(n), **weights})
    design = DesignRequest(weight="w", replicates=",".join(weights), replicate_method="jk1", scales=((n - 1) / n,) * n)
    column = sample.table(SummaryRequest(by=("k",), measure=("x",), design=design)).columns[0]
    assert column.estimate[0] == pytest.approx(x.mean())
    assert column.standard_error[0] ** 2 == pytest.approx(x.var(ddof=1) / n)


def test_a_stratum_of_one_cluster_is_an_error_with_its_name_unless_centred() -> None:
    sample = Sample(
        {"k": np.zeros(4), "h": np.array([0, 0, 0, 1]), "c": np.array([0, 0, 1, 0])}, {"x": np.array([1.0, 2, 4, 9])}
    )
    design = DesignRequest(strata="h", cluster=("c",))
    with pytest.raises(RequestError, match="Stratum 1 has a single cluster"):
        sample.table(SummaryRequest(by=("k",), measure=("x",), design=design))
    centred = DesignRequest(strata="h", cluster=("c",), single_cluster="centred")
    column = sample.table(SummaryRequest(by=("k",), measure=("x",), design=centred)).columns[0]
    z = (np.array([1.0, 2, 4, 9]) - 4) / 4
    units = [z[:2].sum(), z[2]]
    expected = 2 * sum((unit - np.mean(units)) ** 2 for unit in units) + (z[3] - z.sum() / 3) ** 2
    assert column.standard_error[0] ** 2 == pytest.approx(expected)


@pytest.mark.parametrize(
    ("sizes", "message"),
    [([5.0, 6, 9, 9], "has different values in stratum 0"), ([1.0, 1, 9, 9], "but 2 were drawn")],
)
def test_population_sizes_that_cannot_be_are_refused(sizes: list[float], message: str) -> None:
    sample = Sample(
        {"k": np.zeros(4), "h": np.array([0, 0, 1, 1]), "c": np.arange(4)}, {"x": np.arange(4.0), "N": np.array(sizes)}
    )
    design = DesignRequest(strata="h", cluster=("c",), population=("N",))
    with pytest.raises(RequestError, match=message):
        sample.table(SummaryRequest(by=("k",), measure=("x",), design=design))


def test_effective_base_and_design_effect() -> None:
    sample = Sample({"k": np.zeros(4)}, {"x": np.array([1.0, 2, 3, 4]), "w": np.array([1.0, 1, 1, 3])})
    column = sample.table(SummaryRequest(by=("k",), measure=("x",), design=DesignRequest(weight="w"))).columns[0]
    # x̄ = (1 + 2 + 3 + 12) / 6 = 3; z = w (x − 3) / 6; s² / n with s² = Σw(x − x̄)² / Σw · 4/3
    z = np.array([1.0, 1, 1, 3]) * (np.array([1.0, 2, 3, 4]) - 3.0) / 6
    plain = (np.array([1.0, 1, 1, 3]) * (np.array([1.0, 2, 3, 4]) - 3.0) ** 2).sum() / 6 * 4 / 3 / 4
    assert column.design_effect[0] == pytest.approx(4 / 3 * (z**2).sum() / plain)
    assert column.effective_base[0] == pytest.approx(4 / column.design_effect[0])
    # Kish (1965): n Σw² / (Σw)² = 4 · 12 / 36
    assert column.weighting_effect[0] == pytest.approx(4 / 3)


def test_shares_of_a_measure_are_ratios_of_totals() -> None:
    sample = Sample({"k": np.array([0, 0, 1, 1])}, {"x": np.array([1.0, 2, 3, 4])})
    column = sample.table(SummaryRequest(by=("k",), measure=("x",), stat=("share",))).columns[0]
    assert column.estimate.tolist() == [0.3, 0.7]
    x, inside = np.array([1.0, 2, 3, 4]), np.array([0, 0, 1, 1])
    z = x * (inside - 0.7) / 10
    assert column.standard_error[0] ** 2 == pytest.approx(4 / 3 * ((z - z.mean()) ** 2).sum())


def test_several_answers_under_a_design_are_shares_of_respondents() -> None:
    import pyarrow as pa  # noqa: PLC0415

    from grainstack.records.arrow import level_lists  # noqa: PLC0415 - only here
    from grainstack.records.batch import Batch  # noqa: PLC0415

    plain = Sample({"c": np.array([0, 0, 1, 1, 2, 2]), "k": np.array([0, 1, 0, 1, 1, 1])}, {})
    request = SummaryRequest(by=("k",), stat=("share",), design=DesignRequest(cluster=("c",)))
    expected = plain.table(request).columns[0]
    batch = plain.batch()
    lists = level_lists(
        np.array([0, 1, 0, 1, 1, 1], dtype=np.int32), np.arange(7, dtype=np.int32), np.ones(6, dtype=bool), ("0", "1")
    )
    records = pa.RecordBatch.from_arrays([lists, batch.records.column("levels:c")], names=["levels:k", "levels:c"])
    accumulator = Accumulator(request)
    accumulator.absorb(Batch(records, batch.everyone, batch.kept))
    column = plain.finished(accumulator).columns[0]
    np.testing.assert_allclose(column.estimate, expected.estimate)
    np.testing.assert_allclose(column.standard_error, expected.standard_error)
