"""Where reference lines stand: at numbers, or at figures of the chart itself, so that nobody types a figure."""

from grainstack.chart.cells import ChartCells
from grainstack.chart.chart_requests import MEAN, AxisRequest
from grainstack.chart.writing.figures import Figures
from grainstack.errors import RequestError, nearest
from grainstack.language import phrase
from grainstack.option_names import option
from grainstack.summary.mean_of_cells import MeanOf, mean_of_cells


def reference_values(
    request: AxisRequest, cells: ChartCells, figures: Figures, scale: float
) -> tuple[tuple[float, str], ...]:
    """The values of reference lines in the unit of the estimates, with their labels, which may be empty.

    Args:
        request: The numbers, levels and means asked for.
        cells: The figures of the chart.
        figures: How they are written.
        scale: What a figure is multiplied by on the axis.

    Raises:
        RequestError: A level that is not shown or is no bar alone, or figures that have no mean.
    """
    given = [(value / scale, label) for value, label in request.references]
    named = []
    for name, label in request.named_references:
        value, words = _mean(cells) if name == MEAN else (_of_level(name, cells), name)
        named.append((value, label or f"{words}: {figures.number(value)}"))
    return (*given, *named)


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
    """The mean of the figures, and what it is."""
    found = mean_of_cells(cells.table, cells.column) if len(cells.columns) == 1 else None
    if found is None:
        raise RequestError(
            f"{option('reference')} {MEAN} is of means, counts or sums.", "Name a value, such as 12=Target, or a level."
        )
    words = {
        MeanOf.BARS: phrase("mean of the bars"),
        MeanOf.ALL: phrase("mean of all"),
        MeanOf.SHOWN: phrase("mean of all shown"),
    }
    return found[0], words[found[1]]
