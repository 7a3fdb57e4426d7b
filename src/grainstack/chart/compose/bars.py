"""Bars on the page: direction, margins and thickness chosen so that every label is whole and nothing collides."""

from dataclasses import dataclass, replace
from math import isnan

from grainstack.chart.alt import alt_text
from grainstack.chart.arrange.bars import SIMPLE, Bar, BarArrangement
from grainstack.chart.compose.categories import Category, CategoryLabels, beneath, beside, category_marks
from grainstack.chart.compose.geometry import Box, Plane
from grainstack.chart.compose.labels import ValueLabel, grounds, inside_mark, outside_marks, room_beyond
from grainstack.chart.compose.legend import legend_marks
from grainstack.chart.compose.page import page_of
from grainstack.chart.compose.values import ValueAxis, grid_marks, tick_marks, title_mark, value_axis
from grainstack.chart.numbers import NumberStyle, number_style
from grainstack.chart.palette import FIELDS, INK, PAPER, text_on
from grainstack.chart.request import ChartRequest
from grainstack.chart.scene import Key, Line, Mark, Rect, Scene, Text
from grainstack.chart.style import REPORT, Style
from grainstack.chart.wording import Words, words_for
from grainstack.summary.table import Column, SummaryTable

_BAR_SHARE = 0.66
_GROUP_SHARE = 0.80


def bar_scene(table: SummaryTable, column: Column, arrangement: BarArrangement, request: ChartRequest) -> Scene:
    """The bars of one column as a scene.

    Args:
        table: The summary.
        column: Which of its figures is drawn.
        arrangement: The same figures as bars.
        request: Direction, labels, words and size.
    """
    return _BarChart(table, column, arrangement, request).scene()


@dataclass(frozen=True, slots=True)
class _Plot:
    """A plot area with its axes settled."""

    plane: Plane
    axis: ValueAxis
    labels: CategoryLabels


