"""Advice on dots, and on any chart of categories and series."""

from grainstack.advice import Advice
from grainstack.chart.cells import ChartCells
from grainstack.language import phrase
from grainstack.requests import Requests
from grainstack.speech import option

MOST_COLORS = 8  # palettes have no ninth colour that colour-blind readers could tell from the others
MOST_BARS = 40  # an eye does not follow more


def advice_on_dots(cells: ChartCells, request: Requests) -> list[Advice]:  # noqa: ARG001 - as every kind
    """More categories or series than an eye can follow."""
    return advice_on_series(cells)


def advice_on_series(cells: ChartCells) -> list[Advice]:
    """More categories or series than an eye can follow."""
    advice = []
    if len(cells.slots) > MOST_BARS:
        text = phrase(
            "{count} categories are more than a chart can show well. Use {fewer}.",
            count=len(cells.slots),
            fewer=option("keep_top", str(MOST_BARS // 2)),
        )
        advice.append(Advice("too-many", text))
    if len(cells.series) > MOST_COLORS:
        text = phrase(
            "{count} series are more than eight colours can tell apart: the others are patterned. "
            "Exchange them with the categories ({swap}), or draw panels ({panel}).",
            count=len(cells.series),
            swap=option("swap"),
            panel=option("panel"),
        )
        advice.append(Advice("too-many", text))
    return advice
