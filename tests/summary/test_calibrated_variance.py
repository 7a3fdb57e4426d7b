"""Limits under calibrated weights rest on residuals: held against a regression over single records."""

import numpy as np
import pytest

from grainstack.summary.options import ComparisonRequest, DesignRequest
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.sums.accumulator import Accumulator
from tests.summary.sampling import Array, Sample

RANDOM = np.random.default_rng(31)
COUNT = 240
H = np.repeat([0, 1, 2], 80)
C = H * 10 + RANDOM.integers(0, 6, COUNT)
ROUTE, SEASON = RANDOM.integers(0, 3, COUNT), RANDOM.integers(0, 2, COUNT)
K = RANDOM.integers(0, 3, COUNT)
Y = RANDOM.integers(0, 2, COUNT)
X = (5 + 4 * ROUTE + 3 * SEASON + RANDOM.normal(0, 1.5, COUNT)).round(2)
W = RANDOM.choice([1.0, 1.5, 2.5], COUNT)
KEPT = RANDOM.random(COUNT) < 0.9
SAMPLE = Sample({"h": H, "c": C, "route": ROUTE, "season": SEASON, "k": K, "y": Y}, {"x": X, "w": W})
GROUPS = np.column_stack([ROUTE == 0, ROUTE == 1, ROUTE == 2, SEASON == 0, SEASON == 1]).astype(float)
CALIBRATED = (("route",), ("season",))

DESIGNS = [
    {"strata": "h", "cluster": ("c",)},
    {"strata": "h"},
    {},
]


def residuals(z: Array) -> Array:
    beta = np.linalg.lstsq((GROUPS * W[:, None]).T @ GROUPS, GROUPS.T @ z, rcond=None)[0]
    return np.asarray(z - W * (GROUPS @ beta))


def variance(e: Array, design: dict[str, object]) -> float:
    strata = H if "strata" in design else np.zeros(COUNT, dtype=int)
    total = 0.0
    for stratum in np.unique(strata):
        inside = strata == stratum
        units = [e[inside & (c == C)].sum() for c in np.unique(C[inside])] if "cluster" in design else list(e[inside])
        total += len(units) / (len(units) - 1) * sum((unit - np.mean(units)) ** 2 for unit in units)
    return total


def linearised(figure: str, cell: int) -> Array:
    inside = KEPT & (cell == K)
    if figure == "sum":
        return np.asarray(W * X * inside)
    base = (W * inside).sum()
    values = X if figure == "mean" else (Y == 1).astype(float)
    return np.asarray(W * inside * (values - (W * inside * values).sum() / base) / base)


@pytest.mark.parametrize("design", DESIGNS)
@pytest.mark.parametrize("figure", ["mean", "sum", "share"])
def test_standard_errors_are_those_of_residuals(design: dict[str, object], figure: str) -> None:
    asked = {"split": "y", "stat": ("share",)} if figure == "share" else {"measure": ("x",), "stat": (figure,)}
    wanted = DesignRequest(weight="w", calibrated=CALIBRATED, **design)  # type: ignore[arg-type]
    table = SAMPLE.table(SummaryRequest(by=("k",), design=wanted, **asked), KEPT)
    column = table.columns[0]
    for cell in range(len(table.keys)):
        levels = [int(level.code) for level in table.levels_of(cell)]
        z = linearised(figure, levels[0])
        z = -z if figure == "share" and levels[1] == 0 else z
        assert column.standard_error[cell] ** 2 == pytest.approx(variance(residuals(z), design))
    assert "calibrated to known totals of route and season" in table.provenance.sampling.words()


@pytest.mark.parametrize("design", DESIGNS)
def test_differences_take_residuals_too(design: dict[str, object]) -> None:
    from scipy import stats  # noqa: PLC0415 - slow to load

    wanted = DesignRequest(weight="w", calibrated=CALIBRATED, **design)  # type: ignore[arg-type]
    comparison = ComparisonRequest(compare="pairs")
    table = SAMPLE.table(SummaryRequest(by=("k",), measure=("x",), design=wanted, comparison=comparison), KEPT)
    assert table.comparison is not None
    for one in table.comparison.differences:
        assert one.other is not None
        first, second = (int(table.levels_of(cell)[0].code) for cell in (one.cell, one.other))
        error = variance(residuals(linearised("mean", first) - linearised("mean", second)), design) ** 0.5
        reached = float(stats.t.isf(one.p / 2, 1e6))
        assert reached == pytest.approx(abs(one.estimate) / error, rel=0.25)


@pytest.mark.parametrize("design", DESIGNS)
def test_associations_take_residuals_too(design: dict[str, object]) -> None:
    wanted = DesignRequest(weight="w", calibrated=CALIBRATED, **design)  # type: ignore[arg-type]
    request = SummaryRequest(
        by=("k",), split="y", stat=("share",), design=wanted, comparison=ComparisonRequest(association=True)
    )
    (found,) = SAMPLE.table(request, KEPT).associations
    weights = W * KEPT
    whole = weights.sum()
    row, column = ((weights[:, None] * np.eye(size)[of]).sum(axis=0) / whole for of, size in ((K, 3), (Y, 2)))
    departures = np.zeros((3, 2))
    z = np.zeros((2, COUNT))
    for i in range(3):
        for j in range(2):
            share = (weights * (i == K) * (j == Y)).sum() / whole
            departures[i, j] = share - row[i] * column[j]
            if i < 2 and j < 1:  # of p_ij − p_i p_j, by the product rule
                of_cell = (i == K) * (j == Y) - share
                z[i] = weights * (of_cell - column[j] * ((i == K) - row[i]) - row[i] * ((j == Y) - column[j])) / whole
    e = [residuals(one) for one in z]
    of_both = [[(variance(a + b, design) - variance(a - b, design)) / 4 for b in e] for a in e]
    n = int(KEPT.sum())
    alone = column[0] * column[1] * (np.diag(row[:2]) - np.outer(row[:2], row[:2])) / n
    effects = np.trace(np.linalg.inv(alone) @ np.array(of_both))
    statistic = n * (departures**2 / np.outer(row, column)).sum()
    assert found.statistic == pytest.approx(statistic / effects)


def test_it_tells_less_than_no_calibration_where_groups_explain_much() -> None:
    plain, calibrated = (
        SAMPLE.table(SummaryRequest(by=("k",), measure=("x",), design=design)).columns[0].standard_error
        for design in (DesignRequest(weight="w"), DesignRequest(weight="w", calibrated=CALIBRATED))
    )
    assert (calibrated < plain).all()


@pytest.mark.parametrize("design", DESIGNS)
def test_any_cut_and_merge_gives_the_same(design: dict[str, object]) -> None:
    wanted = DesignRequest(weight="w", calibrated=CALIBRATED, **design)  # type: ignore[arg-type]
    request = SummaryRequest(by=("k",), measure=("x",), design=wanted)
    whole = SAMPLE.table(request, KEPT).columns[0].standard_error
    parts = []
    for rows in np.array_split(np.arange(COUNT), 5):
        parts.append(Accumulator(request))
        parts[-1].absorb(SAMPLE.batch(rows, KEPT[rows]))
    merged = parts.pop()
    for part in parts:
        merged.merge(part, SAMPLE.places, SAMPLE.places)
    np.testing.assert_array_equal(SAMPLE.finished(merged).columns[0].standard_error, whole)
