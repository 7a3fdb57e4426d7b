"""What lies behind a mean, and the numbers of boxes."""

import numpy as np
from msgspec import Struct

from grainstack.chart.cells import Cell, ChartCells, chart_cells
from grainstack.chart.frame.ticks import from_zero
from grainstack.errors import ChartError
from grainstack.option_names import command
from grainstack.requests import Requests
from grainstack.summary.figures.quantiles import Counted, quantile
from grainstack.summary.table import SummaryTable

_FENCE = 1.5  # of the box: values further off are shown by themselves (Tukey 1977)


class BoxOf(Struct, frozen=True):
    """The box of one cell (Tukey 1977, Exploratory data analysis, chapter 2).

    Attributes:
        cell: The cell, whose figure is the mean.
        lower: The lower quartile; likewise `median` and `upper`.
        median: Half of the records lie below it.
        upper: The upper quartile.
        low: The lowest value no further than 1.5 quartile ranges below the lower quartile.
        high: The highest value no further than that above the upper one.
        outliers: The values beyond, each as often as it occurs.
    """

    cell: Cell
    lower: float
    median: float
    upper: float
    low: float
    high: float
    outliers: tuple[float, ...]


class Distribution(Struct, frozen=True):
    """The distributions of a chart.

    Attributes:
        cells: The means with their categories, series and panels.
        values: The different values of each of those cells, with records and weights.
        weighted: Whether records weigh differently.
    """

    cells: ChartCells
    values: tuple[Counted, ...]
    weighted: bool

    @property
    def extent(self) -> tuple[float, float]:
        """The lowest and the highest value."""
        ends = [(float(one[0]), float(one[-1])) for one, _, _ in self.values if len(one)]
        return min(low for low, _ in ends), max(high for _, high in ends)


def distribution_of(table: SummaryTable) -> Distribution:
    """The distributions behind a table of means.

    Raises:
        ChartError: There is no value to show.
    """
    cells = chart_cells(table)
    [values] = table.values.values()
    own = tuple(values[cell.row] for cell in cells.cells)
    if not any(len(one) for one, _, _ in own):
        raise ChartError("There is no value to show.", f"Look at the table: {command('table')}.")
    return Distribution(cells, own, table.provenance.weighted)


def boxes_of(distribution: Distribution) -> list[BoxOf]:
    """The boxes of all cells that have records."""
    found = []
    for cell, counted in zip(distribution.cells.cells, distribution.values, strict=True):
        values, records, _ = counted
        if not len(values):
            continue
        lower, median, upper = (quantile(counted, part, weighted=distribution.weighted) for part in (0.25, 0.5, 0.75))
        reach = _FENCE * (upper - lower)
        inside = values[(values >= lower - reach) & (values <= upper + reach)]
        low, high = (float(inside[0]), float(inside[-1])) if len(inside) else (lower, upper)
        outside = (values < low) | (values > high)
        outliers = tuple(np.repeat(values[outside], records[outside]).tolist())
        found.append(BoxOf(cell, lower, median, upper, min(low, lower), max(high, upper), outliers))
    return found


def rounded_extent(distribution: Distribution) -> tuple[float, float]:
    """The range of the values, from zero where they start near it."""
    return from_zero(*distribution.extent)


def arrange_distribution(table: SummaryTable, requests: Requests) -> Distribution:  # noqa: ARG001 - as every kind
    """The distribution of a table; raises as `distribution_of`."""
    return distribution_of(table)
