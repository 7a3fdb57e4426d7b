"""What limits and survey designs cost, as ratios to plain passes over the same 1,000,000 records in memory."""

import sys
from collections.abc import Callable
from pathlib import Path

import numpy as np
from ratios import ratio

sys.path.insert(0, str(Path(__file__).parent.parent))

from tests.summary.sampling import Sample

from grainstack.summary.options import DesignRequest, SpreadRequest
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.sums.accumulator import Accumulator

RECORDS = 1_000_000
CELLS = 24
CLUSTERS = 500


def made_up() -> Sample:
    """Records of 24 groups in 500 clusters with skewed numbers that are nearly all different."""
    random = np.random.default_rng(1)
    levels = {"group": random.integers(0, CELLS, RECORDS), "cluster": random.integers(0, CLUSTERS, RECORDS)}
    levels["stratum"] = levels["cluster"] % 10
    numbers = {"x": random.lognormal(2.0, 0.7, RECORDS), "weight": random.uniform(0.5, 3.0, RECORDS)}
    return Sample(levels, numbers)


def main() -> None:
    """Prints one line per figure."""
    sample = made_up()

    def table(request: SummaryRequest) -> Callable[[], object]:
        return lambda: sample.table(request)

    def plain_pass() -> None:
        accumulator = Accumulator(means)
        accumulator.absorb(sample.batch())

    none = SpreadRequest(error_bars="none")
    means = SummaryRequest(by=("group",), measure=("x",), spread=none)
    bootstrap = SummaryRequest(by=("group",), measure=("x",), spread=SpreadRequest(interval="bootstrap", repeats=1000))
    weighted = SummaryRequest(by=("group",), design=DesignRequest(weight="weight"), spread=none)
    design = DesignRequest(weight="weight", cluster=("cluster",), strata="stratum")
    shares = SummaryRequest(by=("group",), stat=("share",), design=design)
    ratio("bootstrap of means, 1,000 repeats, to one pass", table(bootstrap), plain_pass, 40)
    ratio("shares with design to weighted counts", table(shares), table(weighted), 3)


if __name__ == "__main__":
    main()
