"""Dots on light stems: one per category, or one per series joined by a line."""

from math import inf

from msgspec.structs import replace

from grainstack.chart.cells import Cell, ChartCells
from grainstack.chart.colors_request import ColorsRequest
from grainstack.chart.dots.dot_axis import axis_of, dot_notes
from grainstack.chart.dots.dot_request import DotRequest, JoinedRequest
from grainstack.chart.dots.line_picture import LineChart
from grainstack.chart.frame.category_chart import CategoryChart
from grainstack.chart.frame.fallbacks import composed
from grainstack.chart.frame.plane import Box, CellPosition, Plane
from grainstack.chart.frame.plot_needs import Overflow, Plots
from grainstack.chart.frame.value_axis import AxisNeeds
from grainstack.chart.frame.value_labels import ValueLabel, fitting_size, grounds, overflow_of_marks
from grainstack.chart.frame.whiskers import whisker_marks
from grainstack.chart.look.color import PAPER
from grainstack.chart.look.measures import FIGURE_LINE
from grainstack.chart.look.palette import GRID, MUTED
from grainstack.chart.marks import Anchor, Dot, Line, Mark, MarkRole, Text
from grainstack.chart.scene import Scene
from grainstack.language import marked
from grainstack.requests import Requests

_LANE = 1.2  # dots: series stand so far apart in a row, where it has the room
_LARGEST = 0.35  # of a row: dots of two rows never touch
_LABEL_GAP = (0.9, 0.6)  # dots: more room between one and its figure, above it and beside it
_OVER = 0.5  # gaps: between a dot and the figure over it
_STEM = 2.2  # grid lines: a stem is seen, and fainter than its dot
_JOINING = 0.8  # of a line: what joins the series of a row is no figure itself


def dot_scene(cells: ChartCells, request: Requests) -> Scene:
    """Dots as a scene.

    Args:
        cells: The figures.
        request: Direction, labels, words, colours and size.

    Raises:
        RequestError: A colour or highlight for a level that is not shown.
    """
    chart = LineChart if request.usual(JoinedRequest).joined else _DotChart
    return composed(lambda wanted: chart(cells, wanted), request)


