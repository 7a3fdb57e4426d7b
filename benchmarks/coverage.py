"""How often 95 % limits hold the truth and tests at 5 % find what is not there, over 2,000 samples each.

Run it: python benchmarks/coverage.py. It prints one line per case; between 93.5 and 96.5 % of limits, and between 4 and
6 % of tests, is as it should be.
"""

from collections.abc import Callable, Iterator

import numpy as np
from tests.summary.sampling import Sample

from grainstack.summary.options import ComparisonRequest, DesignRequest
from grainstack.summary.summary_request import SummaryRequest

SAMPLES = 2000
CLUSTERS = DesignRequest(cluster=("c",))
Draw = Callable[[np.random.Generator], Sample]
Case = tuple[str, float, Draw, SummaryRequest]


def domains(strata: int) -> Case:
    """A mean over some of the strata of a stratified cluster sample, four clusters drawn of thirty in each."""
    random = np.random.default_rng(strata)
    moods = random.normal(0, 2, (16, 30))
    people = [[10 + h / 2 + mood + random.gamma(2, 2, random.integers(8, 20)) for mood in moods[h]] for h in range(16)]
    truth = float(np.concatenate([one for h in range(strata) for one in people[h]]).mean())

    def draw(random: np.random.Generator) -> Sample:
        drawn = [(h, c) for h in range(16) for c in random.choice(30, 4, replace=False).tolist()]
        sizes = [len(people[h][c]) for h, c in drawn]
        stratum, cluster = (np.repeat(codes, sizes) for codes in np.array(drawn).T)
        x = np.concatenate([people[h][c] for h, c in drawn])
        levels = {"h": stratum, "c": cluster, "one": (stratum >= strata).astype(int)}
        return Sample(levels, {"x": x, "N": np.full(len(x), 30.0)})

    design = DesignRequest(strata="h", cluster=("c",), population=("N",))
    return (
        f"mean of a domain of {strata} strata",
        truth,
        draw,
        SummaryRequest(by=("one",), measure=("x",), design=design),
    )


def shares(share: float, clusters: int) -> Case:
    """A share in clusters of 20 that differ in it (intraclass correlation of 0.05)."""
    spread = 1 / 0.05 - 1

    def draw(random: np.random.Generator) -> Sample:
        chances = random.beta(share * spread, (1 - share) * spread, clusters)
        y = random.random((clusters, 20)) < chances[:, None]
        c = np.repeat(np.arange(clusters), 20)
        return Sample(
            {"c": c, "one": np.zeros(len(c)), "y": np.append(y.ravel().astype(int), [])}, {"x": np.ones(len(c))}
        )

    request = SummaryRequest(by=("one",), split="y", stat=("share",), design=DesignRequest(cluster=("c",)))
    return f"share of {share:g} in {clusters} clusters", share, draw, request


def skewed(count: int, sigma: float) -> Case:
    """A mean of log-normal values."""

    def draw(random: np.random.Generator) -> Sample:
        return Sample({"one": np.zeros(count)}, {"x": random.lognormal(0, sigma, count)})

    return (
        f"mean of {count} log-normal values (σ = {sigma:g})",
        float(np.exp(sigma**2 / 2)),
        draw,
        SummaryRequest(by=("one",), measure=("x",)),
    )


def cases() -> Iterator[Case]:
    """Everything that is tried."""
    yield from map(domains, (2, 4, 8))
    for clusters in (8, 20, 50):
        yield from (shares(share, clusters) for share in (0.02, 0.05, 0.1, 0.3, 0.5, 0.9, 0.98))
    for sigma in (0.5, 1.0):
        yield from (skewed(count, sigma) for count in (15, 30, 60, 200))


def coverage(case: Case) -> float:
    """The share of samples whose limits hold the truth."""
    _, truth, draw, request = case
    random = np.random.default_rng(1)
    hits = 0
    for _ in range(SAMPLES):
        sample = draw(random)
        table = sample.table(request)
        column = table.columns[0]
        cell = 0
        if request.split:
            cell = next((place for place in range(len(table.keys)) if table.levels_of(place)[1].code == "1"), -1)
            if cell < 0:  # nobody: limits of 0 hits are those of the other answer turned round
                hits += 1 - column.high[0] <= truth <= 1 - column.low[0]
                continue
        hits += bool(column.low[cell] <= truth <= column.high[cell])
    return hits / SAMPLES


def _with_no_difference(share: float, clusters: int, *, apart: bool) -> Draw:
    """Two groups with one share, in clusters of 20 that differ in it: groups of whole clusters, or in every cluster."""
    spread = 1 / 0.05 - 1

    def draw(random: np.random.Generator) -> Sample:
        chances = random.beta(share * spread, (1 - share) * spread, clusters)
        y = (random.random((clusters, 20)) < chances[:, None]).ravel()
        c = np.repeat(np.arange(clusters), 20)
        return Sample({"c": c, "g": c % 2 if apart else np.arange(len(c)) % 2, "y": y.astype(int)}, {})

    return draw


def sizes() -> Iterator[tuple[str, Draw, ComparisonRequest]]:
    """Tests of what is not there."""
    pairs, association = ComparisonRequest(compare="pairs"), ComparisonRequest(association=True)
    for clusters in (8, 20, 50):
        for apart in (True, False):
            where = "of whole clusters" if apart else "in every cluster"
            for share in (0.1, 0.3, 0.5):
                draw = _with_no_difference(share, clusters, apart=apart)
                yield f"difference of {share:g}, groups {where}, {clusters} clusters", draw, pairs
            yield f"association, groups {where}, {clusters} clusters", draw, association


def size(draw: Draw, comparison: ComparisonRequest) -> float:
    """The share of samples in which a test finds at 5 % what is not there."""
    random = np.random.default_rng(2)
    found = 0
    for _ in range(SAMPLES):
        table = draw(random).table(
            SummaryRequest(by=("g",), split="y", stat=("share",), design=CLUSTERS, comparison=comparison)
        )
        if comparison.association:
            found += table.associations[0].p < 0.05
        elif table.comparison is not None and table.comparison.differences:
            found += table.comparison.differences[0].p < 0.05
    return found / SAMPLES


if __name__ == "__main__":
    for one in cases():
        print(f"{one[0]:60} {100 * coverage(one):5.1f} %", flush=True)
    for name, drawn, wanted in sizes():
        print(f"{name:60} {100 * size(drawn, wanted):5.1f} %", flush=True)
