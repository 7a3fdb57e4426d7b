"""Notes within a plot: each as near to its mark as there is room, over nothing, with a leader from further away."""

from collections.abc import Iterator, Sequence
from itertools import islice
from math import hypot

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from grainstack.chart.annotation_request import CORNERS, Annotation
from grainstack.chart.cells import ChartCells
from grainstack.chart.frame.plane import Box
from grainstack.chart.frame.plot_needs import Plots
from grainstack.chart.frame.spans import box_of_span
from grainstack.chart.frame.value_labels import grounds
from grainstack.chart.look.measures import CAP_HEIGHT
from grainstack.chart.look.palette import MUTED
from grainstack.chart.look.style import Style
from grainstack.chart.marks import ELLIPSIS, Area, Dot, Key, Line, Mark, MarkRole, Rect, Sector, Text
from grainstack.chart.writing.text import balanced, width
from grainstack.errors import RequestError, nearest
from grainstack.option_names import option

_WIDTHS = (0.34, 0.24, 0.16)  # of the plot, at most: a note reads as a note, and leaves the marks the stage
_WITHIN = (1.0, 0.7, 0.5)  # of a span, likewise
_RIM = 0.7  # gaps: between the edge of a span and its note
_MOST_LINES = 5  # more is a text, and belongs beside the picture
_LEADING = 1.28  # of the type size from line to line
_STEP = 3.0  # points between two places that are tried
_MOST_TRIED = 160  # of the nearest free places, whether a leader reaches the mark from there
_BESIDE = 2.2  # gaps: a note that is no further from its mark needs no leader
_OFF_CENTRE = 0.02  # of equally near places the one in the middle
_OFF_BOTH = 0.5  # gaps that a leader keeps from its note and its mark
_THICK = 1.2  # grid lines: a leader is a little stronger than the grid
_CLEAR = 0.5  # points that a leader keeps from what it passes
_SIDEWAYS = 1.15  # how much further sideways counts, so that notes stand above rather than beside
_ANCHORS = (MarkRole.BAR, MarkRole.DOT, MarkRole.BOX, MarkRole.SLICE)
_LIGHT = (MarkRole.GRID, MarkRole.FRAME, MarkRole.PAPER, MarkRole.GROUND, MarkRole.SPAN)  # what a note may stand over

Places = npt.NDArray[np.float64]  # left and top of each, shape (places, 2)


class _Target(Struct, frozen=True):
    """What a note is about.

    Attributes:
        room: The mark with the figures written at it.
        mark: The mark alone, over which a leader may end.
    """

    room: Box
    mark: Box


def annotation_marks(
    notes: Sequence[tuple[Annotation, tuple[int, int] | None]],
    marks: Sequence[Mark],
    cells: ChartCells,
    plots: Plots,
    style: Style,
) -> list[Mark]:
    """The notes that have room.

    Args:
        notes: What is noted where; of a span with its first and last category.
        marks: Everything that stands there already.
        cells: The figures of the chart.
        plots: Its plots.
        style: Type sizes.

    Raises:
        RequestError: A note at a level that is not shown.
    """
    taken = [box for mark in marks for box in _boxes_of(mark)]
    found: list[Mark] = []
    for number, (one, slots) in enumerate(notes):
        target = None if one.corner or slots else _target_of(one, marks, cells, plots)
        frame = _within(box_of_span(slots, plots.planes[0]), style.gap * _RIM) if slots else _frame_of(plots)
        widths = [frame.width * share for share in (_WITHIN if slots else _WIDTHS)]
        tried = [_Note(one, number, frame, plots, style).of_width(wide).placed(target, taken) for wide in widths]
        placed = min((one for one in tried if one), key=lambda one: (one.cut, one.distance), default=None)
        found += placed.marks if placed else []
        taken += [box for mark in (placed.marks if placed else ()) for box in _boxes_of(mark)]
    return found


def _target_of(one: Annotation, marks: Sequence[Mark], cells: ChartCells, plots: Plots) -> _Target:
    """What a note is about: a mark with the figures written at it.

    Raises:
        RequestError: No mark has these levels.
    """
    fitting = [
        mark
        for mark in marks
        if isinstance(mark, Rect | Dot) and mark.role in _ANCHORS and set(one.at) <= _names_of(mark.key, cells)
    ]
    if not fitting:
        names = [*cells.panels, *(label for slot in cells.slots for label in slot.labels), *cells.series, *CORNERS]
        unknown = next((name for name in one.at if name not in names), one.at[0])
        raise RequestError(f"{option('annotation')}: no mark of `{unknown}` is shown.", nearest(unknown, names))
    first = [mark for mark in fitting if mark.key.panel == fitting[0].key.panel]
    longest = max(first, key=lambda mark: _reach(mark, horizontal=plots.horizontal))
    own = [
        longest,
        *(mark for mark in marks if isinstance(mark, Text) and mark.key == longest.key and _is_figure(mark)),
    ]
    boxes = [box for mark in own for box in _boxes_of(mark)]
    room = Box(
        min(box.left for box in boxes),
        min(box.top for box in boxes),
        max(box.right for box in boxes),
        max(box.bottom for box in boxes),
    )
    return _Target(room, boxes[0])


