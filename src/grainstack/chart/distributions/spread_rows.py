"""What a distribution shows, as rows: the quartiles of boxes and points, the bands of histograms."""

from collections.abc import Iterator, Mapping

from grainstack.chart.chart_requests import NumbersRequest
from grainstack.chart.distributions.bands import Bands, bands_of
from grainstack.chart.distributions.distribution_arrangement import Distribution, boxes_of
from grainstack.chart.distributions.distribution_request import DistributionRequest
from grainstack.chart.writing.figures import Figures, figures_of
from grainstack.chart.writing.numbers import PERCENT, NumberStyle, number_style
from grainstack.language import phrase
from grainstack.requests import Requests
from grainstack.summary.table import Flag

Row = Mapping[str, tuple[str | float, str]]  # by column: the figure, or a label, and how it is written


def spread_rows(distribution: Distribution, request: Requests) -> list[Row]:
    """A row for each box or heap of points, or for each band of each histogram; none for cells that are hidden.

    Args:
        distribution: The values of each cell.
        request: What was asked for.
    """
    figures = figures_of(distribution.cells.column, numbers=request[NumbersRequest])
    if request[DistributionRequest].form == "histogram":
        return list(_of_bands(distribution, bands_of(distribution, request), figures))
    return list(_of_boxes(distribution, figures))


def _of_boxes(distribution: Distribution, figures: Figures) -> Iterator[Row]:
    for box in boxes_of(distribution):
        if Flag.HIDDEN in box.cell.flags:
            continue
        ends = (min([box.low, *box.outliers]), max([box.high, *box.outliers]))
        numbers = {
            phrase("lowest"): ends[0],
            phrase("lower quartile"): box.lower,
            phrase("median"): box.median,
            phrase("upper quartile"): box.upper,
            phrase("highest"): ends[1],
            phrase("mean"): box.cell.estimate,
        }
        yield {
            **_labels(distribution, box.cell.row),
            phrase("n"): _count(box.cell.base),
            **{name: (value, figures.number(value)) for name, value in numbers.items()},
            phrase("outliers"): _count(len(box.outliers)),
        }


def _of_bands(distribution: Distribution, bands: Bands, figures: Figures) -> Iterator[Row]:
    names = {"count": phrase("records"), "share": phrase("share"), "density": phrase("share per unit")}
    for cell, heights in zip(distribution.cells.cells, bands.heights, strict=True):
        if Flag.HIDDEN in cell.flags:
            continue
        for band, height in enumerate(heights.tolist()):
            name = bands.name(band, figures.style)
            written = number_style([height])(height) if bands.stat == "count" else f"{NumberStyle(PERCENT)(height)} %"
            yield {
                **_labels(distribution, cell.row),
                phrase("band"): (name, name),
                names[bands.stat]: (height, written),
            }


def _labels(distribution: Distribution, cell: int) -> Row:
    """The labels of the levels a cell stands for, by their columns."""
    table = distribution.cells.table
    pairs = zip(table.dimensions, table.levels_of(cell), strict=True)
    return {one.variable.label: (level.label, level.label) for one, level in pairs}


def _count(number: int) -> tuple[float, str]:
    return number, number_style([number])(number)
