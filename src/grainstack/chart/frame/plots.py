"""One plot or several panels on the page: direction, margins and axes settled so that every label has its place."""

from collections.abc import Sequence

from msgspec.structs import replace

from grainstack.chart.frame.category_axis import (
    CategoryLabels,
    beneath,
    beside,
    category_marks,
    turned_beneath,
)
from grainstack.chart.frame.legend import legend_aside, legend_marks
from grainstack.chart.frame.plane import Box, Plane, grid_of_panels, panel_style
from grainstack.chart.frame.plot_needs import PlotNeeds, Plots, most_height
from grainstack.chart.frame.side_columns import side_marks, side_widths
from grainstack.chart.frame.value_axis import (
    ValueAxis,
    grid_marks,
    matching_axis,
    tick_marks,
    title_mark,
    value_axis,
)
from grainstack.chart.look.color import INK
from grainstack.chart.look.measures import LOOSE_LINE, NAME_GAP
from grainstack.chart.look.palette import MUTED
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Anchor, Mark, MarkRole, Text, Weight
from grainstack.chart.writing.text import shortened, width

_MOST_TURNED = 0.38  # of the height: turned names leave the bars more than half
_MOST_BESIDE = (0.36, 0.46)  # of the width: names beside bars, and the same where some would be cut
_MOST_BESIDE_PANELS = (0.24, 0.32)  # the same where several plots stand side by side
_MOST_TICKS = 6  # intervals of a value axis: more say no more
_HEADING = 1.9  # type sizes of names: the line of a panel's name, with air below
_LEAST_TALL = 0.7  # of a plot's share: what a row of plots has left for its bars, before its axis is known
_LEAST_WIDE = 0.8  # the same of a column of plots
_TICK_GAP = 1.5  # gaps: between the numbers of an axis and its line
_TITLE_ABOVE = 2.3  # type sizes of ticks: the title over an axis, and air to the plot
_NO_TITLE_ABOVE = 0.5  # type sizes of ticks: half of the top number, which stands above the plot
_CATEGORY_TITLE = (1.6, 1.8)  # type sizes of ticks: the title of the categories below them, and over them
_VALUES_BELOW = (1.2, 2.7)  # type sizes of ticks: a row of numbers under a plot, without and with a title
_VALUES_ABOVE = (1.2, 2.6)  # the same over it
_REFERENCE_LINE = 1.5  # type sizes of ticks: the name of a reference line, over the plot
_COLUMN_HEADING = 1.4  # type sizes of ticks: what the figures beside the bars are
_OWN_MARGIN = 0.9  # of the margin: the last number of an axis may stand in it
_COLUMN_GAP = (4, 1.2)  # between columns of plots: at least so many gaps, or so many widest numbers
_TICK_ROOM = (3.8, 9.0)  # type sizes of ticks: between the numbers of a vertical axis, and of a horizontal one
_DENSE = 1.5  # times that room where the plot has other lines too
_LEAST_INNER = 0.3  # of the length: what is left for the axis itself, whatever stands at its ends
_MOST_BEYOND = 0.45  # of the length: what figures at the ends of bars may take
_NAME_ABOVE = 0.75  # of the type size: between a panel's name and its plot
_LEAST_OWN = 2  # intervals: of fewer, the ends of an axis are no round numbers
_BESIDE_PLOT = 1.2  # gaps: between a plot and what is written beside it
_DESCENT = 0.3  # of the type size: what letters reach below their line


def settled_plots(needs: PlotNeeds, body: Box, style: Style, margin: float) -> Plots:
    """Lays the plots out.

    Args:
        needs: What the chart needs.
        body: The room under the title and above the notes.
        style: Type sizes.
        margin: The rim of the picture in points, into which tick labels may reach half-way.
    """
    legend = needs.legend
    if needs.piled and legend.visible and legend.place == "auto":
        beside = legend.in_order(range(len(legend.names))[::-1], "right")
        if plots := _Layout(replace(needs, legend=beside), body, style, margin).upright():
            return plots
    return _Layout(needs, body, style, margin).plots()


