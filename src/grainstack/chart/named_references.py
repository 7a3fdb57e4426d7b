"""Reference lines at figures of the chart itself: the bar of a level, or the mean, so that nobody types a figure."""

import numpy as np
from msgspec.structs import replace

from grainstack.chart.cells import ChartCells
from grainstack.chart.chart_requests import MEAN, AxisRequest
from grainstack.chart.writing.figures import Figures
from grainstack.errors import RequestError, nearest
from grainstack.language import phrase
from grainstack.option_names import option


def with_named_references(request: AxisRequest, cells: ChartCells, figures: Figures, scale: float) -> AxisRequest:
    """What is asked of the axis, with a number in the place of each figure that is named.

    Args:
        request: What is asked.
        cells: The figures of the chart.
        figures: How they are written.
        scale: What a figure is multiplied by on the axis.

    Raises:
        RequestError: A level that is not shown or is no bar alone, or figures that have no mean.
    """
    if not request.named_references:
        return request
    plain = [text for text in request.reference if not request.is_named(text)]
    named = []
    for name, label in request.named_references:
        value, words = _mean(cells) if name == MEAN else (_of_level(name, cells), name)
        named.append(f"{value * scale!r}={label or f'{words}: {figures.number(value)}'}")
    return replace(request, reference=(*plain, *named))


def _of_level(name: str, cells: ChartCells) -> float:
    """The figure of a category."""
    fitting = [cell for cell in cells.cells if name in cells.slots[cell.slot].labels and cell.known]
    if len(fitting) > 1:
        raise RequestError(
            f"{option('reference')} {name}: there are {len(fitting)} figures of it.", "Name a value, such as 12=Target."
        )
    if not fitting:
        every = [MEAN, *(label for slot in cells.slots for label in slot.labels)]
        raise RequestError(f"{option('reference')}: no figure of `{name}` is shown.", nearest(name, every))
    return fitting[0].estimate


def _mean(cells: ChartCells) -> tuple[float, str]:
    """The mean of all records that are shown, for means; of counts, sums and given figures that of the bars."""
    table, column = cells.table, cells.column
    statistic = column.figure.statistic.name
    shown = (table.keys < [dimension.plain for dimension in table.dimensions]).all(axis=1) & ~np.isnan(column.estimate)
    several = any(dimension.several for dimension in table.dimensions)
    if len(cells.columns) > 1 or several or statistic not in (MEAN, "count", "sum", "value") or not shown.any():
        raise RequestError(
            f"{option('reference')} {MEAN} is of means, counts or sums.", "Name a value, such as 12=Target, or a level."
        )
    if statistic != MEAN:
        return float(column.estimate[shown].mean()), phrase("mean of the bars")
    weights = column.weighted_base if len(column.weighted_base) else np.full(len(shown), np.nan)
    weights = np.where(np.isnan(weights), column.base, weights)[shown]
    return float(np.average(column.estimate[shown], weights=weights)), phrase("mean of all")