class _BarChart:
    """One chart while it is being composed."""

    def __init__(self, table: SummaryTable, column: Column, arrangement: BarArrangement, request: ChartRequest) -> None:
        self._table = table
        self._column = column
        self._bars = arrangement
        self._size = request.picture.points
        self._style: Style = REPORT.for_size(*self._size)
        self._direction = request.bars.direction
        self._words: Words = words_for(table, column, request.words)
        self._write: NumberStyle = number_style(column.estimate.tolist(), column.unit)
        self._side_by_side = arrangement.layout in (SIMPLE, "grouped")
        self._series = [level.label for level in table.series.levels] if table.series else []
        self._colors = FIELDS[: max(len(self._series), 1)]
        self._categories = self._category_texts()
        self._labels = self._value_labels() if request.bars.label == "value" else []

    def scene(self) -> Scene:
        """The finished scene."""
        page = page_of(self._words, self._style, self._size)
        plot, legend = self._settled(page.body)
        marks: list[Mark] = [*page.marks, *legend]
        marks += grid_marks(plot.axis, plot.plane, self._style)
        marks += self._bar_marks(plot.plane)
        marks += tick_marks(plot.axis, plot.plane, self._style)
        marks += title_mark(self._words.value_title, plot.plane, self._style, page.body.right)
        marks += category_marks(self._categories, plot.labels, plot.plane, self._style)
        alt = alt_text(self._table, self._column, self._words, self._write)
        return Scene(*self._size, tuple(marks), alt, self._words.title)

    def _category_texts(self) -> list[Category]:
        count = max(len(self._series), 1)
        shown = self._column.figure.statistic.name in ("mean", "share") and (
            self._table.series is None or self._bars.layout == "percent"
        )
        if self._column.figure.statistic.name == "share" and self._table.series is None:
            shown = False
        texts = []
        for slot in range(self._bars.slots):
            cell = slot * count
            names = [level.label for level in self._table.levels_of(cell)][: len(self._table.categories)]
            texts.append(Category(" · ".join(names), f"n = {self._column.base[cell]:,}" if shown else ""))
        return texts

    def _value_labels(self) -> list[ValueLabel]:
        return [
            ValueLabel(bar, self._write(bar.estimate), self._key(bar), self._colors[bar.series % len(self._colors)])
            for bar in self._bars.bars
        ]

    def _key(self, bar: Bar) -> Key:
        return Key(category=self._categories[bar.slot].label, series=self._series[bar.series] if self._series else "")

    def _settled(self, body: Box) -> tuple[_Plot, list[Mark]]:
        """The plot area for the direction that keeps category labels whole, and the legend above it."""
        if self._direction == "horizontal" or (self._direction == "auto" and self._bars.layout == "percent"):
            return self._horizontal(body)
        upright = self._vertical(body, whole=self._direction == "auto")
        return upright or self._horizontal(body)

    def _vertical(self, body: Box, *, whole: bool) -> tuple[_Plot, list[Mark]] | None:
        style = self._style
        axis = self._axis(body.height, vertical=True)
        left = body.left + axis.widest(style) + style.gap * 1.5
        labels = beneath(self._categories, (body.right - left) / self._bars.slots, style)
        if labels is None:
            if whole:
                return None
            labels = self._cut_beneath((body.right - left) / self._bars.slots)
        legend, top = self._legend(body, left)
        top += style.tick * 2.3 if self._words.value_title else style.tick * 0.5
        plane = self._roomy(Box(left, top, body.right, body.bottom - labels.room), axis, horizontal=False)
        return _Plot(plane, axis, labels), legend

    def _cut_beneath(self, slot: float) -> CategoryLabels:
        """Labels under vertical bars that were asked for although not all of them are whole there."""
        turned = beside(self._categories, self._style.category * 3, slot - self._style.gap, self._style)
        height = max(len(lines) for lines in turned.lines) * turned.size * 1.18 + self._style.gap
        return CategoryLabels(turned.lines, turned.size, turned.bases, 1, height + self._style.base * 1.35)

    def _horizontal(self, body: Box) -> tuple[_Plot, list[Mark]]:
        style = self._style
        axis = self._axis(body.width * 0.8, vertical=False)
        below = style.gap + style.tick * (2.7 if self._words.value_title else 1.2)
        most = body.width * 0.36
        _, top = self._legend(body, body.left + most)
        height = body.bottom - below - top - style.gap
        labels = beside(self._categories, height / self._bars.slots, most - style.gap * 1.75, style)
        left = body.left + labels.room
        legend, top = self._legend(body, left)
        box = Box(left, top + style.gap, body.right, body.bottom - below)
        return _Plot(self._roomy(box, axis, horizontal=True), axis, labels), legend

    def _legend(self, body: Box, left: float) -> tuple[list[Mark], float]:
        if not self._series:
            return [], body.top
        return legend_marks(self._series, self._colors, self._style, replace(body, left=left))

    def _axis(self, length: float, *, vertical: bool) -> ValueAxis:
        spacing = self._style.tick * (5.0 if vertical else 9.0) * (1.5 if self._labels and self._side_by_side else 1.0)
        whole = self._column.figure.statistic.name == "count"
        low, high = self._bars.low, self._bars.high
        return value_axis(low, high, min(max(int(length / spacing), 1), 6), self._column.unit, whole=whole)

    def _roomy(self, box: Box, axis: ValueAxis, *, horizontal: bool) -> Plane:
        """The plane, drawn in at its ends until value labels outside the bars stay within the box."""
        needs = room_beyond(self._labels, self._style, horizontal=horizontal) if self._side_by_side else []
        length = box.width if horizontal else box.height
        span = axis.high - axis.low
        low_cut = high_cut = 0.0
        for _ in range(3):
            inner = max(length - low_cut - high_cut, length * 0.3)
            high_cut = max([0.0, *(need - (axis.high - value) / span * inner for value, need in needs if value >= 0)])
            low_cut = max([0.0, *(need - (value - axis.low) / span * inner for value, need in needs if value < 0)])
        if horizontal:
            inner_box = replace(box, left=box.left + low_cut, right=box.right - high_cut)
        else:
            inner_box = replace(box, top=box.top + high_cut, bottom=box.bottom - low_cut)
        return Plane(box, inner_box, horizontal, axis.low, axis.high, self._bars.slots)

    def _bar_marks(self, plane: Plane) -> list[Mark]:
        style = self._style
        share = _GROUP_SHARE if self._bars.lanes > 1 else _BAR_SHARE
        thickness = min(plane.slot * share / self._bars.lanes, style.bar_most)
        marks: list[Mark] = []
        whiskers: list[Line] = []
        inside: list[Text] = []
        middles = []
        for place, bar in enumerate(self._bars.bars):
            middle = plane.middle(bar.slot) + (bar.lane - (self._bars.lanes - 1) / 2) * thickness
            middles.append(middle)
            if isnan(bar.estimate):
                continue
            box = plane.rectangle(middle, thickness, bar.start, bar.end)
            fill = self._colors[bar.series % len(self._colors)]
            tip = ", ".join(part for _, part in self._key(bar).parts()) + f": {self._write(bar.estimate)}"
            marks.append(Rect(box.left, box.top, box.width, box.height, fill, "bar", self._key(bar), tip))
            if bar.whisker:
                whiskers += self._whisker(plane, bar, middle, thickness)
            if self._labels and not self._side_by_side:
                inside += [mark] if (mark := inside_mark(self._labels[place], box, style)) else []
        marks += self._parting_lines(plane, marks)
        outside: list[Text] = []
        if self._labels and self._side_by_side:
            room = thickness if self._bars.lanes > 1 else plane.slot
            outside = outside_marks(self._labels, plane, middles, room, style)
        return [*grounds(outside, style), *marks, *whiskers, *inside, *outside]

    def _whisker(self, plane: Plane, bar: Bar, middle: float, thickness: float) -> list[Line]:
        style = self._style
        cap = min(style.cap, thickness * 0.3)
        key = self._key(bar)
        tip = min(max(bar.end, bar.low), bar.high)
        inner, outer = (bar.low, bar.high) if bar.end >= 0 else (bar.high, bar.low)
        strokes = [(middle, tip, middle, outer, False), (middle - cap, outer, middle + cap, outer, False)]
        if tip != inner:
            strokes += [(middle, inner, middle, tip, True), (middle - cap, inner, middle + cap, inner, True)]
        on_bar = text_on(self._colors[bar.series % len(self._colors)])
        return [
            Line(
                *plane.point(first, start),
                *plane.point(second, end),
                on_bar if inside else INK,
                style.whisker * (0.7 if inside else 1.0),
                "whisker",
                key,
            )
            for first, start, second, end, inside in strokes
        ]

    def _parting_lines(self, plane: Plane, bars: list[Mark]) -> list[Line]:
        """Thin white lines where segments or neighbours meet."""
        if self._bars.layout == SIMPLE:
            return []
        lines = []
        part = self._style.part
        for mark in bars:
            if not isinstance(mark, Rect):
                continue
            right, bottom = mark.x + mark.width, mark.y + mark.height
            along_x = plane.horizontal != (self._bars.layout == "grouped")
            if along_x:
                if right < plane.box.right - part:
                    lines.append(Line(right, mark.y, right, bottom, PAPER, part, "part", mark.key))
            elif mark.y > plane.box.top + part:
                lines.append(Line(mark.x, mark.y, right, mark.y, PAPER, part, "part", mark.key))
        return lines
