"""Samples drawn in stages: the estimator of the variance, held against all samples there could have been."""

from itertools import combinations, product

import numpy as np
import pytest

from grainstack.errors import RequestError
from grainstack.summary.options import DesignRequest
from grainstack.summary.summary_request import SummaryRequest
from tests.summary.sampling import Sample

POPULATION = {0: (3.0, 9.0, 4.0), 1: (1.0, 2.0), 2: (8.0, 5.0, 5.0, 11.0)}


def two_stages(schools: tuple[int, ...], pupils: tuple[tuple[float, ...], ...], *, weigh: bool = True) -> Sample:
    """Two of three clusters, and two records of each."""
    codes = np.repeat(schools, [len(one) for one in pupils])
    sizes = np.array([len(POPULATION[code]) for code in codes], dtype=float)
    weights = 3 / 2 * sizes / 2 if weigh else np.ones(len(codes))
    levels = {"one": np.zeros(len(codes)), "school": codes, "pupil": np.arange(len(codes))}
    numbers = {"x": np.concatenate(pupils), "w": weights, "schools": np.full(len(codes), 3.0), "pupils": sizes}
    return Sample(levels, numbers)


@pytest.mark.parametrize("cluster", [("school",), ("school", "pupil")])
def test_the_variance_of_two_stages_is_right_on_average_over_every_sample(cluster: tuple[str, ...]) -> None:
    # Cochran (1977), theorem 11.2: v is unbiased, so its mean over all equally likely samples is the variance of the
    # estimated total over all of them.
    design = DesignRequest(weight="w", cluster=cluster, population=("schools", "pupils"))
    request = SummaryRequest(by=("one",), measure=("x",), stat=("sum",), design=design)
    totals, variances, chances = [], [], []
    for schools in combinations(POPULATION, 2):
        samples = list(product(*(combinations(POPULATION[school], 2) for school in schools)))
        for pupils in samples:
            column = two_stages(schools, pupils).table(request).columns[0]
            totals.append(column.estimate[0])
            variances.append(np.nan_to_num(column.standard_error[0]) ** 2)
            chances.append(1 / 3 / len(samples))
    mean = np.average(totals, weights=chances)
    assert mean == pytest.approx(sum(map(sum, POPULATION.values())))
    assert np.average(variances, weights=chances) == pytest.approx(
        np.average((np.array(totals) - mean) ** 2, weights=chances)
    )


def test_a_census_of_clusters_leaves_what_was_drawn_within_them() -> None:
    sample = two_stages((0, 1, 2), ((3.0, 9.0), (1.0, 2.0), (8.0, 5.0)))
    request = SummaryRequest(
        by=("one",), measure=("x",), design=DesignRequest(cluster=("school",), population=("schools", "pupils"))
    )
    column = sample.table(request).columns[0]
    # Degrees of freedom are those of the records within the clusters, which are strata now: 6 − 3.
    assert column.degrees[0] == 3
    z = (np.array([3.0, 9, 1, 2, 8, 5]) - 28 / 6) / 6
    parts = zip((0, 2, 4), (1 - 2 / 3, 1 - 2 / 2, 1 - 2 / 4), strict=True)
    variance = sum((1 - 1) + rest * 2 / 1 * ((z[at : at + 2] - z[at : at + 2].mean()) ** 2).sum() for at, rest in parts)
    assert column.standard_error[0] ** 2 == pytest.approx(variance)
    all_drawn = SummaryRequest(
        by=("one",), measure=("x",), design=DesignRequest(cluster=("school",), population=("schools",))
    )
    nothing = sample.table(all_drawn).columns[0]
    assert np.isnan([nothing.low[0], nothing.high[0], nothing.standard_error[0]]).all()


def test_a_cell_within_one_cluster_and_equal_values_have_no_interval_and_are_not_tested() -> None:
    sample = Sample(
        {"k": np.array([0, 0, 1, 1, 1, 2, 2, 3, 3]), "c": np.array([0, 0, 0, 1, 2, 1, 2, 0, 2])},
        {"x": np.array([1.0, 2, 4, 7, 9, 5, 5, 20, 31])},
    )
    request = SummaryRequest(by=("k",), measure=("x",), design=DesignRequest(cluster=("c",)))
    column = sample.table(request).columns[0]
    assert column.degrees.tolist() == [0, 2, 1, 1]
    assert np.isnan(column.low).tolist() == [True, False, True, False]
    assert np.isnan(column.standard_error).tolist() == [True, False, True, False]


@pytest.mark.parametrize(
    ("design", "message"),
    [
        ({"cluster": ("school", "pupil"), "population": ("schools",)}, "counts only where"),
        ({"population": ("schools", "pupils")}, "there are 1 stages and 2"),
        ({"cluster": ("school", "school")}, "named for two stages"),
    ],
)
def test_stages_that_can_play_no_part_are_refused(design: dict[str, tuple[str, ...]], message: str) -> None:
    with pytest.raises(RequestError, match=message):
        DesignRequest(**design)  # type: ignore[arg-type]


def test_a_cluster_of_one_record_at_the_second_stage_is_named() -> None:
    sample = two_stages((0, 2), ((3.0, 9.0), (8.0,)))
    design = {"weight": "w", "cluster": ("school",), "population": ("schools", "pupils")}
    request = SummaryRequest(by=("one",), measure=("x",), design=DesignRequest(**design))  # type: ignore[arg-type]
    with pytest.raises(RequestError, match="has a single record"):
        sample.table(request)
    centred = DesignRequest(**design, single_cluster="centred")  # type: ignore[arg-type]
    assert sample.table(SummaryRequest(by=("one",), measure=("x",), design=centred)).columns[0].standard_error[0] > 0
