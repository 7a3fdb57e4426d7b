"""What the value axis of bars has to show and what is written at them, in a picture as in a terminal."""

from math import isnan, nan

from grainstack.chart.bars.bar_arrangement import BarArrangement
from grainstack.chart.chart_requests import AxisRequest
from grainstack.chart.frame.value_axis import AxisNeeds
from grainstack.chart.named_references import with_named_references
from grainstack.chart.writing.figures_at import FiguresAt
from grainstack.requests import Requests


def axis_of(bars: BarArrangement, request: Requests, figures: FiguresAt) -> AxisNeeds:
    """The value axis of bars.

    Args:
        bars: The bars.
        request: The range, ticks and references asked for.
        figures: How figures are written.
    """
    column = bars.cells.column
    low, high = bars.low, bars.high
    if bars.layout == "diverging":
        low, high = min(low, -high), max(high, -low)  # both sides are as long
    return AxisNeeds(
        low=low,
        high=high,
        share=column.is_share,
        percent=column.unit == "%",
        whole=column.figure.statistic.name == "count" and not bars.cells.table.provenance.weighted,
        write=figures.first.style,
        request=with_named_references(request[AxisRequest], bars.cells, figures.first, figures.scale),
        absolute=bars.layout == "diverging",
        continues_to=nan if isnan(bars.apart) else max(bar.end for bar in bars.bars),
    )
