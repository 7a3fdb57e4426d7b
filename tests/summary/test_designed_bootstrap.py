"""Bootstrap limits under a design: held against drawing its units by hand (Rao & Wu 1988; Rao, Wu & Yue 1992)."""

from collections.abc import Callable
from itertools import product

import numpy as np
import pytest

from grainstack.errors import RequestError
from grainstack.summary.options import DesignRequest, SpreadRequest
from grainstack.summary.summary_request import SummaryRequest
from tests.soak import daily
from tests.summary.sampling import Array, Sample

RANDOM = np.random.default_rng(11)
COUNT = 400
CLUSTER = np.repeat(np.arange(40), 10)
STRATUM = np.repeat([0, 1, 2, 3], [40, 80, 120, 160])
GROUP = RANDOM.integers(0, 3, COUNT)
X = np.abs(20 + np.repeat(RANDOM.normal(0, 2, 40), 10) + 3 * STRATUM + RANDOM.normal(0, 1, COUNT))
Y = RANDOM.integers(1, 6, COUNT).astype(float)
W = RANDOM.uniform(1, 4, COUNT)
SIZES = np.array([60, 100, 400, 2000])[STRATUM].astype(float)
SAMPLE = Sample({"k": np.zeros(COUNT), "c": CLUSTER, "h": STRATUM, "g": GROUP}, {"x": X, "y": Y, "w": W, "size": SIZES})
DESIGNS: dict[str, dict[str, object]] = {
    "clusters": {"weight": "w", "cluster": ("c",)},
    "weights": {"weight": "w"},
    "strata": {"strata": "h"},
    "both": {"weight": "w", "strata": "h"},
    "sizes": {"weight": "w", "strata": "h", "population": ("size",)},
}
REPEATS = 2500


def at(values: Array, weights: Array, *parts: float) -> list[float]:
    order = np.argsort(values)
    reach = np.cumsum(weights[order]) / weights.sum()
    return [float(values[order][np.searchsorted(reach, part - 1e-12)]) for part in parts]


def deviation(values: Array, weights: Array) -> float:
    mean = np.average(values, weights=weights)
    return float(np.sqrt(np.average((values - mean) ** 2, weights=weights) * COUNT / (COUNT - 1)))


FIGURES: dict[str, tuple[dict[str, object], Callable[[Array], float]]] = {
    "mean": ({"measure": ("x",)}, lambda w: float(np.average(X, weights=w))),
    "sum": ({"measure": ("x",)}, lambda w: float(w @ X)),
    "median": ({"measure": ("x",)}, lambda w: at(X, w, 0.5)[0]),
    "p90": ({"measure": ("x",)}, lambda w: at(X, w, 0.9)[0]),
    "sd": ({"measure": ("x",)}, lambda w: deviation(X, w)),
    "variance": ({"measure": ("x",)}, lambda w: deviation(X, w) ** 2),
    "iqr": ({"measure": ("x",)}, lambda w: at(X, w, 0.75)[0] - at(X, w, 0.25)[0]),
    "rate": ({"measure": ("x",), "per": "y"}, lambda w: float(w @ X / (w @ Y))),
    "share": ({"split": "g"}, lambda w: float(w[GROUP == 0].sum() / w.sum())),
    "count": ({"split": "g"}, lambda w: float(w[GROUP == 0].sum())),
}


def resamples(design: dict[str, object], random: np.random.Generator) -> Array:
    """By what factors records count in one resample, shape (records,)."""
    strata = STRATUM if "strata" in design else np.zeros(COUNT, dtype=int)
    units = CLUSTER if "cluster" in design else np.arange(COUNT)
    factors = np.ones(COUNT)
    for stratum in np.unique(strata):
        mine = np.unique(units[strata == stratum])
        n = len(mine)
        part = n / SIZES[stratum == STRATUM][0] if "population" in design else 0.0
        times = np.zeros(COUNT)
        np.add.at(times, random.choice(mine, n - 1), 1)
        inside = strata == stratum
        factors[inside] = 1 - np.sqrt(1 - part) + np.sqrt(1 - part) * n / (n - 1) * times[units[inside]]
    return factors


@pytest.mark.parametrize(
    ("stat", "design"),
    daily(product(FIGURES, DESIGNS), [("mean", "both"), ("share", "weights"), ("p90", "strata")]),
)
def test_limits_are_those_of_drawing_by_hand(stat: str, design: str) -> None:
    asked, figure = FIGURES[stat]
    chosen = DESIGNS[design]
    request = SummaryRequest(
        by=("k",),
        stat=(stat,),
        design=DesignRequest(**chosen),  # type: ignore[arg-type]
        spread=SpreadRequest(interval="bootstrap", error_bars="confidence", repeats=8000),
        **asked,  # type: ignore[arg-type]
    )
    column = SAMPLE.table(request).columns[0]
    weights = W if "weight" in chosen else np.ones(COUNT)
    if chosen != {"strata": "h"} or stat not in ("median", "p90", "iqr"):  # unweighted quantiles lie between values
        assert column.estimate[0] == pytest.approx(figure(weights), rel=1e-9)
    random = np.random.default_rng(5)
    drawn = np.array([figure(weights * resamples(chosen, random)) for _ in range(REPEATS)])
    for limit, part in ((column.low[0], 0.025), (column.high[0], 0.975)):  # quantiles jump from value to value
        assert (drawn < limit * (1 - 1e-12)).mean() < part + 0.012
        assert (drawn <= limit * (1 + 1e-12)).mean() > part - 0.012


@pytest.mark.parametrize("stat", ["mean", "median"])
def test_beyond_many_values_neighbours_are_drawn_together(stat: str) -> None:
    random = np.random.default_rng(3)
    x, w = random.gamma(2, 3, 9000), random.choice([1.0, 2.0, 5.0], 9000)
    sample = Sample({"k": np.zeros(9000), "h": random.integers(0, 4, 9000)}, {"x": x, "w": w})
    asked = {"by": ("k",), "measure": ("x",), "stat": (stat,), "design": DesignRequest(weight="w", strata="h")}
    drawn, plain = (
        sample.table(SummaryRequest(spread=SpreadRequest(interval=how), **asked)).columns[0]  # type: ignore[arg-type]
        for how in ("bootstrap", "auto")
    )
    assert drawn.high[0] - drawn.low[0] == pytest.approx(plain.high[0] - plain.low[0], rel=0.1)


def test_a_figure_of_different_values_has_none() -> None:
    with pytest.raises(RequestError, match="no bootstrap of a distinct"):
        SAMPLE.table(bootstrap("distinct", DesignRequest(weight="w")))


def test_a_sample_of_two_stages_has_none() -> None:
    sample = Sample(SAMPLE.levels, SAMPLE.numbers | {"size": np.full(COUNT, 90.0), "size2": np.full(COUNT, 50.0)})
    with pytest.raises(RequestError, match="drawn in 2 stages"):
        sample.table(bootstrap("mean", DesignRequest(cluster=("c",), population=("size", "size2"))))


def bootstrap(stat: str, design: DesignRequest) -> SummaryRequest:
    return SummaryRequest(
        by=("k",), measure=("x",), stat=(stat,), design=design, spread=SpreadRequest(interval="bootstrap")
    )
