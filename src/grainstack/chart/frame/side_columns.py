"""Columns of figures beside lying bars: nets of their series, and means over all of them."""

from collections.abc import Sequence

from msgspec import Struct

from grainstack.chart.cells import ChartCells
from grainstack.chart.chart_requests import NumbersRequest, WordsRequest
from grainstack.chart.frame.plane import Plane
from grainstack.chart.look.color import INK
from grainstack.chart.look.palette import MUTED
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Anchor, Mark, MarkRole, Text
from grainstack.chart.writing.figures import Figures, figures_of
from grainstack.chart.writing.signs import drawn_signs
from grainstack.chart.writing.text import shortened, width
from grainstack.requests import Requests
from grainstack.summary.summary_request import Purpose
from grainstack.summary.table import Column, Flag

_MOST_HEADING = 9.0  # type sizes: a name of two or three words
_APART = 2.5  # gaps: between two columns
_HEADING_ABOVE = 0.6  # gaps: between a heading and the plot
_MIDLINE = 0.36  # of the type size: where figures stand in the middle of their bar


class SideColumn(Struct, frozen=True):
    """A column of figures beside the bars.

    Attributes:
        heading: What they are.
        texts: The figure of each category, panel by panel.
    """

    heading: str
    texts: tuple[tuple[str, ...], ...]


def side_columns_of(cells: ChartCells, request: Requests) -> tuple[SideColumn, ...]:
    """What stands beside the bars of a chart: each net of its series, then figures over all series.

    Args:
        cells: The figures of the chart.
        request: How numbers are written.
    """
    words = request[WordsRequest]
    rows = [[cells.stack(panel, slot)[0].row for slot in range(len(cells.slots))] for panel in range(len(cells.panels))]

    def aside(heading: str, column: Column, figures: Figures, shift: int = 0) -> SideColumn:
        def text(row: int) -> str:
            return (figures.text(row) or "–") + drawn_signs(Flag(int(column.flags[row])), words)

        return SideColumn(heading, tuple(tuple(text(row + shift) for row in panel) for panel in rows))

    numbers, found = request[NumbersRequest], []
    dimension = cells.table.series
    if dimension is not None and dimension.nets:
        first = figures_of(cells.column, numbers=numbers)
        nets = range(dimension.plain, dimension.plain + len(dimension.nets))
        found += [aside(dimension.levels[place].label, cells.column, first, place) for place in nets]
    plain = NumbersRequest(locale=numbers.locale)  # a pattern is for the figures of the bars
    for column in cells.table.columns:
        if column.figure.purpose is Purpose.BESIDE:
            found.append(aside(column.figure.statistic.name_in_words, column, figures_of(column, numbers=plain)))
    return tuple(found)


def side_widths(side_columns: Sequence[SideColumn], style: Style) -> list[float]:
    """The room of each column in points."""
    found = []
    for one in side_columns:
        heading = width(shortened(one.heading, style.tick, style.tick * _MOST_HEADING), style.tick)
        figures = max((width(text, style.value) for panel in one.texts for text in panel), default=0.0)
        found.append(max(heading, figures) + style.gap * _APART)
    return found


def side_marks(side_columns: Sequence[SideColumn], panel: int, plane: Plane, style: Style) -> list[Mark]:
    """The figures at the middle of each category, right of the plot, under their headings.

    Args:
        side_columns: The columns.
        panel: Which panel.
        plane: Where its plot lies.
        style: Sizes.
    """
    marks: list[Mark] = []
    right = plane.frame.right
    for one, room in zip(side_columns, side_widths(side_columns, style), strict=True):
        right += room
        heading = shortened(one.heading, style.tick, style.tick * _MOST_HEADING)
        tip = one.heading if heading != one.heading else ""
        wide = width(heading, style.tick)
        y = plane.frame.top - style.gap * _HEADING_ABOVE
        marks.append(
            Text(right, y, heading, style.tick, wide, MUTED, MarkRole.ASIDE_HEADING, anchor=Anchor.END, tip=tip)
        )
        for slot, text in enumerate(one.texts[panel]):
            baseline = plane.middle(slot) + style.value * _MIDLINE
            marks.append(
                Text(
                    right, baseline, text, style.value, width(text, style.value), INK, MarkRole.ASIDE, anchor=Anchor.END
                )
            )
    return marks
