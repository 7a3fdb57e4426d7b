"""Which sums a request needs beyond the plain ones, so that nothing is kept that nobody asked for."""

from msgspec import Struct

from grainstack.summary.statistics import Linear, NeededSums
from grainstack.summary.summary_request import SummaryRequest


class Wanted(Struct, frozen=True):
    """Sums that cost time or room.

    Attributes:
        values: Measures of which every different value is kept.
        extremes: Measures of which the lowest and highest value are kept.
        rates: Measures divided by another column.
        linearised: Whether sums per drawn unit are kept.
        joint: Whether sums over records that stand in two cells are kept, as far as rows are made of records.
        tested: Whether differences are tested.
        calibrated: Whether sums by the groups that weights were made to meet are kept.
        values_by_unit: Measures of which the values are kept per drawn unit too, for limits of quantiles and resamples.
        replicates: The replicate weights.
        half_samples: Whether it is kept which half samples hold the records of each cell.
    """

    values: frozenset[str]
    extremes: frozenset[str]
    rates: tuple[str, ...]
    linearised: bool
    joint: bool
    tested: bool
    calibrated: bool
    values_by_unit: frozenset[str]
    replicates: tuple[str, ...]
    half_samples: bool


def wanted_by(request: SummaryRequest) -> Wanted:
    """What a request needs."""
    spread = request.spread
    measured = [(figure.statistic, figure.measure) for figure in request.figures if figure.measure]
    quantiles = {name for statistic, name in measured if statistic.quantile is not None}
    resampled = spread.interval == "bootstrap" and request.design.is_complex
    of_clusters = bool(request.design.cluster)
    by_unit = {name for one, name in measured if resampled and (one.linear is None or not of_clusters)} | quantiles
    values = {name for statistic, name in measured if NeededSums.VALUES in statistic.kept}
    if request.keep_values or spread.error_bars == "quartiles":
        values |= set(request.measure)
    if spread.interval == "bootstrap" and not resampled:
        values |= set(request.measure)
    extremes = {name for statistic, name in measured if NeededSums.EXTREMES in statistic.kept}
    extremes |= set(request.measure) if spread.error_bars == "range" else set()
    ratios = "rate" in request.names or any(statistic.linear is Linear.SHARE for statistic, _ in measured)
    replicated = request.design.replicates if request.needs_errors else None
    replicates = tuple(replicated.split(",")) if replicated else ()
    compared = request.comparison.wanted or request.comparison.relative_to
    tested = bool(compared) and request.needs_errors
    drawn = bool(request.design.strata or request.design.cluster)  # tells the degrees of freedom of replicates
    return Wanted(
        values=frozenset(values),
        extremes=frozenset(extremes),
        rates=tuple(dict.fromkeys(str(f.measure) for f in request.figures if f.statistic.name == "rate")),
        linearised=request.needs_errors and (drawn if replicates else request.design.is_complex or ratios or tested),
        joint=request.needs_errors and not replicates and request.design.draws_records,
        tested=tested,
        calibrated=bool(request.design.calibrated) and request.needs_errors and not replicates,
        values_by_unit=frozenset(by_unit if request.design.is_complex and spread.confident else ()),
        replicates=replicates,
        half_samples=bool(replicates) and request.design.counts_half_samples,
    )