def _is_figure(mark: Text) -> bool:
    return mark.role in (MarkRole.VALUE, MarkRole.LETTER)


def _reach(mark: Rect | Dot, *, horizontal: bool) -> float:
    if isinstance(mark, Dot):
        return mark.x if horizontal else -mark.y
    return mark.x + mark.width if horizontal else -mark.y


def _frame_of(plots: Plots) -> Box:
    """The room of all plots together."""
    frames = [plane.frame for plane in plots.planes]
    return Box(
        min(box.left for box in frames),
        min(box.top for box in frames),
        max(box.right for box in frames),
        max(box.bottom for box in frames),
    )


def _within(box: Box, rim: float) -> Box:
    return Box(box.left + rim, box.top + rim, box.right - rim, box.bottom - rim)


class _Placed(Struct, frozen=True):
    """A note in its place."""

    marks: tuple[Mark, ...]
    distance: float
    cut: bool = False


def _names_of(key: Key, cells: ChartCells) -> set[str]:
    """The labels of the levels of a mark."""
    slot = next((slot for slot in cells.slots if slot.codes == key.category), None)
    series = {name for place, name in enumerate(cells.series) if cells.series_key(place).series == key.series}
    panels = {name for place, name in enumerate(cells.panels) if cells.slot_key(place, 0).panel == key.panel}
    return {*(slot.labels if slot else ()), *(series if key.series else ()), *panels}


