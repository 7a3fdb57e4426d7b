"""Dots joined by lines along categories that have an order, such as times; a line breaks where a figure is missing."""

from functools import cached_property
from itertools import chain, pairwise, product

from grainstack.chart.cells import Cell, ChartCells
from grainstack.chart.colors_request import ColorsRequest
from grainstack.chart.dots.dot_axis import axis_of, dot_notes
from grainstack.chart.dots.dot_request import DotRequest
from grainstack.chart.frame.category_chart import CategoryChart
from grainstack.chart.frame.joining import check_order, stretches
from grainstack.chart.frame.plane import Box, CellPosition
from grainstack.chart.frame.plot_needs import Overflow, Plots
from grainstack.chart.frame.value_axis import AxisNeeds
from grainstack.chart.frame.value_labels import ValueLabel, grounds
from grainstack.chart.frame.whiskers import whisker_marks
from grainstack.chart.look.color import PAPER
from grainstack.chart.look.measures import CAP_HEIGHT
from grainstack.chart.marks import Anchor, Dot, Line, Mark, MarkRole, Text
from grainstack.language import marked
from grainstack.requests import Requests

_LANE = 2.4  # dots: series with limits stand so far apart, where there is room
_LANES = 0.5  # of a slot: what all of them take at most
_LARGEST = 0.2  # of a slot: many dots are small, so that their line is seen
_OFF = 0.7  # gaps: between a dot and its figure
_HALO = 1.7  # lines: the paper around a line, where it crosses another
_SAME = 0.01  # points: a dot is its own
_CUTS = 24  # boxes along a line, in which a figure would be crossed