class _DotChart(CategoryChart):
    """One chart while it is being composed."""

    _slender = True
    _patterned = False

    def __init__(self, cells: ChartCells, request: Requests) -> None:
        super().__init__(cells, request, marked("Dot chart"), labels=request[DotRequest].labels)

    def _notes(self) -> list[str]:
        return dot_notes(self._cells, self._request)

    @property
    def _lying(self) -> bool:
        return True

    @property
    def _with_bases(self) -> bool:
        return not self._cells.series and super()._with_bases

    def _axis(self) -> AxisNeeds:
        return axis_of(self._cells, self._request, self._figures)

    def _axis_of(self, panel: int) -> AxisNeeds:
        return axis_of(self._cells, self._request, self._figures, panel)

    def _stacks(self) -> list[tuple[Cell, ...]]:
        cells = self._cells
        return [cells.stack(panel, slot) for panel in range(len(cells.panels)) for slot in range(len(cells.slots))]

    def _ends(self, stack: tuple[Cell, ...]) -> list[tuple[Cell, bool]]:
        """The dots whose figures are written: the outer ones of a row, the lowest on its low side.

        A lone one is written on the side away from its stem, which comes from 0.
        """
        known = sorted((cell for cell in stack if cell.known), key=lambda cell: cell.estimate)
        if not known:
            return []
        return [(known[0], known[0].estimate < 0)] if len(known) == 1 else [(known[0], True), (known[-1], False)]

    def _reach(self, stack: tuple[Cell, ...], *, down: bool) -> float:
        """The outermost value of a row on one side."""
        values = [value for cell in stack if cell.known for value in self._span(cell)]
        return min(values) if down else max(values)

    @staticmethod
    def _span(cell: Cell) -> tuple[float, float]:
        low, high = (cell.low, cell.high) if cell.has_spread else (cell.estimate, cell.estimate)
        return min(low, cell.estimate), max(high, cell.estimate)

    def _written(self) -> list[tuple[Cell, bool, float, ValueLabel]]:
        """The figures written: their cell, whether on the low side, beyond which value, and what."""
        found = []
        for stack in self._stacks():
            for cell, down in self._ends(stack):
                label = self._label(cell)
                if label.content or label.letters:
                    found.append((cell, down, self._reach(stack, down=down), label))
        return found

    def _overflows(self, labels: list[ValueLabel]) -> list[Overflow]:  # noqa: ARG002 - only the outer dots have one
        gap = self._style.gap + self._style.dot
        return [Overflow(value, *label.needs(gap), down, cell.panel) for cell, down, value, label in self._written()]

    def _figures_to_write(self, labels: list[ValueLabel]) -> int:  # noqa: ARG002 - only the outer dots have one
        return len({label.key for _, _, _, label in self._written() if label.content})

    def _fits(self, labels: list[ValueLabel], plots: Plots) -> bool:
        return fitting_size(labels, plots.planes[0].slot, self._style, horizontal=plots.horizontal) is not None

    def _marks(self, plots: Plots, labels: list[ValueLabel]) -> list[Mark]:
        style = self._style
        stems: list[Mark] = []
        dots: list[Mark] = []
        for stack in self._stacks():
            known = [cell for cell in stack if cell.known]
            if not known:
                continue
            plane = plots.planes[known[0].panel]
            middle = plane.middle(known[0].slot)
            stems += self._stem(plane, middle, known)
            lanes = len(self._cells.series) or 1
            for cell in known:
                shift = (cell.series - (lanes - 1) / 2) * min(plane.slot * 0.5 / lanes, style.dot * _LANE)
                position = CellPosition(
                    plane, middle + shift * cell.has_spread, plane.slot * 0.5, self._cells.key(cell)
                )
                if cell.has_spread:
                    dots += whisker_marks(position, (cell.low, cell.high), style)
                x, y = plane.point(position.middle, cell.estimate)
                ink = self._inks.of(cell)
                radius = min(style.dot, plane.slot * _LARGEST)
                tip = f"{self._cells.name(cell)}: {self._figures.text(cell)}"
                dots.append(
                    Dot(
                        x,
                        y,
                        radius,
                        ink.fill,
                        MarkRole.DOT,
                        position.key,
                        tip,
                        PAPER,
                        self._request[ColorsRequest].opacity,
                    )
                )
        outside: list[Mark] = []
        size = fitting_size(labels, plots.planes[0].slot, style, horizontal=plots.horizontal)
        for cell, down, value, label in self._written() if size is not None else []:
            plane = plots.planes[cell.panel]
            gap = replace(style, gap=style.gap + style.dot * _LABEL_GAP[plots.horizontal])
            position = CellPosition(plane, plane.middle(cell.slot), plane.slot, label.key)
            outside += overflow_of_marks(label.sized(size or label.size), position, value, gap, down=down)
        outside += self._between(plots, outside, size) if size is not None else []
        return [*stems, *grounds(outside, style), *dots, *outside]

    def _between(self, plots: Plots, written: list[Mark], size: float) -> list[Mark]:
        """The figures of dots between the outer ones, over them, where nothing stands in the way."""
        style = self._style
        plane = plots.planes[0]
        if not plots.horizontal or not self._kinds or plane.slot / 2 < style.dot + size * FIGURE_LINE:
            return []
        taken = [Box(*mark.box) for mark in written if isinstance(mark, Text)]
        found: list[Mark] = []
        for stack in self._stacks():
            ends = {cell for cell, _ in self._ends(stack)}
            dots = [plots.planes[cell.panel].value(cell.estimate) for cell in stack if cell.known]
            for cell in stack:
                label = self._label(cell).sized(size)
                if cell in ends or not cell.known or not label.content:
                    continue
                plane = plots.planes[cell.panel]
                x, y = plane.value(cell.estimate), plane.middle(cell.slot) - style.dot - style.gap * _OVER
                text = label.at(x, y, Anchor.MIDDLE)
                box = Box(*text.box)
                nearest = min((abs(other - x) for other in dots if other != x), default=inf)  # whose figure it would be
                if nearest > label.width() / 2 and not any(box.meets(other) for other in taken):
                    taken.append(box)
                    found.append(text)
        return found

    def _stem(self, plane: Plane, middle: float, known: list[Cell]) -> list[Mark]:
        """A light line from the axis to a single dot, or a firmer one that joins the dots of a category."""
        style = self._style
        key = self._cells.key(known[0])
        values = [cell.estimate for cell in known]
        if not self._cells.series and not plane.low <= 0 <= plane.high:
            return []  # it would start anywhere, and its length say nothing
        ends = (0.0, values[0]) if not self._cells.series else (min(values), max(values))
        stroke, thick = (GRID, style.grid * _STEM) if not self._cells.series else (MUTED, style.line * _JOINING)
        return [Line(*plane.point(middle, ends[0]), *plane.point(middle, ends[1]), stroke, thick, MarkRole.STEM, key)]
