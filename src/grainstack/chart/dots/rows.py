"""Dots for a terminal: a row per category and series with a stem, a dot and the ends of its whisker."""

from grainstack.chart.cells import Cell, ChartCells
from grainstack.chart.dots.picture import axis_of, dot_notes
from grainstack.chart.dots.request import DotRequest
from grainstack.chart.frame.row_chart import RowChart
from grainstack.chart.frame.value_axis import axis_references, axis_span
from grainstack.chart.screen import Screen
from grainstack.language import marked
from grainstack.requests import Requests


def dot_rows(cells: ChartCells, request: Requests, columns: int) -> Screen:
    """Dots as rows of characters.

    Args:
        cells: The figures.
        request: Labels, words, axis and colours.
        columns: The width of the terminal.
    """
    chart = RowChart(cells, request, columns, dot_notes(cells, request), request[DotRequest].labels)
    axis = axis_of(cells, request, chart.figures)
    track = chart.track(*axis_span(axis))

    def line(cell: Cell) -> str:
        at = track.column(cell.estimate)
        row = list("─" * at + " " * (int(track.width) - at))
        if cell.has_spread:
            first, last = track.column(cell.low), track.column(cell.high)
            row[first : last + 1] = list("├" + "─" * max(last - first - 1, 0) + "┤")[: last - first + 1]
        row[at] = "●"
        return "".join(row[: int(track.width)])

    chart.write(line, track, axis_references(axis))
    return chart.finished(marked("Dot chart"))
