"""What lies behind a mean: the numbers of boxes, and the bands of histograms."""

import numpy as np

from grainstack.chart.cells import Cell, ChartCells, chart_cells
from grainstack.errors import ChartError, RequestError
from grainstack.quick import dataclass
from grainstack.records.readers.widths import auto_width
from grainstack.speech import command, option
from grainstack.summary.figures.quantiles import Counted, quantile
from grainstack.summary.sums.exact import Floats
from grainstack.summary.table import SummaryTable

MOST_BANDS = 200  # thinner bands than this are lines


@dataclass(frozen=True, slots=True)
class BoxOf:
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


@dataclass(frozen=True, slots=True)
class Distribution:
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
        reach = 1.5 * (upper - lower)
        inside = values[(values >= lower - reach) & (values <= upper + reach)]
        low, high = (float(inside[0]), float(inside[-1])) if len(inside) else (lower, upper)
        beyond = (values < low) | (values > high)
        outliers = tuple(np.repeat(values[beyond], records[beyond]).tolist())
        found.append(BoxOf(cell, lower, median, upper, min(low, lower), max(high, upper), outliers))
    return found


def edges_of(distribution: Distribution, wanted: str | None) -> Floats:
    """The edges of the bands of a histogram, the same for all cells.

    Args:
        distribution: The values.
        wanted: A width, a list of edges, or None to choose a round width by the rule of Freedman and Diaconis.

    Raises:
        RequestError: The bands cannot be read, are too many, or leave values out.
    """
    low, high = distribution.extent
    numbers = []
    if wanted and wanted != "auto":
        try:
            numbers = [float(part) for part in wanted.split(",")]
        except ValueError:
            raise RequestError(
                f"{option('band')} {wanted} cannot be read.", "Give a width, or rising edges: 0,10,20."
            ) from None
    if len(numbers) > 1:
        edges = np.array(numbers)
        if (np.diff(edges) <= 0).any():
            raise RequestError(f"The edges of {option('band')} {wanted} overlap.", "Give rising edges, each once.")
        if low < edges[0] or high > edges[-1]:
            outside = low if low < edges[0] else high
            raise RequestError(
                f"{option('band')} {wanted} leaves values out, such as {outside:g}.", "Widen the outer edges."
            )
        return edges
    width = numbers[0] if numbers else _chosen_width(distribution)
    if width <= 0:
        raise RequestError(f"The width of {option('band')} {wanted} must be above 0.", "Give a positive number.")
    first = np.floor(low / width + 1e-9)
    last = max(np.floor(high / width + 1e-9) + 1, first + 1)
    if last - first > MOST_BANDS:
        raise RequestError(
            f"{option('band')} {width:g} makes {int(last - first):,} bands.", f"Choose at most {MOST_BANDS}."
        )
    return np.asarray(np.arange(first, last + 1) * width, dtype=np.float64)


def heights_of(counted: Counted, edges: Floats) -> Floats:
    """The share of a cell's weight in each band per unit of its width, shape (bands,): areas add to 1.

    Args:
        counted: Values, rising, with their records and weights, shape (values,) each.
        edges: The edges of the bands, rising, shape (bands + 1,).
    """
    values, _, weights = counted
    if not len(values):
        return np.zeros(len(edges) - 1)
    place = np.clip(np.searchsorted(edges, values, side="right") - 1, 0, len(edges) - 2)
    sums = np.bincount(place, weights, len(edges) - 1)
    return np.asarray(sums / sums.sum() / np.diff(edges))


def _chosen_width(distribution: Distribution) -> float:
    """One width for all cells, from all values together, never more than the most bands allowed."""
    values = np.concatenate([values for values, _, _ in distribution.values])
    counts = np.concatenate([records for _, records, _ in distribution.values])
    different, back = np.unique(values, return_inverse=True)
    width = auto_width(different, np.bincount(back, counts))
    low, high = distribution.extent
    while (high - low) / width > MOST_BANDS - 2:
        width *= 2
    return width


def rounded_extent(distribution: Distribution) -> tuple[float, float]:
    """The range of the values, from zero where they start near it."""
    low, high = distribution.extent
    if 0 <= low <= 0.35 * high or low == high >= 0:
        return 0.0, high
    return (low, 0.0) if 0.35 * low <= high <= 0 else (low, high)
