"""Distributions for a terminal: one row of characters per category and series."""

from collections.abc import Callable

import numpy as np

from grainstack.chart.cells import Cell
from grainstack.chart.chart_requests import AxisRequest, NumbersRequest
from grainstack.chart.distributions.bands import Bands, bands_of
from grainstack.chart.distributions.box_picture import axis_of
from grainstack.chart.distributions.distribution_arrangement import Distribution, boxes_of
from grainstack.chart.distributions.distribution_notes import distribution_notes, histogram_notes
from grainstack.chart.distributions.distribution_request import DistributionRequest
from grainstack.chart.frame.record_dots import record_dots
from grainstack.chart.frame.value_axis import axis_span
from grainstack.chart.terminal.screen import Screen
from grainstack.chart.terminal.terminal_rows import RowChart, Track
from grainstack.chart.writing.figures import figures_of
from grainstack.chart.writing.wording import words_of_distribution
from grainstack.language import marked
from grainstack.requests import Requests
from grainstack.summary.sums.exact import Floats

_EIGHTHS = " ▁▂▃▄▅▆▇█"
_DENSITIES = " ·∶⁖⁘●"  # from no record in a column to many
_KINDS = {"box": marked("Box plot"), "points": marked("Dots of records"), "histogram": marked("Histogram")}


def distribution_rows(distribution: Distribution, request: Requests, columns: int) -> Screen:
    """Distributions as rows of characters: boxes, points as dense as the records, or bands as columns of eighths.

    Args:
        distribution: The values.
        request: Form, words, axis and colours.
        columns: The width of the terminal.

    Raises:
        RequestError: Bands that cannot be used.
    """
    form = request[DistributionRequest].form
    request = words_of_distribution(distribution.cells.table, request)
    if form == "histogram":
        bands = bands_of(distribution, request)
        style = figures_of(distribution.cells.column, numbers=request[NumbersRequest]).style
        chart = RowChart(distribution.cells, request, columns, histogram_notes(bands, style, lines=False))
        track = chart.track(float(bands.edges[0]), float(bands.edges[-1]))
        line, references, ends = _banded(distribution, bands, track), request[AxisRequest].references, bands.ends(style)
    else:
        dots = record_dots(distribution.values) if form == "points" else None
        chart = RowChart(distribution.cells, request, columns, distribution_notes(distribution, request, dots))
        axis = axis_of(distribution, request)
        track = chart.track(*axis_span(axis))
        line = _boxed(distribution, track) if form == "box" else _dotted(distribution, track)
        references = axis.references
        low, high = (chart.figures.first.number(value) for value in (track.low, track.high))
        ends = low, high
    chart.write(line, track, references, ends)
    return chart.finished(_KINDS[form])


def _boxed(distribution: Distribution, track: Track) -> Callable[[Cell], str]:
    boxes = {box.cell.row: box for box in boxes_of(distribution)}
    at = track.column

    def line(cell: Cell) -> str:
        one = boxes[cell.row]
        row = [" "] * int(track.width)
        for value in one.outliers:
            row[at(value)] = "·"
        row[at(one.low) : at(one.high) + 1] = ["─"] * (at(one.high) - at(one.low) + 1)
        row[at(one.low)], row[at(one.high)] = "├", "┤"
        row[at(one.lower) : at(one.upper) + 1] = ["▒"] * (at(one.upper) - at(one.lower) + 1)
        row[at(one.median)] = "┃"
        row[at(cell.estimate)] = "○" if at(cell.estimate) != at(one.median) else "◉"
        return "".join(row)

    return line


def _dotted(distribution: Distribution, track: Track) -> Callable[[Cell], str]:
    """Points by how many records stand in a column, on one scale for all rows; the mean as an upright line."""
    counts = {}
    for cell, (values, records, _) in zip(distribution.cells.cells, distribution.values, strict=True):
        columns = np.array([track.column(value) for value in values.tolist()], dtype=np.int64)
        counts[cell.row] = np.bincount(columns, records, int(track.width)).astype(np.int64)
    most = max(int(one.max(initial=0)) for one in counts.values())
    steps = len(_DENSITIES) - 1

    def line(cell: Cell) -> str:
        densities = [-(-n * steps // max(most, 1)) for n in counts[cell.row].tolist()]
        row = [_DENSITIES[step] for step in densities]
        row[track.column(cell.estimate)] = "│"
        return "".join(row)

    return line


def _banded(distribution: Distribution, bands: Bands, track: Track) -> Callable[[Cell], str]:
    """Bands as columns of eighths: each as wide as in values, several in one column where they are narrower than it."""
    heights = {
        cell.row: histogram_columns(
            one / (1.0 if bands.stat == "density" else np.diff(bands.edges)), bands.edges, int(track.width)
        )
        for cell, one in zip(distribution.cells.cells, bands.heights, strict=True)
    }

    def line(cell: Cell) -> str:
        own = heights[cell.row]
        top = max(float(own.max(initial=0.0)), 1e-300)
        eighths = [8 if height == top else int(height / top * 8) for height in own.tolist()]
        return "".join(_EIGHTHS[max(n, 1 if height else 0)] for n, height in zip(eighths, own.tolist(), strict=True))

    return line


def histogram_columns(densities: Floats, edges: Floats, width: int) -> Floats:
    """The height of each character column, shape (width,): a share per unit, as of the bands.

    Bands end between columns; where some are narrower than a column, each column holds the parts of bands within it.

    Args:
        densities: The share of each band per unit of its width, shape (bands,).
        edges: The edges of the bands, shape (bands + 1,); they fill the columns from end to end.
        width: How many columns there are.
    """
    widths = np.diff(edges)
    unit = float(edges[-1] - edges[0]) / width
    if widths.min() >= unit:
        ends = np.floor((edges - edges[0]) / unit + 0.5).astype(np.int64)
        return np.repeat(densities, np.diff(ends))
    reach = np.concatenate([[0.0], np.cumsum(densities * widths)])
    return np.asarray(np.diff(np.interp(np.linspace(edges[0], edges[-1], width + 1), edges, reach)) / unit)
