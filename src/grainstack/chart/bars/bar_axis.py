"""What the value axis of bars has to show and what is written at them, in a picture as in a terminal."""

from math import isnan, nan

from grainstack.chart.bars.bar_arrangement import BarArrangement
from grainstack.chart.chart_requests import AxisRequest
from grainstack.chart.frame.value_axis import AxisNeeds
from grainstack.chart.reference_values import reference_values
from grainstack.chart.writing.figures_at import FiguresAt
from grainstack.requests import Requests


def axis_of(bars: BarArrangement, request: Requests, figures: FiguresAt, panel: int | None = None) -> AxisNeeds:
    """The value axis of bars.

    Args:
        bars: The bars.
        request: The range, ticks and references asked for.
        figures: How figures are written.
        panel: The panel it belongs to; None for all of them.
    """
    column = bars.cells.column
    low, high = (bars.low, bars.high) if panel is None else _reach_in(bars, panel)
    if bars.layout == "diverging":
        low, high = min(low, -high), max(high, -low)  # both sides are as long
    return AxisNeeds(
        low=low,
        high=high,
        share=column.is_share,
        percent=column.unit == "%",
        whole=column.figure.statistic.name == "count" and not bars.cells.table.provenance.weighted,
        write=figures.first.style,
        request=request[AxisRequest],
        references=reference_values(request[AxisRequest], bars.cells, figures.first, figures.scale),
        absolute=bars.layout == "diverging",
        continues_to=nan if isnan(bars.apart) else max(bar.end for bar in bars.bars),
    )


def _reach_in(bars: BarArrangement, panel: int) -> tuple[float, float]:
    """The lowest and the highest value of the bars of a panel, with zero."""
    values = [0.0, *(end for bar in bars.bars if bar.cell.panel == panel for end in (bar.reach_low, bar.reach_high))]
    for total in bars.totals:
        values += [one for one in (total.at, total.low, total.high) if total.panel == panel and not isnan(one)]
    low, high = min(values), max(values)
    return low, 1.0 if bars.layout == "percent" else high if high > low else low + 1.0
