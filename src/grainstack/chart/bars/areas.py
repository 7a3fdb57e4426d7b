"""Stacks joined from category to category: areas, which break where nothing was recorded."""

from collections.abc import Sequence
from itertools import pairwise

from msgspec.structs import replace

from grainstack.chart.bars.bar_arrangement import Bar, BarArrangement
from grainstack.chart.frame.joining import is_gap
from grainstack.chart.frame.plane import Box
from grainstack.chart.frame.plot_needs import Plots
from grainstack.chart.look.color import PAPER
from grainstack.chart.look.inks import Inks
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Area, Line, Mark, MarkRole, Text

_OVER = 0.5  # gaps: between a slope and a figure over it


def runs(bars: BarArrangement, panel: int, series: int) -> list[list[Bar]]:
    """The segments of a series in each stretch of categories without a gap between them.

    Args:
        bars: The bars.
        panel: The panel.
        series: The series.
    """
    slots = bars.cells.slots
    found: list[list[Bar]] = [[]]
    for bar in bars.bars:
        if (bar.cell.panel, bar.cell.series) != (panel, series):
            continue
        before = found[-1][-1] if found[-1] else None
        follows = before is not None and slots[before.cell.slot].group == slots[bar.cell.slot].group
        if is_gap(bar.cell, bars.cells) or (before is not None and not follows):
            found.append([])
        if not is_gap(bar.cell, bars.cells):
            found[-1].append(bar)
    return [run for run in found if run]


def area_marks(bars: BarArrangement, plots: Plots, inks: Inks, style: Style) -> list[Mark]:
    """The areas with a thin line of paper between two.

    Args:
        bars: The stacks.
        plots: Where they lie.
        inks: Their colours.
        style: Strokes.
    """
    areas: list[Mark] = []
    lines: list[Mark] = []
    for panel, plane in enumerate(plots.planes):
        for series in range(bars.cells.count):
            for run in runs(bars, panel, series):
                upper = [plane.point(plane.middle(bar.cell.slot), bar.end) for bar in run]
                lower = [plane.point(plane.middle(bar.cell.slot), bar.start) for bar in run]
                ink, key = inks.of(run[0].cell), bars.cells.series_key(series)
                if len(run) > 1:
                    areas.append(Area((*upper, *reversed(lower)), ink.fill, MarkRole.AREA, key, hatch=ink.hatch))
                    lines += [Line(*one, *other, PAPER, style.part, MarkRole.PART) for one, other in pairwise(upper)]
    return [*areas, *lines]


def clear_of_slopes(texts: Sequence[Mark], areas: Sequence[Mark], style: Style) -> list[Mark]:
    """The figures over stacks, raised where a slope beside their category would run into them.

    Args:
        texts: The figures.
        areas: What `area_marks` gave.
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


def room_for_figure(bars: BarArrangement, bar: Bar, plots: Plots, wide: float) -> Box | None:
    """The room of a figure in an area at its category; None at the ends of a stretch, where half of it is missing.

    Args:
        bars: The stacks.
        bar: The segment.
        plots: Where they lie.
        wide: The width of the figure in points.
    """
    run = next((run for run in runs(bars, bar.cell.panel, bar.cell.series) if bar in run[1:-1]), None)
    if run is None:
        return None
    at, plane = run.index(bar), plots.planes[bar.cell.panel]
    middle = plane.middle(bar.cell.slot)
    tops, bottoms = [plane.value(bar.end)], [plane.value(bar.start)]
    for beside in (run[at - 1], run[at + 1]):
        part = min(wide / 2 / abs(plane.middle(beside.cell.slot) - middle), 1.0)
        tops.append(_between(plane.value(bar.end), plane.value(beside.end), part))
        bottoms.append(_between(plane.value(bar.start), plane.value(beside.start), part))
    top, bottom = max(tops), min(bottoms)
    return Box(middle - wide / 2, top, middle + wide / 2, bottom) if bottom > top else None


def _between(one: float, other: float, part: float) -> float:
    return one + (other - one) * part


def is_written(bars: BarArrangement, bar: Bar) -> bool:
    """Whether the figure of a segment is to be written: those at the ends of a stretch have no room of their own."""
    return any(bar in run[1:-1] for run in runs(bars, bar.cell.panel, bar.cell.series))
