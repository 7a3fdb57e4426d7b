"""Advice on dots, and on any chart of categories and series."""

from grainstack.advice import Advice
from grainstack.chart.cells import ChartCells
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
        text = f"{len(cells.slots)} categories are more than a chart can show well."
        advice.append(Advice("too-many", f"{text} Use {option('keep_top', str(MOST_BARS // 2))}."))
    if len(cells.series) > MOST_COLORS:
        text = (
            f"{len(cells.series)} series are more than eight colours can tell apart: the others are patterned. "
            f"Exchange them with the categories ({option('swap')}), or draw panels ({option('panel')})."
        )
        advice.append(Advice("too-many", text))
    return advice