class LineChart(CategoryChart):
    """One chart while it is being composed.

    Raises:
        ChartError: The categories have no order along which anything could be joined.
    """

    _slender = True
    _patterned = False

    def __init__(self, cells: ChartCells, request: Requests) -> None:
        check_order(cells)
        super().__init__(cells, request, marked("Line chart"), labels=request[DotRequest].labels)

    def _notes(self) -> list[str]:
        return dot_notes(self._cells, self._request)

    @property
    def _with_bases(self) -> bool:
        return not self._cells.series and super()._with_bases

    def _axis(self) -> AxisNeeds:
        return axis_of(self._cells, self._request, self._figures)

    def _axis_of(self, panel: int) -> AxisNeeds:
        return axis_of(self._cells, self._request, self._figures, panel)

    @cached_property
    def _lines(self) -> list[list[list[Cell]]]:
        """The stretches of each line, series by series in every panel."""
        every = product(range(len(self._cells.panels)), range(self._cells.count))
        return [stretches(self._cells, *at) for at in every]

    def _written(self) -> list[Cell]:
        """The cells whose figures are written: all of a line alone, the ends of several, the last one first."""
        found: list[Cell] = []
        for line in self._lines:
            known = [cell for stretch in line for cell in stretch]
            ends = known if not self._cells.series else [*known[-1:], *known[:-1][:1]]
            found += reversed(ends) if not self._cells.series else ends
        return found

    def _overflows(self, labels: list[ValueLabel]) -> list[Overflow]:  # noqa: ARG002 - only some of them are written
        gap = self._style.gap + self._style.dot
        found = []
        for cell in self._written():
            label = self._label(cell)
            if label.content or label.letters:
                top = cell.high if cell.has_spread else cell.estimate
                found.append(Overflow(top, *label.needs(gap), panel=cell.panel))
        return found

    def _figures_to_write(self, labels: list[ValueLabel]) -> int:  # noqa: ARG002 - as above
        return sum(bool(self._label(cell).content) for cell in self._written())

    def _marks(self, plots: Plots, labels: list[ValueLabel]) -> list[Mark]:  # noqa: ARG002 - as above
        style = self._style
        lines: list[Mark] = []
        dots: list[Mark] = []
        for stretch in chain.from_iterable(self._lines):
            points = [self._point(plots, cell) for cell in stretch]
            for cell, (one, other) in zip(stretch[1:], pairwise(points), strict=True):
                fill, key = self._inks.of(cell).fill, self._cells.key(cell)
                lines.append(Line(*one, *other, PAPER, style.line * _HALO, MarkRole.HALO))
                lines.append(Line(*one, *other, fill, style.line, MarkRole.LINE, key))
            for cell, (x, y) in zip(stretch, points, strict=True):
                plane, key = plots.planes[cell.panel], self._cells.key(cell)
                if cell.has_spread:
                    position = CellPosition(plane, x, plane.slot * _LANES, key)
                    dots += whisker_marks(position, (cell.low, cell.high), style)
                radius = min(style.dot, plane.slot * _LARGEST)
                tip = f"{self._cells.name(cell)}: {self._figures.text(cell)}"
                opacity = self._request[ColorsRequest].opacity
                dots.append(Dot(x, y, radius, self._inks.of(cell).fill, MarkRole.DOT, key, tip, PAPER, opacity))
        texts = self._figures_at(plots, [*lines, *dots])
        return [*lines, *grounds(texts, style), *dots, *texts]

    def _point(self, plots: Plots, cell: Cell) -> tuple[float, float]:
        """Where the dot of a cell stands: series with limits stand a little apart, so that whiskers do not meet."""
        plane = plots.planes[cell.panel]
        lanes = self._cells.count
        apart = min(plane.slot * _LANES / lanes, self._style.dot * _LANE) * cell.has_spread
        return plane.point(plane.middle(cell.slot) + (cell.series - (lanes - 1) / 2) * apart, cell.estimate)

    def _figures_at(self, plots: Plots, marks: list[Mark]) -> list[Mark]:
        """The figures over their dots, or under them where that is free; those without a free place are left out."""
        style = self._style
        taken = [box for mark in marks for box in _boxes(mark)]
        dots = [box for mark in marks if isinstance(mark, Dot) for box in _boxes(mark)]
        found: list[Mark] = []
        for cell in self._written() if self._kinds else []:
            label, frame = self._label(cell), plots.planes[cell.panel].frame
            rim = style.margin / 2  # the last figure may stand beyond the plot
            room = Box(frame.left - rim, frame.top, frame.right + rim, frame.bottom)
            x, y = self._point(plots, cell)
            plane = plots.planes[cell.panel]
            top, bottom = (plane.value(cell.high), plane.value(cell.low)) if cell.has_spread else (y, y)
            away = style.gap * _OFF + (0 if cell.has_spread else style.dot)
            for baseline in (top - away, bottom + away + label.size * CAP_HEIGHT):
                text = label.at(x, baseline, Anchor.MIDDLE)
                box = Box(*text.box)
                near = [other for other in dots if other.left < box.right and other.right > box.left]
                nearest = min(near, key=lambda other: abs((other.top + other.bottom - box.top - box.bottom) / 2))
                is_own = abs((nearest.top + nearest.bottom) / 2 - y) < _SAME  # or it would be read as another's
                if label.content and room.holds(box) and is_own and not any(map(box.meets, taken)):
                    found.append(text)
                    taken.append(box)
                    break
        return found


def _boxes(mark: Mark) -> list[Box]:
    """The room of a mark that a figure must keep clear of; a line in pieces."""
    if isinstance(mark, Dot):
        return [Box(mark.x - mark.radius, mark.y - mark.radius, mark.x + mark.radius, mark.y + mark.radius)]
    if isinstance(mark, Text):
        return [Box(*mark.box)]
    if not isinstance(mark, Line) or mark.role is MarkRole.HALO:
        return []
    found = []
    for cut in range(_CUTS):
        xs = sorted(mark.x1 + (mark.x2 - mark.x1) * part / _CUTS for part in (cut, cut + 1))
        ys = sorted(mark.y1 + (mark.y2 - mark.y1) * part / _CUTS for part in (cut, cut + 1))
        found.append(
            Box(xs[0] - mark.thickness, ys[0] - mark.thickness, xs[1] + mark.thickness, ys[1] + mark.thickness)
        )
    return found
