"""Stacks joined from category to category: areas, which break where a figure is missing."""

from collections.abc import Sequence
from itertools import chain, pairwise, product

from msgspec.structs import replace

from grainstack.chart.bars.bar_arrangement import Bar, BarArrangement
from grainstack.chart.cells import Cell
from grainstack.chart.frame.joining import check_order, stretches
from grainstack.chart.frame.plane import Box
from grainstack.chart.frame.plot_needs import Plots
from grainstack.chart.look.color import PAPER
from grainstack.chart.look.inks import Inks
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Area, Line, Mark, MarkRole, Text

_OVER = 0.5  # gaps: between a slope and a figure over it


class Areas:
    """The areas of a chart of stacks; a stack that has no neighbour to join stays a bar.

    Args:
        bars: The stacks.

    Raises:
        ChartError: The categories have no order along which they could be joined.
    """

    def __init__(self, bars: BarArrangement) -> None:
        cells = bars.cells
        check_order(cells)
        of_cell = {_place(bar.cell): bar for bar in bars.bars}
        every = product(range(len(cells.panels)), range(cells.count))
        runs = chain.from_iterable(stretches(cells, *at, stacked=True) for at in every)
        self._cells = cells
        self._runs = [[of_cell[_place(cell)] for cell in run] for run in runs if len(run) > 1]
        self._joined = {_place(bar.cell) for run in self._runs for bar in run}
        self._beside = {
            _place(bar.cell): (before, after)
            for run in self._runs
            for before, bar, after in zip(run, run[1:], run[2:], strict=False)
        }

    def joins(self, bar: Bar) -> bool:
        """Whether a segment is part of an area."""
        return _place(bar.cell) in self._joined

    def has_room(self, bar: Bar) -> bool:
        """Whether the figure of a segment is to be written: at the end of an area, half of its room is missing."""
        return not self.joins(bar) or _place(bar.cell) in self._beside

    def marks(self, plots: Plots, inks: Inks, style: Style) -> list[Mark]:
        """The areas with a thin line of paper between two.

        Args:
            plots: Where they lie.
            inks: Their colours.
            style: Strokes.
        """
        areas: list[Mark] = []
        lines: list[Mark] = []
        for run in self._runs:
            plane = plots.planes[run[0].cell.panel]
            upper = [plane.point(plane.middle(bar.cell.slot), bar.end) for bar in run]
            lower = [plane.point(plane.middle(bar.cell.slot), bar.start) for bar in run]
            ink, key = inks.of(run[0].cell), self._cells.series_key(run[0].cell.series)
            areas.append(Area((*upper, *reversed(lower)), ink.fill, MarkRole.AREA, key, hatch=ink.hatch))
            lines += [Line(*one, *other, PAPER, style.part, MarkRole.PART) for one, other in pairwise(upper)]
        return [*areas, *lines]

    def room_for_figure(self, bar: Bar, plots: Plots, wide: float) -> Box | None:
        """The room of a figure in an area at its category; None where there is none.

        Args:
            bar: The segment.
            plots: Where they lie.
            wide: The width of the figure in points.
        """
        plane = plots.planes[bar.cell.panel]
        middle = plane.middle(bar.cell.slot)
        tops, bottoms = [plane.value(bar.end)], [plane.value(bar.start)]
        for beside in self._beside.get(_place(bar.cell), ()):
            part = min(wide / 2 / abs(plane.middle(beside.cell.slot) - middle), 1.0)
            tops.append(_between(plane.value(bar.end), plane.value(beside.end), part))
            bottoms.append(_between(plane.value(bar.start), plane.value(beside.start), part))
        top, bottom = max(tops), min(bottoms)
        return Box(middle - wide / 2, top, middle + wide / 2, bottom) if self.has_room(bar) and bottom > top else None


def clear_of_slopes(texts: Sequence[Mark], areas: Sequence[Mark], style: Style) -> list[Mark]:
    """The figures over stacks, raised where a slope beside their category would run into them.

    Args:
        texts: The figures.
        areas: The marks of the areas.
        style: The gap that is kept.
    """
    edges = [mark for mark in areas if isinstance(mark, Line)]
    found: list[Mark] = []
    for text in texts:
        if not isinstance(text, Text):
            found.append(text)
            continue
        left, _, right, bottom = text.box
        tops = [y for edge in edges for y in _heights(edge, left, right)]
        over = bottom + style.gap * _OVER - min(tops, default=bottom + style.gap)
        found.append(replace(text, y=text.y - max(over, 0.0)))
    return found


def _heights(edge: Line, left: float, right: float) -> list[float]:
    """The y of an edge at both ends of the part of it that lies between two x; none where no part does."""
    start, end = max(left, edge.x1), min(right, edge.x2)
    if start >= end:
        return []
    return [_between(edge.y1, edge.y2, (x - edge.x1) / (edge.x2 - edge.x1)) for x in (start, end)]


def _between(one: float, other: float, part: float) -> float:
    return one + (other - one) * part


def _place(cell: Cell) -> tuple[int, int, int]:
    return cell.panel, cell.slot, cell.series
