"""Bars on the page: direction, margins and thickness chosen so that every label is whole and nothing collides."""

from math import isnan

from msgspec.structs import replace

from grainstack.chart.bars.areas import Areas, clear_of_slopes
from grainstack.chart.bars.bar_arrangement import SIMPLE, Bar, BarArrangement
from grainstack.chart.bars.bar_axis import axis_of
from grainstack.chart.bars.bar_notes import bar_notes, cut_short
from grainstack.chart.bars.bar_request import FILLED, BarRequest
from grainstack.chart.bars.bar_strokes import break_strokes, parting_lines
from grainstack.chart.bars.bar_views import movable, other_views
from grainstack.chart.bars.difference_brackets import difference_brackets_of, difference_marks, room_for_brackets
from grainstack.chart.bars.net_brackets import bracket_marks, brackets_of
from grainstack.chart.bars.obstacles import before_obstacles, meet, obstacles_of
from grainstack.chart.bars.stack_totals import StackTotals
from grainstack.chart.cells import Cell
from grainstack.chart.chart_requests import RecordDotsRequest
from grainstack.chart.colors_request import ColorsRequest
from grainstack.chart.dots.dot_request import JoinedRequest
from grainstack.chart.frame.category_chart import CategoryChart
from grainstack.chart.frame.fallbacks import FallbackStep, composed
from grainstack.chart.frame.legend import Legend
from grainstack.chart.frame.plane import Box, CellPosition, Plane
from grainstack.chart.frame.plot_needs import Overflow, Plots
from grainstack.chart.frame.record_dots import RecordDots, evenly_open, record_dots, record_marks
from grainstack.chart.frame.side_by_side import SeveralCharts
from grainstack.chart.frame.side_columns import SideColumn
from grainstack.chart.frame.value_axis import AxisNeeds
from grainstack.chart.frame.value_labels import (
    ValueLabel,
    beside_marks,
    fitting_size,
    grounds,
    inside_mark,
    overflow_of_marks,
    room_beside,
)
from grainstack.chart.frame.whiskers import bar_whisker, whisker_marks
from grainstack.chart.look.color import INK, PAPER
from grainstack.chart.look.palette import GRID
from grainstack.chart.marks import Key, Line, Mark, MarkRole, Rect, Text
from grainstack.chart.scene import Movable, Scene
from grainstack.chart.second_request import SecondRequest
from grainstack.chart.writing.figures import figures_of
from grainstack.chart.writing.numbers import written
from grainstack.chart.writing.wording import alt_text
from grainstack.language import marked
from grainstack.requests import Requests

_BAR_SHARE = 0.66  # of a slot: bars twice as wide as the gaps
_WHISKER_AWAY = 0.32  # of the thickness of a stack: whiskers stand over and under the figures in its middle
_WHISKER_THICKNESS = 0.4  # likewise: their caps stay within it
_SPREAD = 0.92  # of a slot: dots spread as far as they can and still belong to their category
_UNDER_DOTS = 0.62  # of the room of its dots: a bar is seen between those at its sides
_MOST_BESIDE = 0.5  # of a bar's room: with less, its dots would stand in a line
_GROUP_SHARE = 0.80  # of a slot: bars of one group touch, groups keep a gap
_LEAST_BROKEN = 9.0  # points: a broken line around thinner bars would be all that is seen of them
_AREA_RIM = 2.0  # gaps: around a figure within an area
_AIR = 1.12  # a bar's thickness to the figures of its label: they do not touch its edges
KINDS = {
    "simple": marked("Bar chart"),
    "grouped": marked("Grouped bar chart"),
    "stacked": marked("Stacked bar chart"),
    "percent": marked("Percent bar chart"),
    "diverging": marked("Diverging bar chart"),
}


def bar_scene(arrangement: BarArrangement, request: Requests) -> Scene:
    """Bars as a scene.

    Args:
        arrangement: The figures as bars.
        request: Direction, labels, words, colours and size.

    Raises:
        RequestError: A colour or highlight for a level that is not shown.
    """
    if not arrangement.beside:
        scene = _drawn(arrangement, request)
        if scene.movable is None:
            return scene
        return replace(scene, others=lambda: other_views(arrangement, request, _drawn))
    table = arrangement.table
    drawn = [(KINDS[one.layout], one.cells.column) for one in arrangement.every]
    alts = [alt_text(kind, table, column, column.title, figures_of(column)) for kind, column in drawn]
    alt = " ".join(alts)
    return composed(
        lambda wanted: SeveralCharts([_BarChart(one, wanted) for one in arrangement.every], table, wanted, alt), request
    )


