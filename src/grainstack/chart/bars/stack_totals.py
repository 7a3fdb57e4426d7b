"""The figures and whiskers at the ends of stacked bars, and at both ends of diverging ones."""

from math import isnan

from msgspec.structs import replace

from grainstack.chart.bars.bar_arrangement import Bar, BarArrangement, Total
from grainstack.chart.frame.plane import CellPosition
from grainstack.chart.frame.plot_needs import Plots
from grainstack.chart.frame.value_labels import ValueLabel, overflow_of_marks
from grainstack.chart.frame.whiskers import whisker_marks
from grainstack.chart.look.color import PAPER
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Mark, MarkRole
from grainstack.chart.writing.figures_at import FiguresAt

_LABEL_TALL = 0.92  # of the type size: what figures take across a horizontal bar
_LABEL_GAP = 1.5  # gaps: between two figures beyond the ends of bars


class StackTotals:
    """The totals of a chart's stacks.

    Args:
        bars: All bars of the chart.
        figures: Writes figures.
    """

    def __init__(self, bars: BarArrangement, figures: FiguresAt) -> None:
        self._bars, self._figures = bars, figures

    def labels(self, style: Style) -> list[tuple[Total, ValueLabel]]:
        """The figures at the ends of stacks; none where a single segment already says it."""
        lone = self._bars.cells.count == 1
        return [
            (
                total,
                ValueLabel(
                    self._lone_figure(total) or self._figures.first.number(total.amount),
                    self._bars.cells.slot_key(total.panel, total.slot),
                    PAPER,
                    size=style.value,
                    role=MarkRole.TOTAL,
                ),
            )
            for total in self._bars.totals
            if not lone and (total.amount or self._bars.layout != "diverging")
        ]

    def alone_on_its_side(self, bar: Bar) -> bool:
        """Whether the figure at the end of a side already says what the bar shows."""
        sides = self._bars.sides
        if sides is None:
            return False
        way = sides.ways[bar.cell.series]
        return way != 0 and sides.ways.count(way) == 1

    def marks(self, plots: Plots, thickness: float, style: Style, *, with_figures: bool) -> list[Mark]:
        """What stands at the ends of stacks: their whiskers and, where there is room, their figures.

        Args:
            plots: The plots they stand in.
            thickness: Of a bar, in points.
            style: Sizes and distances.
            with_figures: Whether figures are written.
        """
        marks: list[Mark] = []
        for total, label in self.labels(style):
            plane = plots.planes[total.panel]
            position = CellPosition(plane, plane.middle(total.slot), thickness, label.key)
            if not isnan(total.low):
                lines = whisker_marks(position, (total.low, total.high), style)
                marks += [
                    replace(line, stroke=PAPER, thickness=line.thickness * 3, role=MarkRole.HALO) for line in lines
                ]
                marks += lines
            room = plane.slot
            fits = label.size * _LABEL_TALL <= room if plane.horizontal else label.width() + 2 <= room
            if not isnan(self._bars.apart) and not total.down:
                needed = label.needs(style.gap * _LABEL_GAP)[0 if plane.horizontal else 1]
                fits &= needed <= abs(plane.value(self._bars.apart) - plane.value(total.at))
            if with_figures and fits:
                marks += overflow_of_marks(label, position, total.at, style, down=total.down)
        return marks

    def _lone_figure(self, total: Total) -> str:
        """The figure of the only series on a side, with its marks; empty where a side has several."""
        sides, way = self._bars.sides, -1 if total.down else 1
        if sides is None or sides.ways.count(way) != 1:
            return ""
        cell = self._bars.cells.stack(total.panel, total.slot)[sides.ways.index(way)]
        return self._figures.label(cell, ("value",)) if cell.known else ""