class _Note:
    """One note on its way to its place."""

    def __init__(self, one: Annotation, number: int, frame: Box, plots: Plots, style: Style) -> None:
        self._one, self._frame = one, frame
        self._in_span = frame != _frame_of(plots)
        self._corner, self._horizontal = one.corner, plots.horizontal
        self._style, self._key = style, Key(category=one.at, series=(f"*annotation {number}",))
        self.of_width(frame.width)

    def of_width(self, most: float) -> "_Note":
        """It in lines no longer than so many points."""
        size = self._style.value
        self._lines = balanced(self._one.text, size, most, _MOST_LINES)
        self._width = max(width(line, size) for line in self._lines)
        self._height = size * (CAP_HEIGHT + _LEADING * (len(self._lines) - 1) + 0.21)
        return self

    def placed(self, target: _Target | None, taken: Sequence[Box]) -> _Placed | None:
        """It at the free place that is nearest to its mark; None where there is none.

        Args:
            target: The mark it is about; None for a corner.
            taken: What it must not stand on.
        """
        places = self._free(taken)
        nearest_places = self._by_distance(places, self._points(target)) if len(places) else ()
        for left, top, distance, point in islice(nearest_places, _MOST_TRIED):
            box = Box(left, top, left + self._width, top + self._height)
            leader = None if target is None else self._leader(box, point)
            if leader is None or not _crosses(leader, taken, target):
                return _Placed(
                    (*([leader] if leader else []), *self._texts(box)), distance, self._lines[-1].endswith(ELLIPSIS)
                )
        return None

    def _points(self, target: _Target | None) -> list[tuple[float, float]]:
        """Where it may point to: the end of a mark or the middle of its long sides; or its corner."""
        frame = self._frame
        if self._in_span:
            middle = (frame.left + frame.right) / 2, (frame.top + frame.bottom) / 2
            return [(frame.right, middle[1]) if self._horizontal else (middle[0], frame.top)]
        if target is None:
            x = frame.right if self._corner.endswith("right") else frame.left
            return [(x, frame.top if self._corner.startswith("top") else frame.bottom)]
        room = target.room
        middle = (room.left + room.right) / 2, (room.top + room.bottom) / 2
        if self._horizontal:
            return [(room.right, middle[1]), (middle[0], room.top), (middle[0], room.bottom)]
        below = room.top + self._style.value / 2  # beside the figure over the bar
        sides = [(x, y) for y in (below, middle[1]) for x in (room.left, room.right)]
        return [(middle[0], room.top), *sides]

    def _free(self, taken: Sequence[Box]) -> Places:
        """The left and top of each free place, shape (places, 2)."""
        frame, gap = self._frame, self._style.gap / 2
        lefts = np.arange(frame.left, frame.right - self._width, _STEP)
        tops = np.arange(frame.top, frame.bottom - self._height, _STEP)
        free = np.ones((len(lefts), len(tops)), dtype=bool)
        for box in taken:  # places from which a note would reach into the box
            across = np.searchsorted(lefts, (box.left - gap - self._width, box.right + gap))
            down = np.searchsorted(tops, (box.top - gap - self._height, box.bottom + gap))
            free[across[0] : across[1], down[0] : down[1]] = False
        columns, rows = np.nonzero(free)
        return np.column_stack([lefts[columns], tops[rows]])

    def _by_distance(
        self, places: Places, points: Sequence[tuple[float, float]]
    ) -> Iterator[tuple[float, float, float, tuple[float, float]]]:
        """The left and top of places, their distance from the nearest point, and that point, nearest places first."""
        apart = []
        for number, (x, y) in enumerate(points):
            across = np.clip(x, places[:, 0], places[:, 0] + self._width) - x
            down = np.clip(y, places[:, 1], places[:, 1] + self._height) - y
            off_centre = np.abs(places[:, 0] + self._width / 2 - x) * _OFF_CENTRE
            apart.append(np.hypot(across * _SIDEWAYS, down) + off_centre + number * self._style.gap)
        nearest_point = np.argmin(apart, axis=0)
        distances = np.min(apart, axis=0)
        for place in np.argsort(distances, kind="stable").tolist():
            yield (*places[place].tolist(), float(distances[place]), points[int(nearest_point[place])])

    def _leader(self, box: Box, point: tuple[float, float]) -> Line | None:
        """A line from a note to its mark; None where it stands beside it."""
        x, y = min(max(point[0], box.left), box.right), min(max(point[1], box.top), box.bottom)
        distance = hypot(x - point[0], y - point[1])
        gap = self._style.gap
        if distance <= gap * _BESIDE:
            return None
        part = gap * _OFF_BOTH / distance
        dx, dy = point[0] - x, point[1] - y
        ends = (x + dx * part, y + dy * part, point[0] - dx * part, point[1] - dy * part)
        return Line(*ends, MUTED, self._style.grid * _THICK, MarkRole.LEADER, self._key)

    def _texts(self, box: Box) -> list[Mark]:
        size = self._style.value
        first = box.top + CAP_HEIGHT * size
        texts: list[Mark] = [
            Text(
                *(box.left, first + _LEADING * size * line, content, size, width(content, size)),
                *(MUTED, MarkRole.ANNOTATION),
                key=self._key,
            )
            for line, content in enumerate(self._lines)
        ]
        return [*grounds(texts, self._style), *texts]  # so that no line of the grid strikes it through


def _boxes_of(mark: Mark) -> list[Box]:
    """The room of a mark that a note must keep clear of."""
    if mark.role in _LIGHT:
        return []
    if isinstance(mark, Text):
        return [Box(*mark.box)]
    if isinstance(mark, Line):
        return _along(mark)
    if isinstance(mark, Area):
        xs, ys = [x for x, _ in mark.corners], [y for _, y in mark.corners]
        return [Box(min(xs), min(ys), max(xs), max(ys))]
    if isinstance(mark, Dot | Sector):
        return [Box(mark.x - mark.radius, mark.y - mark.radius, mark.x + mark.radius, mark.y + mark.radius)]
    return [Box(mark.x, mark.y, mark.x + mark.width, mark.y + mark.height)]


def _along(line: Line) -> list[Box]:
    """A line as boxes along it."""
    steps = max(1, int(min(abs(line.x2 - line.x1), abs(line.y2 - line.y1)) / _STEP))
    found = []
    for step in range(steps):
        ends = [
            (line.x1 + (line.x2 - line.x1) * part, line.y1 + (line.y2 - line.y1) * part)
            for part in (step / steps, (step + 1) / steps)
        ]
        (left, right), (top, bottom) = sorted(x for x, _ in ends), sorted(y for _, y in ends)
        found.append(Box(left, top, right, bottom))
    return found


def _crosses(leader: Line, taken: Sequence[Box], target: _Target | None) -> bool:
    """Whether a leader runs over something but the mark it points at."""
    (left, right), (top, bottom) = sorted((leader.x1, leader.x2)), sorted((leader.y1, leader.y2))
    around = Box(left, top, right, bottom)
    near = [box for box in taken if box.meets(around, -_CLEAR) and not (target and target.mark == box)]
    return any(box.meets(part, -_CLEAR) for part in _along(leader) for box in near) if near else False
