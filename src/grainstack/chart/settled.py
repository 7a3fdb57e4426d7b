"""Which summary a chart needs: what its layout shows, and figures for its labels and second measure."""

from dataclasses import replace
from typing import TYPE_CHECKING

from grainstack.chart.request import BarRequest, ChartRequest
from grainstack.errors import ChartError, RequestError
from grainstack.summary.request import Figure, Purpose, SummaryRequest
from grainstack.summary.statistics import STATISTICS, statistic_named

if TYPE_CHECKING:
    from grainstack.chart.tiles import PieRequest, TreemapRequest

_LUMPED = ("stacked", "percent", "diverging")


def settled_for_bars(summary: SummaryRequest, chart: ChartRequest) -> SummaryRequest:
    """The summary bars are drawn from.

    Percent and diverging bars show each category's shares unless another statistic was asked for. Whiskers are drawn
    only when they are wanted.

    Raises:
        RequestError: Options that contradict each other.
        ChartError: Figures that cannot be drawn together.
    """
    bars = chart.bars
    summary = _swapped(summary) if bars.swap else summary
    summary = _as_layout(summary, bars)
    if summary.comparison.letters or summary.spread.error_bars:
        spread = summary.spread
    else:
        spread = replace(summary.spread, error_bars="none")
    if len(summary.figures) > 1 and summary.split:
        raise RequestError(
            "Several figures are series already, so --split has no place.", "Leave one of them out, or use --panel."
        )
    if bars.layout == "diverging" and spread.error_bars != "none":
        raise RequestError("Diverging bars carry no whiskers.", "Use --layout percent or grouped, or leave them out.")
    if bars.show_records and (len(summary.figures) > 1 or not summary.measure):
        raise RequestError("--show-records shows the values of one measure.", "Name it with --measure COLUMN.")
    if bars.show_records and bars.layout in _LUMPED:
        raise ChartError("Records cannot be drawn over stacked bars.", "Use --layout grouped.")
    also = (*_for_labels(summary, bars), *_second(chart))
    whole = bool(chart.second.second_measure and summary.split) or (
        bars.layout in (None, "stacked")
        and spread.error_bars != "none"
        and summary.split is not None
        and summary.names <= {"count", "sum"}
    )
    return replace(
        summary, spread=spread, also=also, series_totals=whole, keep_values=summary.keep_values or bars.show_records
    )


def settled_for_dots(summary: SummaryRequest, chart: ChartRequest) -> SummaryRequest:
    """The summary dots are drawn from: any statistics, split or not.

    Raises:
        RequestError: Options that contradict each other.
    """
    bars = chart.bars
    summary = _swapped(summary) if bars.swap else summary
    if len(summary.figures) > 1 and summary.split:
        raise RequestError("Several figures are series already, so --split has no place.", "Leave one of them out.")
    wanted = summary.comparison.letters or summary.spread.error_bars
    spread = summary.spread if wanted else replace(summary.spread, error_bars="none")
    return replace(summary, spread=spread, also=tuple(_for_labels(summary, bars)), series_totals=False)


def settled_for_pie(summary: SummaryRequest, pie: "PieRequest") -> SummaryRequest:
    """The summary slices are drawn from: counts or sums of one column, with shares for labels.

    Raises:
        RequestError: More than one column or figure.
    """
    if summary.split or len(summary.by) > 1:
        raise RequestError(
            "A pie shows the levels of one column.", "Draw one pie per level with --panel COLUMN, or a treemap."
        )
    return _parts(summary, pie.label)


def settled_for_treemap(summary: SummaryRequest, treemap: "TreemapRequest") -> SummaryRequest:
    """The summary tiles are drawn from: counts or sums, with a figure for their colour.

    Raises:
        RequestError: A split, a panel, or more than one figure.
    """
    if summary.split or summary.panel:
        raise RequestError("A treemap nests columns: outer ones first.", "Repeat --by instead of --split and --panel.")
    settled = _parts(summary, treemap.label)
    if not treemap.color_by:
        return settled
    color = Figure(statistic_named(treemap.color_stat), treemap.color_by, purpose=Purpose.SECOND)
    return replace(settled, also=(*settled.also, color))


def _parts(summary: SummaryRequest, label: str) -> SummaryRequest:
    if len(summary.figures) > 1:
        raise RequestError("Parts of a whole are of one figure.", "Name one --stat and one --measure.")
    if summary.comparison.letters or summary.totals:
        raise RequestError("Totals and comparison letters have no place among parts of a whole.", "Leave them out.")
    if not summary.stat and summary.measure:
        summary = replace(summary, stat=("sum",))
    spread = replace(summary.spread, error_bars="none")
    also = () if summary.value else tuple(_for_labels(summary, BarRequest(label=label)))
    return replace(summary, spread=spread, also=also, series_totals=False)


def single_bar(summary: SummaryRequest, bars: BarRequest) -> bool:
    """Whether the levels of one column are the segments of one bar."""
    return bars.layout in ("stacked", "percent") and not summary.split and len(summary.figures) - len(summary.also) == 1


def _swapped(summary: SummaryRequest) -> SummaryRequest:
    if not summary.split:
        raise RequestError(
            "--swap exchanges --by and --split, but there is no --split.", "Name it with --split COLUMN."
        )
    return replace(summary, by=(*summary.by[:-1], summary.split), split=summary.by[-1])


def _as_layout(summary: SummaryRequest, bars: BarRequest) -> SummaryRequest:
    plain = summary.stat in ((), ("count",), ("share",)) and not summary.measure and not summary.value
    if bars.layout == "percent" and plain:
        return replace(summary, stat=("share",), base="category" if summary.split else summary.base)
    if bars.layout == "diverging" and plain and summary.stat != ("count",):
        return replace(summary, stat=("share",), base=summary.base or "category")
    return summary


def _for_labels(summary: SummaryRequest, bars: BarRequest) -> list[Figure]:
    """Shares and counts that are written at bars which show something else."""
    found = []
    for kind in ("share", "count"):
        if kind not in bars.labels or summary.names == {kind}:
            continue
        if summary.value:
            raise RequestError(f"--label {kind} needs records; --value draws figures as they are.", "Leave it out.")
        measure = summary.measure[0] if kind == "share" and summary.names == {"sum"} else None
        found.append(Figure(STATISTICS[kind], measure, purpose=Purpose.LABEL))
    return found


def _second(chart: ChartRequest) -> list[Figure]:
    second = chart.second
    if not second.second_measure:
        return []
    statistic = statistic_named(second.second_stat)
    measure = second.second_measure if statistic.measured else None
    return [Figure(statistic, measure, purpose=Purpose.SECOND)]
