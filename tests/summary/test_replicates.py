"""Replicate weights made from a known design give the variance of that design, exactly so for totals."""

from collections.abc import Callable
from itertools import product
from pathlib import Path

import numpy as np
import pytest
from scipy.linalg import hadamard

from grainstack.errors import RequestError
from grainstack.making.design import scales_of
from grainstack.summary.options import DesignRequest
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.sums.half_samples import HalfSamples
from tests.summary.sampling import Array, Sample

RANDOM = np.random.default_rng(8)
STRATA, PER_STRATUM = 4, 2
H = np.repeat(np.arange(STRATA), PER_STRATUM * 3)
C = np.repeat(np.arange(STRATA * PER_STRATUM), 3)
X = RANDOM.normal(20, 6, len(H)).round(1)
W = RANDOM.choice([1.0, 1.5, 2.0], len(H))
K = RANDOM.integers(0, 2, len(H))


def half_samples(coefficient: float = 0.0) -> list[Array]:
    """Balanced half samples: in each stratum one cluster counts twice less the coefficient, the other the rest."""
    signs = hadamard(8)[:, 1 : STRATA + 1]
    first = C % PER_STRATUM == 0
    return [W * np.where(first, 1 + row[H] * (1 - coefficient), 1 - row[H] * (1 - coefficient)) for row in signs]


