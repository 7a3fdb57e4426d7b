"""Distributions for a terminal: one row of characters per category and series."""

from collections.abc import Callable

import numpy as np

from grainstack.chart.cells import Cell
from grainstack.chart.distributions.arrangement import Distribution, boxes_of, heights_of
from grainstack.chart.distributions.histogram import bands_of, histogram_notes
from grainstack.chart.distributions.picture import axis_of, distribution_notes
from grainstack.chart.distributions.request import DistributionRequest
from grainstack.chart.frame.row_chart import RowChart
from grainstack.chart.frame.rows import Track
from grainstack.chart.frame.value_axis import axis_references, axis_span
from grainstack.chart.request import AxisRequest
from grainstack.chart.screen import Screen
from grainstack.chart.writing.wording import words_of_distribution
from grainstack.requests import Requests
from grainstack.summary.sums.exact import Floats, Integers

_EIGHTHS = " ▁▂▃▄▅▆▇█"
_DENSITIES = " ·∶⁖⁘●"  # from no record in a column to many
_KINDS = {"box": "Box plot", "points": "Dots of records", "histogram": "Histogram"}


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
    histogram = form == "histogram"
    bands = bands_of(distribution, request) if histogram and request[DistributionRequest].bands else None
    notes = histogram_notes(bands) if bands else distribution_notes(distribution, request)
    chart = RowChart(distribution.cells, request, columns, notes)
    axis = axis_of(distribution, request)
    low, high = axis_span(axis) if bands is None else (float(bands.edges[0]), float(bands.edges[-1]))
    track = chart.track(low, high)
    if histogram:
        edges = np.linspace(low, high, int(track.width) + 1) if bands is None else bands.edges
        line = _banded(distribution, edges, track)
    else:
        line = _boxed(distribution, track) if form == "box" else _dotted(distribution, track)
    references = request[AxisRequest].references if histogram else axis_references(axis)
    chart.write(line, track, references, ends=True)
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


def _banded(distribution: Distribution, edges: Floats, track: Track) -> Callable[[Cell], str]:
    """Bands as columns of eighths, each as wide as its band is in values."""
    heights = {
        cell.row: _within(values, records, weights, edges)
        for cell, (values, records, weights) in zip(distribution.cells.cells, distribution.values, strict=True)
    }
    width = int(track.width)
    middles = track.low + (np.arange(width) + 0.5) * (track.high - track.low) / width
    band = np.clip(np.searchsorted(edges, middles, side="right") - 1, 0, len(edges) - 2)

    def line(cell: Cell) -> str:
        own = heights[cell.row]
        top = max(float(own.max(initial=0.0)), 1e-300)
        eighths = [8 if height == top else int(height / top * 8) for height in own.tolist()]
        blocks = [_EIGHTHS[max(n, 1 if height else 0)] for n, height in zip(eighths, own.tolist(), strict=True)]
        return "".join(blocks[place] for place in band.tolist())

    return line


def _within(values: Floats, records: Integers, weights: Floats, edges: Floats) -> Floats:
    """The heights of the bands shown; values beyond them are left out."""
    inside = (values >= edges[0]) & (values <= edges[-1])
    return heights_of((values[inside], records[inside], weights[inside]), edges)
