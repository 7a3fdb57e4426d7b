"""Which sums a request needs beyond the plain ones, so that nothing is kept that nobody asked for."""

from dataclasses import dataclass

from grainstack.summary.request import SummaryRequest


@dataclass(frozen=True, slots=True)
class Wanted:
    """Sums that cost time or room.

    Attributes:
        values: Measures of which every different value is kept.
        extremes: Measures of which the lowest and highest value are kept.
        rates: Measures divided by another column.
        linearised: Whether sums per drawn unit are kept.
        values_by_unit: Measures of which the values are kept per drawn unit too, for limits of quantiles.
        replicates: The replicate weights.
    """

    values: frozenset[str]
    extremes: frozenset[str]
    rates: tuple[str, ...]
    linearised: bool
    values_by_unit: frozenset[str]
    replicates: tuple[str, ...]


def wanted_by(request: SummaryRequest) -> Wanted:
    """What a request needs."""
    spread = request.spread
    quantiles = any(statistic.quantile is not None for statistic in request.statistics)
    by_value = quantiles
    by_value |= bool(request.names & {"iqr", "distinct"}) or spread.error_bars == "quartiles"
    by_value |= spread.interval == "bootstrap" and not request.design.cluster
    extremes = bool(request.names & {"min", "max"}) or spread.error_bars == "range"
    ratios = "rate" in request.names or ("share" in request.names and bool(request.measure))
    replicates = tuple(request.design.replicates.split(",")) if request.design.replicates else ()
    return Wanted(
        values=frozenset(request.measure if by_value else ()),
        extremes=frozenset(request.measure if extremes else ()),
        rates=request.measure if "rate" in request.names else (),
        linearised=not replicates
        and (request.design.is_complex or ratios)
        and (spread.wanted or "share" in request.names),
        values_by_unit=frozenset(
            request.measure if quantiles and request.design.is_complex and spread.confident else ()
        ),
        replicates=replicates,
    )