def deletions() -> list[Array]:
    """One cluster left out at a time, and the others of its stratum made up for it."""
    return [
        W * np.where(drop == C, 0.0, np.where(drop // PER_STRATUM == C // PER_STRATUM, 2.0, 1.0))
        for drop in range(STRATA * PER_STRATUM)
    ]


def sample(weights: list[Array]) -> Sample:
    names = {f"r{place}": column for place, column in enumerate(weights)}
    return Sample({"h": H, "c": C, "k": K, "one": np.zeros(len(H))}, {"x": X, "w": W, **names})


def replicated(weights: list[Array], method: str, **more: object) -> DesignRequest:
    names = ",".join(f"r{place}" for place in range(len(weights)))
    plain = DesignRequest(weight="w", replicates=names, replicate_method=method, **more)  # type: ignore[arg-type]
    return DesignRequest(
        weight="w",
        replicates=names,
        replicate_method=method,
        scales=scales_of(plain, len(weights)),
        **more,  # type: ignore[arg-type]
    )


CASES = [
    (half_samples(), "brr", {}),
    (half_samples(0.3), "fay", {"fay_coefficient": 0.3}),
    (deletions(), "jkn", {"replicate_scale": "0.5"}),
]


@pytest.mark.parametrize(("weights", "method", "more"), CASES)
def test_a_total_has_the_variance_of_the_design(weights: list[Array], method: str, more: dict[str, object]) -> None:
    # Wolter (2007), sections 3.3 and 4.5: for linear figures balanced half samples and the stratified jackknife give
    # the usual estimator.
    asked = {"by": ("k",), "measure": ("x",), "stat": ("sum",)}
    by_design = DesignRequest(weight="w", strata="h", cluster=("c",))
    expected = sample(weights).table(SummaryRequest(**asked, design=by_design)).columns[0]  # type: ignore[arg-type]
    column = sample(weights).table(SummaryRequest(**asked, design=replicated(weights, method, **more))).columns[0]  # type: ignore[arg-type]
    np.testing.assert_allclose(column.standard_error, expected.standard_error)


def test_degrees_of_freedom_come_from_the_method() -> None:
    def degrees(weights: list[Array], method: str, **more: object) -> float:
        request = SummaryRequest(by=("one",), measure=("x",), design=replicated(weights, method, **more))
        return float(sample(weights).table(request).columns[0].degrees[0])

    assert degrees(deletions(), "jk1") == 7
    assert degrees(deletions(), "jkn", replicate_scale="0.5") == 4  # eight clusters less four strata
    assert degrees(half_samples(), "brr") == 4  # the rank of eight half samples of four strata
    assert degrees(half_samples(), "brr", strata="h") == 4
    assert degrees(half_samples(), "bootstrap", strata="h", cluster=("c",)) == 4
    assert degrees(half_samples(), "bootstrap", degrees=11) == 11
    with pytest.raises(RequestError, match="degrees of freedom of bootstrap weights are not known"):
        degrees(half_samples(), "bootstrap")


@pytest.mark.parametrize("stat", ["mean", "share", "median"])
@pytest.mark.parametrize("coefficient", [0.0, 0.3])
def test_half_samples_tell_the_strata_of_a_cell(stat: str, coefficient: float) -> None:
    weights = half_samples(coefficient)
    fay = {"fay_coefficient": coefficient} if coefficient else {}
    names = {f"r{place}": column for place, column in enumerate(weights)}
    domain = np.where(H < 2, 0, 1 + (H == 3))  # strata 0 and 1, 2, 3
    levels = {"h": H, "d": domain, "y": RANDOM.integers(0, 2, len(H))}
    records = Sample(levels, {"x": X, "w": W, **names})
    asked = {"split": "y"} if stat == "share" else {"measure": ("x",)}

    def degrees(**more: object) -> list[float]:
        design = replicated(weights, "fay" if coefficient else "brr", **fay, **more)
        request = SummaryRequest(by=("d",), stat=(stat,), design=design, **asked)
        return list(records.table(request).columns[0].degrees)

    assert degrees() == degrees(strata="h")
    assert set(degrees()) == {1.0, 2.0}


def test_other_weights_than_half_samples_have_as_many_degrees_as_replicates() -> None:
    found = HalfSamples()
    random = np.random.default_rng(2)
    found.absorb(np.zeros(60_000, dtype=np.int64), np.ones(60_000), list(random.uniform(0, 2, (40, 60_000))))
    assert found.complete
    found.absorb(np.zeros(60_000, dtype=np.int64), np.ones(60_000), list(random.uniform(0, 2, (40, 60_000))))
    assert found.ranks(np.zeros(1, dtype=np.int64), np.zeros(1, dtype=np.int64), 1) is None


@pytest.mark.parametrize("method", ["jk1", "jkn", "bootstrap"])
def test_where_clusters_are_named_degrees_of_freedom_are_those_of_the_cell(method: str) -> None:
    asked = {"by": ("k",), "measure": ("x",)}
    by_design = DesignRequest(weight="w", strata="h", cluster=("c",))
    weights = deletions()
    more = {"replicate_scale": "0.5"} if method == "jkn" else {}
    design = replicated(weights, method, strata="h", cluster=("c",), **more)
    columns = [
        sample(weights).table(SummaryRequest(**asked, design=one)).columns[0]  # type: ignore[arg-type]
        for one in (by_design, design)
    ]
    np.testing.assert_array_equal(columns[1].degrees, columns[0].degrees)


@pytest.mark.parametrize("center", ["sample", "mean"])
def test_means_shares_and_quantiles_are_worked_out_under_every_replicate(center: str) -> None:
    weights = half_samples()
    design = replicated(weights, "brr", replicate_center=center)

    def variance(figure: Callable[[Array], float], own: float) -> float:
        under = np.array([figure(w) for w in weights])
        return float(((under - (under.mean() if center == "mean" else own)) ** 2).mean())

    inside = K == 1

    def mean(w: Array) -> float:
        return float((w * X)[inside].sum() / w[inside].sum())

    def share(w: Array) -> float:
        return float(w[inside].sum() / w.sum())

    def below(w: Array) -> float:
        return float(w[inside & (median >= X)].sum() / w[inside].sum())

    column = sample(weights).table(SummaryRequest(by=("k",), measure=("x",), design=design)).columns[0]
    assert column.standard_error[1] ** 2 == pytest.approx(variance(mean, mean(W)))
    column = sample(weights).table(SummaryRequest(by=("k",), stat=("share",), design=design)).columns[0]
    assert column.standard_error[1] ** 2 == pytest.approx(variance(share, share(W)))
    quantiles = sample(weights).table(SummaryRequest(by=("k",), measure=("x",), stat=("median",), design=design))
    median = quantiles.columns[0].estimate[1]
    from scipy import stats  # noqa: PLC0415 - slow to load

    reach = stats.t.ppf(0.975, STRATA) * np.sqrt(variance(below, below(W)))
    order = np.argsort(X[inside])
    reached = np.cumsum(W[inside][order]) / W[inside].sum()
    ends = [X[inside][order][min(np.searchsorted(reached, 0.5 + side * reach), len(order) - 1)] for side in (-1, 1)]
    assert [quantiles.columns[0].low[1], quantiles.columns[0].high[1]] == pytest.approx(ends)


def test_covariances_of_replicates_count_in_differences() -> None:
    from grainstack.summary.options import ComparisonRequest  # noqa: PLC0415 - only here

    weights = half_samples()
    design = replicated(weights, "brr", degrees=4.0)
    request = SummaryRequest(by=("k",), measure=("x",), design=design, comparison=ComparisonRequest(compare="pairs"))
    comparison = sample(weights).table(request).comparison
    assert comparison is not None
    means = [[(w * X)[k == K].sum() / w[k == K].sum() for w in (W, *weights)] for k in (0, 1)]
    differences = np.subtract(*map(np.array, means))
    variance = ((differences[1:] - differences[0]) ** 2).mean()
    from scipy import stats  # noqa: PLC0415 - slow to load

    expected = 2 * stats.t.sf(abs(differences[0]) / np.sqrt(variance), 4)
    assert comparison.differences[0].p == pytest.approx(expected, rel=1e-6)


def test_scales_are_never_assumed_in_silence(tmp_path: Path) -> None:
    def scales(**asked: object) -> tuple[float, ...]:
        return scales_of(DesignRequest(replicates="r*", **asked), 4)  # type: ignore[arg-type]

    assert scales(replicate_method="jk1") == (0.75,) * 4
    assert scales(replicate_method="brr") == (0.25,) * 4
    assert scales(replicate_method="fay", fay_coefficient=0.5) == (1.0,) * 4
    (tmp_path / "scales.txt").write_text("0.5\n0.5\n0.75\n0.75\n", "utf-8")
    assert scales(replicate_method="jkn", replicate_scale=str(tmp_path / "scales.txt")) == (0.5, 0.5, 0.75, 0.75)
    assert scales(replicate_method="jkn", replicate_scale="0.5, 0.5, 0.75, 0.75") == (0.5, 0.5, 0.75, 0.75)
    refused = [
        ({}, "how the replicate weights were made"),
        ({"replicate_method": "jkn"}, "need a scale each"),
        ({"replicate_method": "fay"}, "coefficient"),
        ({"replicate_method": "brr", "replicate_scale": "1,2"}, "holds 2 numbers"),
        ({"replicate_method": "brr", "replicate_scale": "-1"}, "above 0"),
        ({"replicate_method": "brr", "replicate_scale": "none.txt"}, "neither numbers nor a file"),
    ]
    for asked, message in refused:
        with pytest.raises(RequestError, match=message):
            scales(**asked)


def test_every_half_sample_is_balanced() -> None:
    signs = hadamard(8)[:, 1 : STRATA + 1]
    assert all(
        (signs[:, one] * signs[:, other]).sum() == 0 for one, other in product(range(4), repeat=2) if one != other
    )
