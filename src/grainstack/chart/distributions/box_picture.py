"""Boxes, points and histograms: what lies behind a mean."""

import numpy as np
from msgspec.structs import replace

from grainstack.chart.chart_requests import AxisRequest, NumbersRequest, RecordDotsRequest
from grainstack.chart.colors_request import ColorsRequest
from grainstack.chart.distributions.distribution_arrangement import BoxOf, Distribution, boxes_of, rounded_extent
from grainstack.chart.distributions.distribution_notes import distribution_notes
from grainstack.chart.distributions.distribution_request import DistributionRequest
from grainstack.chart.distributions.histogram import histogram_scene
from grainstack.chart.frame.category_chart import CategoryChart
from grainstack.chart.frame.fallbacks import composed
from grainstack.chart.frame.plane import CellPosition
from grainstack.chart.frame.plot_needs import Overflow, Plots
from grainstack.chart.frame.record_dots import CellDots, RecordDots, evenly_open, record_dots, record_marks
from grainstack.chart.frame.value_axis import AxisNeeds
from grainstack.chart.frame.value_labels import ValueLabel
from grainstack.chart.frame.whiskers import whisker_marks
from grainstack.chart.look.color import INK, PAPER, text_on
from grainstack.chart.marks import Dot, Line, Mark, MarkRole, Rect
from grainstack.chart.scene import Scene
from grainstack.chart.writing.figures import figures_of
from grainstack.chart.writing.wording import words_of_distribution
from grainstack.language import marked, phrase
from grainstack.requests import Requests

_SHARE = 0.62  # of a slot: boxes leave a third between categories
_LANES, _LANE = 0.84, 0.8  # of a slot that boxes of several series take, and of its part that each of them is wide
_SPREAD = 0.92  # of a slot: dots spread as far as they can and still belong to their category
_WIDEST_MEAN = 1.4  # of the thickest bar: a wider box or mean is a slab or an axis
_HALO = 2.2  # of a line: the paper around it, so that it is seen over others
_MEDIAN = 1.3  # of a line: the median is the figure that is read
_MEAN_DOT = 0.62  # of a dot: a ring that does not hide the median
_DOTS_OPACITY = 0.6  # dots of records: darker where several lie on each other


def distribution_scene(distribution: Distribution, request: Requests) -> Scene:
    """Boxes, points or histograms as a scene.

    Args:
        distribution: The values.
        request: Form, direction, words, colours and size.

    Raises:
        RequestError: A colour or highlight for a level that is not shown.
    """
    form = request[DistributionRequest].form
    if form == "histogram":
        return histogram_scene(distribution, request)
    boxes = boxes_of(distribution) if form == "box" else []
    dots = record_dots(distribution.values) if form == "points" else None
    return composed(lambda wanted: _DistributionChart(distribution, boxes, dots, wanted), request)


def axis_of(distribution: Distribution, request: Requests) -> AxisNeeds:
    """What the axis of the values has to show, in a picture as in a terminal."""
    column = distribution.cells.column
    low, high = rounded_extent(distribution)
    style = figures_of(column, numbers=request[NumbersRequest]).style
    wanted = request[AxisRequest]
    needs = AxisNeeds(low, high, share=False, percent=column.unit == "%", whole=False, write=style, request=wanted)
    return replace(needs, references=tuple((value / needs.scale, label) for value, label in wanted.references))