def _drawn(arrangement: BarArrangement, request: Requests) -> Scene:
    """Bars of one figure."""
    return composed(lambda wanted: _BarChart(arrangement, wanted), request)


class _BarChart(CategoryChart):
    """One chart while it is being composed."""

    def __init__(self, arrangement: BarArrangement, request: Requests) -> None:
        self._bars = arrangement
        self._bar_request, self._colors = request[BarRequest], request[ColorsRequest]
        ways = arrangement.sides.ways if arrangement.sides else None
        labels = request[BarRequest].labels
        super().__init__(arrangement.cells, request, KINDS[arrangement.layout], labels=labels, ways=ways)
        self._areas = Areas(arrangement) if request.usual(JoinedRequest).joined else None
        self._cut = cut_short(arrangement, request, self._figures.scale)
        self._bracketed = False
        self._side_by_side = not arrangement.stacked
        self._brackets = brackets_of(arrangement, self._side_columns)
        self._differences = difference_brackets_of(arrangement, self._bar_request.bracket, self._figures.first)
        self._dots = self._records()
        self._totals = StackTotals(arrangement, self._figures)
        self._wholes: dict[tuple[int, int], float] = {}  # of each stack, by panel and slot; 0 where it is none

    def _movable(self, plots: Plots) -> Movable | None:
        fixed = self._areas or self._side_columns or self._annotations or self._spans or self._differences  # these stay
        return None if fixed else movable(self._bars, self._request, plots)

    @property
    def _words_besides(self) -> list[str]:
        return [one.words for one in self._differences]

    def _wanted(self, legend: str) -> dict[MarkRole, int]:
        return {**super()._wanted(legend), MarkRole.DIFFERENCE: len(self._differences)}

    def _begin(self, kept: FallbackStep) -> None:
        super()._begin(kept)
        self._bracketed = False

    def _notes(self) -> list[str]:
        return bar_notes(self._bars, self._request, self._figures, self._dots)

    @property
    def _second_labelled(self) -> bool:
        return self._bar_request.label != "none"

    @property
    def _second_from_zero(self) -> bool:
        return self._request[SecondRequest].second_range == "from-zero"

    @property
    def _lying(self) -> bool:
        return self._bars.layout in FILLED

    @property
    def _with_bases(self) -> bool:
        layout, share = self._bars.layout, self._cells.column.is_share
        if layout in FILLED:
            return share and len(self._cells.slots) > 1
        return layout in (SIMPLE, "grouped") and super()._with_bases

    @property
    def _piled(self) -> bool:
        return self._bars.layout in ("stacked", "percent")

    def _legend(self, place: str) -> Legend:
        """The legend; of bars with two sides in the order in which these stand."""
        legend, sides = super()._legend(place), self._bars.sides
        if sides is None:
            return legend
        first = [bar for bar in self._bars.bars if (bar.cell.panel, bar.cell.slot) == (0, 0)]
        order = [bar.cell.series for bar in sorted(first, key=lambda bar: (bar.start + bar.end, bar.cell.series))]
        return legend.in_order(order, place)

    def _fits(self, labels: list[ValueLabel], plots: Plots) -> bool:
        if self._dots is not None and self._outside:
            plane = plots.planes[0]
            return self._beside_bars(labels, plane) <= self._thickness(plane)[0] * _MOST_BESIDE
        return not self._side_by_side or self._size_at(labels, plots) is not None

    def _fewer_side_columns(self, plots: Plots) -> tuple[tuple[SideColumn, ...]] | None:
        brackets = self._brackets
        if brackets is None or self._bracketed:
            return None
        self._bracketed = brackets.fit(plots, self._thickness(plots.planes[0])[1], self._style)
        return (self._side_columns[len(brackets.side_columns) :],) if self._bracketed else None

    def _behind(self, plane: Plane) -> list[Mark]:
        """Where series set apart start, and how far the longest of them reaches."""
        start, reach = self._bars.apart, self._needs_of_axis.continues_to
        if isnan(start):
            return []
        ends = plane.rectangle(0.0, 0.0, start, reach)
        box, style = plane.box, self._style
        if plane.horizontal:
            return [
                Line(x, box.top - style.gap, x, box.bottom, GRID, style.grid, MarkRole.GRID)
                for x in (ends.left, ends.right)
            ]
        return [Line(box.left, y, box.right, y, GRID, style.grid, MarkRole.GRID) for y in (ends.top, ends.bottom)]

    def _size_at(self, labels: list[ValueLabel], plots: Plots) -> float | None:
        pitch, _ = self._thickness(plots.planes[0])
        room = pitch if self._bars.lanes > 1 else plots.planes[0].slot
        return fitting_size(labels, room, self._style, horizontal=plots.horizontal)

    def _axis(self) -> AxisNeeds:
        return axis_of(self._bars, self._request, self._figures)

    def _axis_of(self, panel: int) -> AxisNeeds:
        return axis_of(self._bars, self._request, self._figures, panel)

    def _figures_to_write(self, labels: list[ValueLabel]) -> int:
        """All but those of segments without length, and those that the end of their side says already."""
        written = [bar for bar, label in zip(self._bars.bars, labels, strict=True) if label.content]
        if self._side_by_side:
            return len(written)
        if self._areas:
            written = [bar for bar in written if self._areas.has_room(bar)]
        return sum(bar.start != bar.end and not self._totals.alone_on_its_side(bar) for bar in written)

    def _records(self) -> RecordDots | None:
        if not self._bar_request.show_records:
            return None
        [values] = self._cells.table.values.values()
        return record_dots([values[cell.row] for cell in self._cells.cells])

    def _new_labels(self) -> list[ValueLabel]:
        """What is written at each bar; one that is cut short always says its figure."""
        labels = [self._label(bar.cell) for bar in self._bars.bars]
        if not self._side_by_side or not self._cut:
            return labels
        return [
            replace(label, content=self._figures.label(bar.cell, self._kinds or ("value",)))
            if bar.cell in self._cut
            else label
            for bar, label in zip(self._bars.bars, labels, strict=True)
        ]

    def _overflows(self, labels: list[ValueLabel]) -> list[Overflow]:
        gap = self._style.gap
        if not self._side_by_side:
            return [
                Overflow(total.at, *label.needs(gap), total.down, total.panel)
                for total, label in self._totals.labels(self._style)
                if self._kinds
            ]
        found = []
        if self._differences:
            top = max((bar.reach_high for bar in self._bars.bars if bar.cell.known), default=0.0)
            rooms = [room_for_brackets(self._differences, self._style, horizontal=lying) for lying in (True, False)]
            at_bars = [max(room) for room in zip(*(label.needs(gap) for label in labels), strict=True)]
            wide, tall = at_bars[0] + rooms[0], at_bars[1] + rooms[1]
            found += [Overflow(top, wide, tall, panel=panel) for panel in range(len(self._cells.panels))]
        if self._dots is not None and self._outside:
            return found
        for bar, label in zip(self._bars.bars, labels, strict=True):
            written = label if self._outside else replace(label, content="")
            if written.content or written.letters:
                found.append(
                    Overflow(
                        bar.reach_low if bar.down else bar.reach_high, *written.needs(gap), bar.down, bar.cell.panel
                    )
                )
        return found

    def _marks(self, plots: Plots, labels: list[ValueLabel]) -> list[Mark]:
        bars: list[Mark] = []
        over_bars: list[Mark] = []
        outside: list[Mark] = []
        pitch, thickness = self._thickness(plots.planes[0])
        labels = self._fitted(labels, plots)
        beside = self._beside_bars(labels, plots.planes[0])
        thickness = self._under_dots(thickness, pitch, beside)
        obstacles = obstacles_of(self._cells, plots, self._needs_of_axis, self._style)
        for place, (bar, label) in enumerate(zip(self._bars.bars, labels, strict=True)):
            plane = plots.planes[bar.cell.panel]
            middle = plane.middle(bar.cell.slot) + (bar.lane - (self._bars.lanes - 1) / 2) * pitch
            middle -= beside / 2 * (self._bars.lanes > 1)  # a lone bar stands over its name
            box = plane.rectangle(middle, thickness, bar.start, bar.end)
            if bar.cell.known:
                bars += self._rectangle(bar, box, label.key)
                bars += break_strokes(plane, box, self._style) if plane.low > 0 else []
                bars += (
                    break_strokes(plane, box, self._style, at_end=True) if self._cut and bar.cell in self._cut else []
                )
            position = CellPosition(plane, middle, thickness, label.key)
            if self._dots is not None:
                spread = self._request[RecordDotsRequest].spread
                room = pitch - beside * (1 if self._bars.lanes > 1 else 2)
                zone = replace(position, thickness=min(room, pitch * spread) if spread else room)
                records = self._record_marks(zone, self._dots, place)
                over_bars += records
                outside += beside_marks(label, position, bar.end, self._style, records) if beside else []
            over_bars += self._whisker(position, bar) if bar.whisker else []
            mark = self._figure_within(plots, bar, box, label)
            if mark:
                over_bars += [*grounds([mark], self._style), mark]
            if self._side_by_side and not beside:
                written = label if self._outside else replace(label, content="")
                value = bar.reach_low if bar.down else bar.reach_high
                texts = overflow_of_marks(written, position, value, self._style, down=bar.down)
                in_the_way = obstacles[bar.cell.panel, bar.cell.slot]
                if written.content and meet(in_the_way, texts):
                    end = _end_of(bar, plane)
                    within = inside_mark(label, before_obstacles(box, end, in_the_way), self._style, at_end=end)
                    over_bars += [within] if within else []
                    texts = [text for text in texts if not within or text.role is not MarkRole.VALUE]
                outside += texts
        outside += self._totals.marks(plots, thickness, self._style, with_figures=bool(self._kinds))
        if self._bracketed and self._brackets is not None:
            outside += bracket_marks(self._brackets, self._bars.bars, plots, thickness, self._style)
        if self._differences:
            there = [*bars, *over_bars, *outside]
            outside += difference_marks(self._differences, there, plots, self._style)
        if self._areas:
            areas = self._areas.marks(plots, self._inks, self._style)
            outside = clear_of_slopes(outside, areas, self._style)
            return [*grounds(outside, self._style), *areas, *bars, *over_bars, *outside]
        lines = self._parting(bars, plots)
        return [*grounds(outside, self._style), *bars, *lines, *evenly_open(over_bars), *outside]

    def _parting(self, bars: list[Mark], plots: Plots) -> list[Mark]:
        """Lines of paper between bars that touch."""
        apart = self._bars.layout == "grouped" and self._bar_request.gap
        touching = self._bars.layout != SIMPLE and not apart and not self._colors.outlined  # outlines part them
        along = plots.horizontal != (self._bars.layout == "grouped")
        return list(parting_lines(bars, self._style, along_x=along)) if touching else []

    @property
    def _outside(self) -> bool:
        """Whether figures stand beyond bars or beside them."""
        return self._bar_request.label_place in ("auto", "outside")

    def _thickness(self, plane: Plane) -> tuple[float, float]:
        """The room of a bar across its length, and its thickness, in points."""
        wanted, lanes = self._bar_request.bar_width, self._bars.lanes
        share = wanted or (_GROUP_SHARE if lanes > 1 else _BAR_SHARE)
        pitch = plane.slot * share / lanes
        if self._dots is not None:  # the dots of a bar spread beyond it
            return plane.slot * _SPREAD / lanes, pitch
        pitch = pitch if wanted else min(pitch, self._style.bar_most)
        return pitch, pitch * (1 - (self._bar_request.gap or 0.0) * (lanes > 1))

    def _beside_bars(self, labels: list[ValueLabel], plane: Plane) -> float:
        """The room that figures take beside bars under dots, across them, in points; 0 where there are none."""
        if self._dots is None or not self._outside or not any(label.content or label.letters for label in labels):
            return 0.0
        return max(room_beside(label, self._style, horizontal=plane.horizontal) for label in labels)

    def _under_dots(self, thickness: float, pitch: float, beside: float) -> float:
        """The thickness of a bar: under dots, thinner than the room they spread over."""
        if self._dots is None:
            return thickness
        room = pitch - beside * (1 if self._bars.lanes > 1 else 2)
        if self._bar_request.bar_width:
            return min(thickness, room)
        return min(thickness, room * _UNDER_DOTS, self._style.bar_most)

    def _record_marks(self, position: CellPosition, dots: RecordDots, place: int) -> list[Mark]:
        wanted = self._request[RecordDotsRequest]
        return record_marks(dots.cells[place], dots, position, self._style, wanted, fill=INK, opacity=0.5)

    def _fitted(self, labels: list[ValueLabel], plots: Plots) -> list[ValueLabel]:
        """Labels in type small enough to stand side by side; without their figures where no type is."""
        if not self._side_by_side:
            within = self._thickness(plots.planes[0])[1] / _AIR if plots.horizontal else self._style.value
            small = min(self._style.value, max(within, self._style.least_type))
            return [label.sized(small) for label in labels]
        size = self._size_at(labels, plots)
        if self._dots is not None and self._outside:
            size = self._style.value if self._fits(labels, plots) else None
        return [replace(label, content="", letters="") if size is None else label.sized(size) for label in labels]

    def _rectangle(self, bar: Bar, box: Box, key: Key) -> list[Mark]:
        ink, colors = self._inks.of(bar.cell), self._colors
        tip = f"{self._cells.name(bar.cell)}: {self._figures.text(bar.cell)}{self._share(bar.cell)}"
        joined = self._areas is not None and self._areas.joins(bar)
        broken = self._inks.is_broken(bar.cell) and min(box.width, box.height) >= _LEAST_BROKEN
        return [
            Rect(
                *(box.left, box.top, box.width, box.height, ink.fill, MarkRole.BAR, key, tip),
                hatch="" if joined else ink.hatch,
                outline=INK if (colors.outlined or broken) and not joined else "",
                opacity=0.0 if joined else colors.opacity,  # it answers to the pointer, over its area
                broken=broken,
            )
        ]

    def _share(self, cell: Cell) -> str:
        """The part of its stack that a segment is, for its tip; nothing where its figure says that already."""
        if self._bars.layout != "stacked" or self._cells.column.is_share:
            return ""
        whole = self._wholes.get((cell.panel, cell.slot))
        if whole is None:
            stack = [one.estimate for one in self._cells.stack(cell.panel, cell.slot) if one.known]
            whole = self._wholes[cell.panel, cell.slot] = sum(stack) if min(stack) >= 0 else 0.0
        return f" ({written(100 * cell.estimate / whole, 1)} %)" if whole > 0 else ""

    def _whisker(self, position: CellPosition, bar: Bar) -> list[Mark]:
        style = self._style
        if (self._side_by_side or self._totals.alone_on_its_side(bar)) and self._dots is None:
            fill = self._inks.ground(self._inks.of(bar.cell))
            return list(bar_whisker(position, (bar.low, bar.high), bar.end, fill, style))
        if not self._side_by_side:  # by turns on both sides of the figures, so that neither neighbours nor figures meet
            away = position.thickness * _WHISKER_AWAY * (-1 if bar.cell.series % 2 else 1)
            position = replace(
                position, middle=position.middle + away, thickness=position.thickness * _WHISKER_THICKNESS
            )
        lines = whisker_marks(position, (bar.low, bar.high), style)
        halo = [replace(line, stroke=PAPER, thickness=line.thickness * 3, role=MarkRole.HALO) for line in lines]
        return [*halo, *lines]

    def _figure_within(self, plots: Plots, bar: Bar, box: Box, label: ValueLabel) -> Text | None:
        """The figure in a bar, or in the area that joins it to its neighbours."""
        plane = plots.planes[bar.cell.panel]
        if self._areas is None or not self._areas.joins(bar):
            return self._inside(plane, bar, box, label)
        wide = label.width() + self._style.gap * _AREA_RIM
        room = self._areas.room_for_figure(bar, plots, wide) if label.content else None
        return self._inside(plane, bar, room, label) if room else None

    def _inside(self, plane: Plane, bar: Bar, box: Box, label: ValueLabel) -> Text | None:
        if not bar.cell.known:
            return None
        place = self._bar_request.label_place
        if self._side_by_side and self._outside:
            return None
        if self._bars.layout == "diverging" and self._totals.alone_on_its_side(bar):
            return None
        at_end = ""
        if place == "end":
            at_end = _end_of(bar, plane)
            inner = bar.high if bar.down else bar.low
            if bar.whisker and self._side_by_side:
                box = plane.rectangle(
                    (box.top + box.bottom) / 2 if plane.horizontal else (box.left + box.right) / 2,
                    box.height if plane.horizontal else box.width,
                    bar.start,
                    inner,
                )
        return inside_mark(label, box, self._style, at_end=at_end)


def _end_of(bar: Bar, plane: Plane) -> str:
    """The edge of a bar where its value is."""
    if plane.horizontal:
        return "left" if bar.down else "right"
    return "bottom" if bar.down else "top"