class _Layout:
    """One page of plots while it is being laid out."""

    def __init__(self, needs: PlotNeeds, body: Box, style: Style, margin: float) -> None:
        self._needs = needs
        self._margin = margin
        self._columns, self._rows = grid_of_panels(len(needs.panels), needs.panel_columns, body)
        self._style = panel_style(style, self._columns, self._rows)
        self._legend_marks, self._body = legend_aside(needs.legend, style, body)
        self._legend_style = style
        self._above = 0.0
        self._intervals = 1
        self._own_axes: list[ValueAxis] = []
        self._crowded = False

    def plots(self) -> Plots:
        """The finished layout, in the direction that keeps category labels whole."""
        if plots := self.upright():
            return plots
        lying, needs = self._horizontal(), self._needs
        if not lying.labels.cut or needs.direction != "auto" or needs.side_columns:
            return lying
        turned = self._vertical(whole=False)  # names are turned before they are cut
        return turned if turned and not turned.labels.cut else lying

    def upright(self) -> Plots | None:
        """The finished layout with vertical bars, unless bars are to lie or labels would not be whole."""
        needs = self._needs
        if needs.direction == "horizontal" or (needs.direction == "auto" and needs.lying and not needs.turn_names):
            return None
        return self._vertical(whole=needs.direction == "auto" and not needs.turn_names)

    def _top_legend(self, left: float) -> tuple[list[Mark], float]:
        """A legend above the plots, starting where they start; and the y under it."""
        legend = self._needs.legend
        if not legend.visible or self._crowded or legend.place not in ("top", "auto"):
            return [], self._body.top
        left = self._body.left if legend.tight else left
        return legend_marks(legend, self._legend_style, replace(self._body, left=left))

    @property
    def _title_height(self) -> float:
        return self._style.category * _HEADING if any(self._needs.panels) and not self._crowded else 0.0

    def _vertical(self, *, whole: bool) -> Plots | None:
        needs, style, body = self._needs, self._style, self._body
        self._above = 0.0
        per_row = body.height / self._rows
        axis = self._axis(per_row * _LEAST_TALL, vertical=True)
        second = self._second(axis)
        widest = max(one.widest(style) for one in (axis, *self._own_axes))
        left = body.left + widest + style.gap * _TICK_GAP
        right_room = second.widest(style) + style.gap * _TICK_GAP if second else 0.0
        column_gap = style.gap * 4 + ((widest + style.gap * _TICK_GAP) if self._own_axes else 0.0)
        width_each = (body.right - right_room - left - (self._columns - 1) * column_gap) / self._columns
        slot = width_each / needs.span
        labels = None if needs.turn_names else beneath(needs.categories, slot, style)
        if labels is None and whole:
            return None
        labels = labels or turned_beneath(needs.categories, slot, body.height / self._rows * _MOST_TURNED, style)
        legend, top = self._top_legend(left)
        titled = bool(needs.value_title or needs.second_title)
        top += style.tick * (_TITLE_ABOVE if titled else _NO_TITLE_ABOVE)
        below = labels.room + (style.tick * _CATEGORY_TITLE[0] if needs.category_title else 0.0)
        height = (
            body.bottom - below - top - self._rows * self._title_height - (self._rows - 1) * style.category
        ) / self._rows
        if height < style.tick * 2 and not (needs.upright and self._crowded):
            if not needs.upright:
                return None
            self._crowded = True
            return self._vertical(whole=whole)
        height = max(height, 1.0)
        boxes = []
        for panel in range(len(needs.panels)):
            row, column = divmod(panel, self._columns)
            x = left + column * (width_each + column_gap)
            y = top + self._title_height + row * (height + self._title_height + style.category)
            boxes.append(Box(x, y, x + width_each, y + height))
        return self._finished(boxes, (axis, second), labels, legend, horizontal=False)

    def _horizontal(self) -> Plots:
        needs, style, body = self._needs, self._style, self._body
        per_column = body.width / self._columns
        axis = self._axis(per_column * _LEAST_WIDE, vertical=False)
        second = self._second(axis)
        below = style.gap + style.tick * _VALUES_BELOW[bool(needs.value_title)]
        above = style.gap + style.tick * _VALUES_ABOVE[bool(needs.second_title)] if second else 0.0
        above += style.tick * _REFERENCE_LINE if needs.axis.references else 0.0
        above += style.tick * _COLUMN_HEADING if needs.side_columns else 0.0
        beside_plots = sum(side_widths(needs.side_columns, style))
        self._above = above
        parts = _MOST_BESIDE if self._columns == 1 else _MOST_BESIDE_PANELS
        usual, most = (body.width * part for part in parts)
        last = max((width(one.labels[-1], style.tick) for one in (axis, *self._own_axes) if one.labels), default=0.0)
        inset = max(0.0, last / 2 - self._margin * _OWN_MARGIN)
        between = style.category + ((style.gap + style.tick * _VALUES_BELOW[0]) if self._own_axes else 0.0)
        column_gap = max(style.gap * _COLUMN_GAP[0], axis.widest(style) * _COLUMN_GAP[1]) + beside_plots
        inset = max(inset, beside_plots)
        _, top = self._top_legend(body.left + usual)
        head = style.tick * _CATEGORY_TITLE[1] if needs.category_title else 0.0

        def room_from(top: float) -> float:
            taken = below + above * self._rows + (self._rows - 1) * between + self._rows * self._title_height
            return (body.bottom - top - head - style.gap - taken) / self._rows

        def height_from(top: float) -> float:
            return min(room_from(top), most_height(needs.span, style))

        slot = height_from(top) / needs.span
        labels = beside(needs.categories, slot, usual - style.gap * NAME_GAP, style)
        if labels.cut:
            labels = beside(needs.categories, slot, most - style.gap * NAME_GAP, style)
        left = body.left + labels.room
        legend, top = self._top_legend(left)
        height = height_from(top)
        spare = (room_from(top) - height) * self._rows
        if height < style.tick and not self._crowded:
            self._crowded = True  # too small for everything: panels go without titles, and the legend goes first
            return self._horizontal()
        height = max(height, 1.0)
        top += style.gap + head
        width_each = (body.right - inset - left - (self._columns - 1) * column_gap) / self._columns
        boxes = []
        for panel in range(len(needs.panels)):
            row, column = divmod(panel, self._columns)
            x = left + column * (width_each + column_gap)
            y = top + self._title_height + above + row * (height + self._title_height + above + between)
            boxes.append(Box(x, y, x + width_each, y + height))
        return replace(self._finished(boxes, (axis, second), labels, legend, horizontal=True), spare=spare)

    def _axis(self, length: float, *, vertical: bool) -> ValueAxis:
        style, needs = self._style, self._needs
        spacing = style.tick * _TICK_ROOM[not vertical] * (_DENSE if needs.dense else 1.0)
        self._intervals = min(max(int(length / spacing), 1), _MOST_TICKS)
        self._own_axes = [value_axis(one, max(self._intervals, _LEAST_OWN)) for one in needs.own_axes]
        return value_axis(needs.axis, self._intervals)

    def _second(self, axis: ValueAxis) -> ValueAxis | None:
        needs = self._needs
        return matching_axis(needs.second, axis, from_zero=needs.from_zero) if needs.second else None

    def _finished(
        self,
        boxes: Sequence[Box],
        axes: tuple[ValueAxis, ValueAxis | None],
        labels: CategoryLabels,
        legend: list[Mark],
        *,
        horizontal: bool,
    ) -> Plots:
        """Planes drawn in for what stands beyond values, with everything around them."""
        needs, style = self._needs, self._style
        axis, second = axes
        shared_cuts = self._cuts(boxes[0], axis, horizontal=horizontal)
        planes, second_planes = [], []
        behind: list[Mark] = []
        around: list[Mark] = [*legend, *self._legend_marks]
        for panel, frame in enumerate(boxes):
            low_cut, high_cut = shared_cuts
            if self._own_axes:
                axis = self._own_axes[panel]
                low_cut, high_cut = self._cuts(frame, axis, horizontal=horizontal, panel=panel)
            box = (
                replace(frame, left=frame.left + low_cut, right=frame.right - high_cut)
                if horizontal
                else replace(frame, top=frame.top + high_cut, bottom=frame.bottom - low_cut)
            )
            plane = Plane(frame, box, horizontal, axis.low, axis.high, needs.places, needs.span)
            planes.append(plane)
            behind += grid_marks(axis, plane, style)
            at_left = panel % self._columns == 0
            at_bottom = panel + self._columns >= len(boxes)
            around += self._panel_title(panel, frame)
            ticked = bool(self._own_axes) or (at_bottom if horizontal else at_left)
            around += tick_marks(axis, plane, style) if ticked else []
            if at_left if horizontal else at_bottom:
                around += category_marks(needs.categories, labels, plane, style)
            around += side_marks(needs.side_columns, panel, plane, style)
            if second:
                own = replace(plane, low=second.low, high=second.high)
                second_planes.append(own)
                at_right = panel % self._columns == self._columns - 1 or panel == len(boxes) - 1
                around += self._second_ticks(second, own) if horizontal or at_right else []
        around += self._titles(planes)
        return Plots(
            tuple(planes),
            tuple(second_planes),
            axis,
            labels,
            tuple(behind),
            tuple(around),
            style,
            self._columns,
            intervals=self._intervals,
        )

    def _cuts(self, frame: Box, axis: ValueAxis, *, horizontal: bool, panel: int | None = None) -> tuple[float, float]:
        """How far the value axis is drawn in at its ends so that what stands beyond values stays within the frame."""
        length = frame.width if horizontal else frame.height
        span = axis.high - axis.low
        low_cut = high_cut = 0.0
        overflows = [
            (min(max(item.value, axis.low), axis.high), item.wide if horizontal else item.tall, item.down)
            for item in self._needs.overflows
            if panel in (None, item.panel)
        ]
        for _ in range(3):
            inner = max(length - low_cut - high_cut, length * _LEAST_INNER)
            ups = (need - (axis.high - value) / span * inner for value, need, down in overflows if not down)
            downs = (need - (value - axis.low) / span * inner for value, need, down in overflows if down)
            high_cut, low_cut = max([0.0, *ups]), max([0.0, *downs])
        most = length * _MOST_BEYOND
        return min(low_cut, most), min(high_cut, most)

    def _panel_title(self, panel: int, frame: Box) -> list[Mark]:
        title = self._needs.panels[panel]
        if not title or self._crowded:
            return []
        size = self._style.category
        content = shortened(title, size, frame.width, Weight.SEMIBOLD)
        tip = title if content != title else ""
        y = frame.top - size * _NAME_ABOVE - self._above
        wide = width(content, size, Weight.SEMIBOLD)
        return [Text(frame.left, y, content, size, wide, INK, MarkRole.PANEL_TITLE, Weight.SEMIBOLD, tip=tip)]

    def _second_ticks(self, axis: ValueAxis, plane: Plane) -> list[Mark]:
        """Tick labels of the second axis, in its colour: right of vertical bars, above horizontal ones."""
        style, color = self._style, self._needs.second_color
        marks: list[Mark] = []
        for value, label in zip(axis.ticks, axis.labels, strict=True):
            place = plane.value(value)
            wide = width(label, style.tick)
            if plane.horizontal:
                x, y, anchor = place, plane.frame.top - style.gap, Anchor.MIDDLE
            else:
                x, y, anchor = plane.frame.right + style.gap * _BESIDE_PLOT, place + style.tick * 0.33, Anchor.START
            marks.append(Text(x, y, label, style.tick, wide, color, MarkRole.SECOND_TICK, anchor=anchor))
        return marks

    def _titles(self, planes: Sequence[Plane]) -> list[Mark]:
        """The titles of the axes."""
        needs, style, body = self._needs, self._style, self._body
        marks: list[Mark] = []
        horizontal = planes[0].horizontal
        last = planes[self._columns * ((len(planes) - 1) // self._columns)] if horizontal else planes[0]
        half = (body.left + body.right) / 2
        raised = (
            replace(last, frame=replace(last.frame, top=last.frame.top - self._title_height))
            if not horizontal
            else last
        )
        right = half if needs.second and not horizontal else body.right
        marks += title_mark(needs.value_title, raised, style, (body.left, right))
        if needs.second_title:
            size = style.tick
            content = shortened(needs.second_title, size, body.width / 2 - style.gap * 2)
            tip = needs.second_title if content != needs.second_title else ""
            first = planes[0]
            if horizontal:
                x, y, anchor = first.frame.left, first.frame.top - style.gap - size * LOOSE_LINE, Anchor.START
            else:
                x, y, anchor = body.right, first.frame.top - self._title_height - size * LOOSE_LINE, Anchor.END
            wide = width(content, size)
            marks.append(
                Text(x, y, content, size, wide, needs.second_color, MarkRole.SECOND_TITLE, anchor=anchor, tip=tip)
            )
        if needs.category_title:
            size = style.tick
            first = planes[0]
            if horizontal:
                room = max(first.frame.left - body.left - style.gap, size * 4)
                x, y = body.left, first.frame.top - size * 1.0 - self._title_height
            else:
                room = first.frame.width
                x, y = planes[0].frame.left, body.bottom - size * _DESCENT
            content = shortened(needs.category_title, size, room)
            tip = needs.category_title if content != needs.category_title else ""
            marks.append(Text(x, y, content, size, width(content, size), MUTED, MarkRole.CATEGORY_TITLE, tip=tip))
        return marks