class _DistributionChart(CategoryChart):
    """One chart while it is being composed."""

    _slender = True

    def __init__(
        self, distribution: Distribution, boxes: list[BoxOf], dots: RecordDots | None, request: Requests
    ) -> None:
        self._patterned = dots is None
        kind = marked("Box plot") if dots is None else marked("Dots of records")
        super().__init__(distribution.cells, words_of_distribution(distribution.cells.table, request), kind)
        self._distribution = distribution
        self._boxes, self._dots = boxes, dots

    def _notes(self) -> list[str]:
        return distribution_notes(self._distribution, self._request, self._dots)

    @property
    def _with_bases(self) -> bool:
        return not self._cells.series

    def _axis(self) -> AxisNeeds:
        return axis_of(self._distribution, self._request)

    def _overflows(self, labels: list[ValueLabel]) -> list[Overflow]:  # noqa: ARG002 - nothing is written at values
        rim = self._style.record * 2
        low, high = self._distribution.extent
        return [Overflow(low, rim, rim, down=True), Overflow(high, rim, rim)]

    def _figures_to_write(self, labels: list[ValueLabel]) -> int:  # noqa: ARG002 - only heaps have one
        return sum(bool(one.heaps) for one in self._dots.cells) if self._dots is not None else 0

    def _marks(self, plots: Plots, labels: list[ValueLabel]) -> list[Mark]:  # noqa: ARG002
        dots = self._dots
        if dots is None:
            return evenly_open([mark for box in self._boxes for mark in self._box(plots, box)])
        marks: list[Mark] = []
        for place, cell in enumerate(self._cells.cells):
            position = self._stand(plots, cell.panel, cell.slot, cell.series)
            position = replace(position, key=self._cells.key(cell))
            marks += self._points(position, dots, place, self._inks.of(cell).fill)
            if cell.known:
                half = min(position.thickness, self._style.bar_most * _WIDEST_MEAN) * 0.5
                ends = (position.middle - half, cell.estimate), (position.middle + half, cell.estimate)
                points = [position.plane.point(*end) for end in ends]
                marks.append(Line(*points[0], *points[1], PAPER, self._style.line * _HALO, MarkRole.HALO, position.key))
                mean = phrase("mean {figure}", figure=self._figures.text(cell))
                tip = f"{self._cells.name(cell)}: {mean}"
                marks.append(Line(*points[0], *points[1], INK, self._style.line, MarkRole.MEAN, position.key, tip))
        return evenly_open(marks)

    def _stand(self, plots: Plots, panel: int, slot: int, series: int) -> CellPosition:
        plane = plots.planes[panel]
        lanes = self._cells.count
        boxes, wanted = self._dots is None, self._request[RecordDotsRequest].spread
        pitch = plane.slot * (_LANES if boxes else _SPREAD) / lanes
        middle = plane.middle(slot) + (series - (lanes - 1) / 2) * pitch
        thickness = pitch * _LANE if boxes and lanes > 1 else plane.slot * _SHARE if boxes else pitch
        if boxes:
            thickness = min(thickness, self._style.bar_most * _WIDEST_MEAN)
        if wanted is not None:
            thickness = min(plane.slot / lanes * wanted, pitch)
        return CellPosition(plane, middle, thickness, self._cells.key(self._cells.stack(panel, slot)[series]))

    def _box(self, plots: Plots, box: BoxOf) -> list[Mark]:
        cell, style = box.cell, self._style
        position = self._stand(plots, cell.panel, cell.slot, cell.series)
        plane, thickness = position.plane, min(position.thickness, style.bar_most)
        position = replace(position, thickness=thickness)
        ink, colors = self._inks.of(cell), self._request[ColorsRequest]
        fill = ink.fill
        body = plane.rectangle(position.middle, thickness, box.lower, box.upper)
        key = position.key
        write = self._figures.first.number
        tip = phrase(
            "{name}: median {median}, quartiles {lower} and {upper}, n = {base}",
            name=self._cells.name(cell),
            median=write(box.median),
            lower=write(box.lower),
            upper=write(box.upper),
            base=cell.base_in_words,
        )
        marks: list[Mark] = list(whisker_marks(position, (box.low, box.high), style))
        broken = self._inks.is_broken(cell)
        marks.append(
            Rect(
                *(body.left, body.top, body.width, body.height, fill, MarkRole.BOX, key, tip),
                hatch=ink.hatch,
                outline=INK if colors.outlined or broken else "",
                opacity=colors.opacity,
                broken=broken,
            )
        )
        half = thickness / 2
        first, last = (plane.point(position.middle + side * half, box.median) for side in (-1, 1))
        stroke = text_on(self._inks.ground(ink))
        marks.append(Line(*first, *last, stroke, style.line * _MEDIAN, MarkRole.MEDIAN, key))
        count = len(box.outliers)
        if count:
            marks += self._points(position, RecordDots((CellDots(np.array(box.outliers)),), count, count), 0, fill)
        if cell.known:
            x, y = plane.point(position.middle, cell.estimate)
            tip = phrase("mean {figure}", figure=write(cell.estimate))
            marks.append(Dot(x, y, style.dot * _MEAN_DOT, PAPER, MarkRole.MEAN, key, tip, INK))
        return marks

    def _points(self, position: CellPosition, dots: RecordDots, place: int, fill: str) -> list[Mark]:
        opacity = _DOTS_OPACITY * self._request[ColorsRequest].opacity
        wanted = self._request[RecordDotsRequest]
        return record_marks(dots.cells[place], dots, position, self._style, wanted, fill=fill, opacity=opacity)
