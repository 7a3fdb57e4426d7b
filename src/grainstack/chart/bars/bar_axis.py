"""What the value axis of bars has to show and what is written at them, in a picture as in a terminal."""

from math import isnan, nan

from grainstack.chart.bars.bar_arrangement import BarArrangement
from grainstack.chart.bars.bar_request import BarRequest
from grainstack.chart.chart_requests import AxisRequest
from grainstack.chart.frame.value_axis import AxisNeeds
from grainstack.chart.writing.figures_at import FiguresAt
from grainstack.requests import Requests
from grainstack.summary.summary_request import Purpose


def axis_of(bars: BarArrangement, request: Requests, figures: FiguresAt) -> AxisNeeds:
    """The value axis of bars.

    Args:
        bars: The bars.
        request: The range, ticks and references asked for.
        figures: How figures are written.
    """
    column = bars.cells.column
    return AxisNeeds(
        low=bars.low,
        high=bars.high,
        share=column.is_share,
        percent=column.unit == "%",
        whole=column.figure.statistic.name == "count" and not bars.cells.table.provenance.weighted,
        write=figures.first.style,
        request=request[AxisRequest],
        absolute=bars.layout == "diverging",
        continues_to=nan if isnan(bars.apart) else max(bar.end for bar in bars.bars),
    )


def labels_at(arrangement: BarArrangement, bars: BarRequest) -> tuple[str, ...]:
    """What is written at bars: what was asked for; beside a second measure nothing that was not."""
    second = arrangement.cells.table.column_for(Purpose.SECOND) is not None
    return () if second and bars.label is None else bars.labels
