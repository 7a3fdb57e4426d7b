"""Nominal intervals cover as often as they say, over many samples of a made-up population."""

import numpy as np
import pytest
from scipy import stats

from grainstack.summary.figures.interval_formulas import wilson
from grainstack.summary.options import DesignRequest
from grainstack.summary.summary_request import SummaryRequest
from tests.summary.sampling import Array, Sample

pytestmark = pytest.mark.soak

SAMPLES = 2000
STRATA, CLUSTERS, DRAWN = 3, 60, (12, 10, 8)
DESIGN = DesignRequest(weight="w", strata="h", cluster=("c",), population=("N",))


@pytest.fixture(scope="module")
def population() -> list[tuple[Array, Array]]:
    """The measure and the answer of everybody in each cluster, stratum by stratum."""
    random = np.random.default_rng(5)
    people = []
    for stratum in range(STRATA):
        for _ in range(CLUSTERS):
            size, mood = random.integers(10, 30), random.normal(0, 1.5)
            chance = 1 / (1 + np.exp(0.6 - 0.4 * stratum - 0.4 * mood))
            people.append((10 + 3 * stratum + mood + random.gamma(2, 2, size), random.random(size) < chance))
    return people


def drawn(people: list[tuple[Array, Array]], random: np.random.Generator) -> Sample:
    """A stratified cluster sample."""
    parts = []
    for stratum, count in enumerate(DRAWN):
        for cluster in random.choice(CLUSTERS, count, replace=False):
            x, y = people[stratum * CLUSTERS + cluster]
            weight = np.full(len(x), CLUSTERS / count)
            parts.append((np.full(len(x), stratum), np.full(len(x), cluster), x, y, weight))
    h, c, x, y, w = (np.concatenate([part[place] for part in parts]) for place in range(5))
    levels = {"h": h, "c": c, "y": y, "one": np.zeros(len(h))}
    return Sample(levels, {"x": x, "w": w, "N": np.full(len(h), CLUSTERS)})


@pytest.mark.parametrize(
    ("request_", "cell"),
    [
        (SummaryRequest(by=("one",), measure=("x",), design=DESIGN), 0),
        (SummaryRequest(by=("one",), split="y", stat=("share",), design=DESIGN), 1),
    ],
)
def test_design_based_intervals_cover_as_often_as_they_say(
    population: list[tuple[Array, Array]], request_: SummaryRequest, cell: int
) -> None:
    random = np.random.default_rng(11)
    truth = np.concatenate([x if request_.measure else y for x, y in population]).mean()
    covered = 0
    for _ in range(SAMPLES):
        column = drawn(population, random).table(request_).columns[0]
        covered += column.low[cell] <= truth <= column.high[cell]
    assert 0.935 <= covered / SAMPLES <= 0.965


def test_wilson_covers_a_rare_share_as_often_as_the_literature_says() -> None:
    # Brown LD, Cai TT, DasGupta A (2001), Interval estimation for a binomial proportion, Statistical Science 16,
    # 101-133: coverage of the score interval dips below its level for shares near 0. At p = 0.02, n = 50 all samples
    # with up to 2 hits are covered, so the true coverage is P(X <= 2) = 0.9216, not 0.95.
    hits = np.random.default_rng(3).binomial(50, 0.02, SAMPLES).astype(float)
    low, high = wilson(hits, np.full(SAMPLES, 50.0), 95)
    covered = ((low <= 0.02) & (high >= 0.02)).mean()
    assert stats.binom.cdf(2, 50, 0.02) == pytest.approx(0.9216, abs=5e-5)
    assert covered == pytest.approx(0.9216, abs=0.018)
