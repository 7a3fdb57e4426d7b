"""Dots in data units: the figures of a table as they are, on one axis."""

from grainstack.chart.bars.bar_arrangement import check_same_unit
from grainstack.chart.cells import ChartCells, chart_cells
from grainstack.chart.dots.dot_request import DotRequest
from grainstack.errors import ChartError
from grainstack.option_names import command
from grainstack.requests import Requests
from grainstack.summary.table import SummaryTable


def arranged_dots(table: SummaryTable, *, swapped: bool = False) -> ChartCells:
    """The cells of a table as dots.

    Args:
        table: The table.
        swapped: Whether figures are the categories, and the categories the series.

    Raises:
        ChartError: There is nothing to draw, or figures with different units are to share an axis.
    """
    cells = chart_cells(table, swapped=swapped)
    check_same_unit(cells.columns)
    if not any(cell.known for cell in cells.cells):
        raise ChartError("No category has a figure to draw.", f"Look at the table: {command('table')}.")
    return cells


def dots_of(table: SummaryTable, requests: Requests) -> ChartCells:
    """The dots of a table as a request wants them; raises as `arranged_dots`."""
    return arranged_dots(table, swapped=requests[DotRequest].swap)
