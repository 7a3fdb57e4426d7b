"""Pies and rings: labels inside slices that hold them, otherwise outside with lines that never cross."""

from collections.abc import Sequence
from math import atan2, cos, degrees, hypot, radians, sin

from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.cells import Cell
from grainstack.chart.chart_requests import LegendRequest
from grainstack.chart.colors_request import ColorsRequest
from grainstack.chart.frame.fallbacks import Draft, FallbackStep, composed
from grainstack.chart.frame.frame import framed, style_of
from grainstack.chart.frame.legend import Legend, legend_aside, legend_marks
from grainstack.chart.frame.page import spaced
from grainstack.chart.frame.plane import Box, grid_of_panels, panel_style
from grainstack.chart.frame.signs_drawn import explaining, explains
from grainstack.chart.frame.value_labels import grounds
from grainstack.chart.look.color import INK, PAPER, text_on
from grainstack.chart.look.coloring import Ink
from grainstack.chart.look.inks import Inks
from grainstack.chart.look.measures import MIDLINE, ROUNDING
from grainstack.chart.look.palette import MUTED
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Anchor, Key, Line, Mark, MarkRole, Sector, Text, Weight, arc_points
from grainstack.chart.pies.leaders import crosses, uncrossed
from grainstack.chart.pies.pie_arrangement import NOTHING, Pies, Slice
from grainstack.chart.pies.pie_request import PieRequest
from grainstack.chart.scene import Scene
from grainstack.chart.writing.figures_at import FiguresAt
from grainstack.chart.writing.numbers import written
from grainstack.chart.writing.text import shortened, width
from grainstack.chart.writing.wording import Place, Words, default_title, words_for, words_of_parts
from grainstack.errors import IdleError
from grainstack.language import phrase, phrases
from grainstack.option_names import option
from grainstack.requests import Requests

_LEAST_LABEL = 7.0  # points: figures at slices are read, not looked at
_RING = 0.58  # of the radius: the ring keeps two thirds of the area, and a total fits its hole
_APART = 0.08  # of the radius: a slice set apart is seen to be, and still belongs
_ELBOW = 1.09  # of the radius: leaders bend just outside the disc
_WHOLE = 0.999  # of the disc: a slice as large is drawn as a whole one, without edges
_NAME_GAP = 0.45  # of the type size: between a name and its figure
_PANEL_NAME = 1.6  # type sizes: the line of a pie's name
_LINE_ROOM = (0.9, 1.5)  # type sizes above and below the disc: for figures, and for names with them
_DISC_ROOM = (0.42, 0.3)  # of the width: the radius at most, without and with names beside
_LEAST_RADIUS = 2.0  # points: still a disc
_LINES = 1.15  # type sizes: a line inside a slice
_FIRST_LINE = 0.88  # of the type size: from the top of a label to where its first line stands
_LABEL_AT = (0.6, 0.5)  # of the radius: where labels stand in slices, in those of half and more
_STEP = 1.2  # type sizes: labels beside the disc stand at least so far apart
_END = 0.6  # type sizes: the first and the last of them keep within the room
_COLUMN = 1.2  # of the radius: where the labels beside the disc stand
_EDGE = 1.01  # of the radius: leaders start at the edge
_LEADER = 1.2  # grid lines: a leader is a little stronger than the grid
_HOLE = (1.7, 1.5)  # of the ring's inner radius: how wide a total, and what it counts, may be
_TOTAL_LINE = (0.15, 0.3)  # type sizes below the middle: the total, and what it counts
_RIM = 0.6  # gaps: between a slice's edge and what is in it


def pie_scene(pies: Pies, request: Requests) -> Scene:
    """Pies as a scene.

    Args:
        pies: The slices.
        request: Labels, words, numbers, colours and size.

    Raises:
        RequestError: A colour or highlight for a level that is not shown.
    """
    return composed(lambda chosen: _PieChart(pies, chosen), request)


def pie_alt(pies: Pies, title: str) -> str:
    """What pies show, in words."""
    names = pies.cells.series
    sentences = []
    for panel, slices in zip(pies.cells.panels, pies.slices, strict=True):
        largest = sorted(slices, key=lambda one: -one.share)
        if not largest:
            sentences.append(f"{panel}: {phrase(NOTHING)}")
            continue
        parts = [f"{names[one.cell.series]} {100 * one.share:.0f} %" for one in (largest[0], largest[-1])]
        sizes = phrase("largest {largest}", largest=parts[0])
        if len(largest) > 1:
            sizes = phrase("largest {largest}, smallest {smallest}", largest=parts[0], smallest=parts[1])
        sentences.append(f"{panel}: {sizes}" if panel else sizes)
    return phrase(
        "{charts}. {title}. {slices}; {extremes}.",
        charts=phrase("Pie chart") if len(pies.slices) == 1 else phrase("{count} pie charts", count=len(pies.slices)),
        title=title,
        slices=phrases("{n} slice", "{n} slices", max(map(len, pies.slices))),
        extremes="; ".join(sentences),
    )


class _Label(Struct, frozen=True):
    """What is written at a slice: its name and its figure, in one line."""

    slice: Slice
    name: str
    figure: str
    key: Key

    def width(self, size: float) -> float:
        """In points."""
        gap = size * _NAME_GAP if self.name and self.figure else 0.0
        return width(self.name, size) + gap + width(self.figure, size, Weight.SEMIBOLD)


class _LabelPlace(Struct, frozen=True):
    """Where a label stands outside: its near end, its room and type size, and the disc it is led from."""

    x: float
    y: float
    room: float
    size: float
    side: int
    center: tuple[float, float]
    radius: float


class _PieChart:
    """One chart while it is being composed."""

    def __init__(self, pies: Pies, request: Requests) -> None:
        self._pies = pies
        self._cells = pies.cells
        self._request = request
        self._pie_request = request[PieRequest]
        self._figures = FiguresAt(self._cells, request, self._pie_request.labels)
        self._style: Style = style_of(request)
        self._inks = Inks(self._cells, request, self._style)

    def draft(self, kept: FallbackStep) -> Draft:
        """The scene with as much around it as there is room for."""
        notes = [note for note in (self._figures.note(),) if note]
        words = words_for(
            self._cells.table,
            words_of_parts(self._cells.table, self._request, self._figures.kinds),
            notes,
            Place.TITLE,
        )
        draft = self._draft(words, kept)
        return draft if explains(words, draft.scene.marks) else self._draft(explaining(words, draft.scene.marks), kept)

    def _draft(self, words: Words, kept: FallbackStep) -> Draft:
        frame = framed(words, self._request, kept)
        body = frame.body
        count = len(self._pies.slices)
        marks: list[Mark] = []
        chosen = self._request[LegendRequest].legend
        if chosen == "inside" or (chosen in ("direct", "none") and count == 1):
            raise IdleError(
                f"{option('legend')} {chosen} makes no difference: the names of one pie stand at its slices.",
                "Choose top, right or bottom, or leave it out.",
            )
        several = count > 1 or chosen not in ("auto", "direct", "none")
        if several and chosen != "none" and kept.legend:
            place = "top" if chosen in ("auto", "direct") else chosen
            keys = tuple(self._cells.series_key(place) for place in range(len(self._cells.series)))
            legend = Legend(self._cells.series, self._inks.series, place, keys, tight=not kept.whole_title)
            legend_drawn, body = legend_aside(legend, frame.style, body)
            marks += legend_drawn
            if place == "top":
                legend_drawn, top = legend_marks(legend, frame.style, body)
                marks += legend_drawn
                body = replace(body, top=top)
        columns, rows = grid_of_panels(count, self._pie_request.panel_columns, body)
        style = panel_style(frame.style, columns, rows)
        self._style = replace(style, value=max(style.value, min(_LEAST_LABEL, frame.style.value)))
        wide, tall = body.width / columns, body.height / rows
        for panel in range(count):
            row, column = divmod(panel, columns)
            left, top = body.left + column * wide, body.top + row * tall
            marks += self._pie(panel, Box(left, top, left + wide, top + tall), named=not several)
        names = len(self._cells.series) * (chosen != "none")
        wanted = {
            MarkRole.LEGEND: names if several else 0,
            MarkRole.SLICE_LABEL: 0 if several else sum(map(len, self._pies.slices)),
            MarkRole.VALUE: sum(map(len, self._pies.slices)) if self._figures.kinds else 0,
            MarkRole.PANEL_TITLE: sum(bool(panel) for panel in self._cells.panels),
        }
        scene = frame.scene(marks, pie_alt(self._pies, frame.words.title or default_title(self._cells.table)), wanted)
        return Draft(lambda: scene, body.height / frame.size[1])

    def _pie(self, panel: int, room: Box, *, named: bool) -> list[Mark]:
        style, slices = self._style, self._pies.slices[panel]
        marks: list[Mark] = []
        title = self._cells.panels[panel]
        if title:
            content = shortened(title, style.category, room.width - style.gap * 2, Weight.SEMIBOLD)
            wide = width(content, style.category, Weight.SEMIBOLD)
            x = (room.left + room.right) / 2
            y = room.top + style.category
            tip = title if content != title else ""
            marks.append(
                Text(
                    x,
                    y,
                    content,
                    style.category,
                    wide,
                    INK,
                    MarkRole.PANEL_TITLE,
                    Weight.SEMIBOLD,
                    Anchor.MIDDLE,
                    tip=tip,
                )
            )
            room = replace(room, top=room.top + style.category * _PANEL_NAME)
        if not slices:
            return [*marks, self._nothing(room)]
        labels = [self._label(one, named=named) for one in slices]
        apart = 1 + _APART * any(one.apart for one in slices)
        line = style.value * _LINE_ROOM[named]
        radius = max(min((room.height - 2 * line) / 2 / _ELBOW / apart, room.width * _DISC_ROOM[named]), _LEAST_RADIUS)
        center = (room.left + room.right) / 2, (room.top + room.bottom) / 2
        inner = radius * _RING if self._pie_request.ring else 0.0
        outside = []
        for one, label in zip(slices, labels, strict=True):
            at = self._center(one, center, radius)
            ink = self._inks.of(one.cell)
            marks += self._sector(one, at, (radius, inner), ink)
            texts = self._inside(one, label, at, (radius, inner), ink)
            marks += texts
            if not texts and (label.name or label.figure):
                outside.append(label)
        marks += self._parting(slices, center, (radius, inner))
        marks += self._beside(outside, center, radius, room)
        if inner:
            marks += self._total(self._pies.totals[panel], center, inner)
        return marks

    def _nothing(self, room: Box) -> Text:
        """What stands in the place of a pie that has no slices."""
        style = self._style
        content = shortened(phrase(NOTHING), style.value, room.width)
        x, y = (room.left + room.right) / 2, (room.top + room.bottom) / 2
        wide = width(content, style.value)
        return Text(x, y, content, style.value, wide, MUTED, MarkRole.BASE, anchor=Anchor.MIDDLE)

    def _label(self, one: Slice, *, named: bool) -> _Label:
        name = self._cells.series[one.cell.series]
        figure = slice_figure(self._figures, one.cell)
        return _Label(one, name if named else "", figure, self._cells.key(one.cell))

    @staticmethod
    def _center(one: Slice, center: tuple[float, float], radius: float) -> tuple[float, float]:
        if not one.apart:
            return center
        angle = radians(one.middle)
        return center[0] + _APART * radius * sin(angle), center[1] - _APART * radius * cos(angle)

    def _sector(self, one: Slice, at: tuple[float, float], radii: tuple[float, float], ink: Ink) -> list[Mark]:
        key = self._cells.key(one.cell)
        tip = f"{self._cells.name(one.cell)}: {self._figures.text(one.cell)} ({written(100 * one.share, 1)} %)"
        fill = self._inks.ground(ink)
        outline = INK if self._request[ColorsRequest].outlined else ""
        return [Sector(*at, *radii, one.start, one.end, fill, MarkRole.SLICE, key, tip, ink.hatch, outline)]

    def _parting(self, slices: Sequence[Slice], center: tuple[float, float], radii: tuple[float, float]) -> list[Mark]:
        """White lines between slices."""
        if len(slices) < 2:
            return []
        marks: list[Mark] = []
        for one in slices:
            at = self._center(one, center, radii[0])
            for angle in (one.start, one.end):
                [outer, *_] = arc_points(*at, radii[0], angle, angle)
                [inner, *_] = arc_points(*at, radii[1], angle, angle)
                marks.append(Line(*inner, *outer, PAPER, self._style.part, MarkRole.PART))
        return marks

    def _inside(
        self, one: Slice, label: _Label, at: tuple[float, float], radii: tuple[float, float], ink: Ink
    ) -> list[Mark]:
        """Name over figure within the slice, or nothing when it does not hold both whole."""
        style = self._style
        size = style.value
        lines = [(label.name, Weight.REGULAR), (label.figure, Weight.SEMIBOLD)]
        lines = [(content, weight) for content, weight in lines if content]
        wide = max((width(content, size, weight) for content, weight in lines), default=0.0)
        tall = len(lines) * size * _LINES
        reach = (radii[0] + radii[1]) / 2 if radii[1] else radii[0] * _LABEL_AT[one.share >= 0.5]
        if one.share > _WHOLE:
            reach = 0.0 if not radii[1] else reach
        angle = radians(one.middle)
        x, y = at[0] + reach * sin(angle), at[1] - reach * cos(angle)
        if not lines or not _holds(one, at, radii, Box(x - wide / 2, y - tall / 2, x + wide / 2, y + tall / 2), style):
            return []
        fill = self._inks.under_text(ink)
        texts: list[Mark] = []
        for place, (content, weight) in enumerate(lines):
            base = y - tall / 2 + size * (_FIRST_LINE + _LINES * place)
            measured = width(content, size, weight)
            role = MarkRole.SLICE_LABEL if weight is Weight.REGULAR else MarkRole.VALUE
            texts.append(
                Text(x, base, content, size, measured, text_on(fill), role, weight, Anchor.MIDDLE, fill, label.key)
            )
        return [*grounds(texts, style), *texts]

    def _beside(self, labels: Sequence[_Label], center: tuple[float, float], radius: float, room: Box) -> list[Mark]:
        """Labels in a column at each side, in the order of their slices, each with its line."""
        marks: list[Mark] = []
        for side in (1, -1):
            own = [label for label in labels if (sin(radians(label.slice.middle)) >= -ROUNDING) == (side > 0)]
            own.sort(key=lambda label: -cos(radians(label.slice.middle)))
            size = self._style.value
            least = min(self._style.least_type, size)
            most = max(int(room.height / (least * _STEP)), 1)
            if len(own) > most:
                kept = sorted(own, key=lambda label: -label.slice.share)[:most]
                own = [label for label in own if label in kept]
            size = max(least, min(size, room.height / max(len(own), 1) / _STEP))
            wanted = [center[1] - _ELBOW * radius * cos(radians(label.slice.middle)) for label in own]
            heights = spaced(wanted, size * _STEP, room.top + size * _END, room.bottom - size * _END)
            column = center[0] + side * radius * _COLUMN
            end = room.right if side > 0 else room.left
            room_beside = abs(end - column) - self._style.gap
            starts = [self._elbow(label, center, radius)[1] for label in own]
            ends = uncrossed(starts, [(column - side * self._style.gap * 0.5, y) for y in heights])
            led = [
                self._led(label, _LabelPlace(column, y, room_beside, size, side, center, radius))
                for label, (_, y) in zip(own, ends, strict=True)
            ]
            marks += _without_crossings(led, [label.slice.share for label in own])
        return marks

    def _elbow(
        self, label: _Label, center: tuple[float, float], radius: float
    ) -> tuple[tuple[float, float], tuple[float, float]]:
        """Where a leader leaves its slice, and where it bends."""
        angle = radians(label.slice.middle)
        x, y = self._center(label.slice, center, radius)
        edge, bend = radius * _EDGE, radius * _ELBOW
        return (x + edge * sin(angle), y - edge * cos(angle)), (x + bend * sin(angle), y - bend * cos(angle))

    def _led(self, label: _Label, place: _LabelPlace) -> list[Mark]:
        """One label outside with its leader: out of the slice, then straight to the label."""
        center, radius, side, size, room = place.center, place.radius, place.side, place.size, place.room
        column, y = place.x, place.y
        edge, elbow = self._elbow(label, center, radius)
        style = self._style
        figure_room = width(label.figure, size, Weight.SEMIBOLD) + size * _NAME_GAP
        name = shortened(label.name, size, max(room - figure_room, 0.0)) if label.name else ""
        shown = replace(label, name=name)
        taken = shown.width(size)
        if not name and label.name and taken > room:
            return []
        thin = style.grid * _LEADER
        marks: list[Mark] = [
            Line(*edge, *elbow, MUTED, thin, MarkRole.LEADER, label.key),
            Line(*elbow, column - side * style.gap * 0.5, y, MUTED, thin, MarkRole.LEADER, label.key),
        ]
        x = column if side > 0 else column - taken
        base = y + size * MIDLINE
        tip = label.name if name != label.name else ""
        if name:
            wide = width(name, size)
            marks.append(Text(x, base, name, size, wide, INK, MarkRole.SLICE_LABEL, key=label.key, tip=tip))
            x += wide + size * _NAME_GAP
        if label.figure:
            wide = width(label.figure, size, Weight.SEMIBOLD)
            marks.append(Text(x, base, label.figure, size, wide, INK, MarkRole.VALUE, Weight.SEMIBOLD, key=label.key))
        return marks

    def _total(self, total: float, center: tuple[float, float], inner: float) -> list[Mark]:
        """The whole in the middle of a ring."""
        style = self._style
        content = self._figures.first.number(total)
        size = min(style.title, inner * 0.5)
        noun = self._cells.column.noun if self._cells.column.measure is None else self._cells.column.unit
        x, y = center
        marks: list[Mark] = []
        wide = width(content, size, Weight.SEMIBOLD)
        if size >= style.least_type and wide < inner * _HOLE[0]:
            marks.append(
                Text(
                    x,
                    y + size * _TOTAL_LINE[0],
                    content,
                    size,
                    wide,
                    INK,
                    MarkRole.TOTAL,
                    Weight.SEMIBOLD,
                    Anchor.MIDDLE,
                )
            )
            wide = width(noun, style.tick)
            if noun and wide < inner * _HOLE[1]:
                marks.append(
                    Text(
                        x,
                        y + size * _TOTAL_LINE[1] + style.tick,
                        noun,
                        style.tick,
                        wide,
                        MUTED,
                        MarkRole.BASE,
                        anchor=Anchor.MIDDLE,
                    )
                )
        return marks


def slice_figure(figures: FiguresAt, cell: Cell) -> str:
    """What is written at a slice: the figures asked for, a share with its sign."""
    kinds = figures.kinds
    figure = figures.label(cell) if kinds else ""
    if kinds and kinds[0] == "share" and "%" not in figure:
        first, bracket, rest = figure.partition(" (")
        figure = f"{first} %{bracket}{rest}"
    return figure


def _without_crossings(led: Sequence[list[Mark]], shares: Sequence[float]) -> list[Mark]:
    """The labels of the larger slices first; a smaller one whose leader would still cross is left out."""
    kept: list[tuple[float, float, float, float]] = []
    marks: list[Mark] = []
    for place in sorted(range(len(led)), key=lambda one: -shares[one]):
        own = [(m.x1, m.y1, m.x2, m.y2) for m in led[place] if isinstance(m, Line)]
        if not any(crosses(line, other) for line in own for other in kept):
            kept += own
            marks += led[place]
    return marks


def _holds(one: Slice, at: tuple[float, float], radii: tuple[float, float], box: Box, style: Style) -> bool:
    """Whether a box lies within a slice, a small rim kept free."""
    rim = style.gap * _RIM
    outer, inner = radii
    corners = [(x, y) for x in (box.left, (box.left + box.right) / 2, box.right) for y in (box.top, box.bottom)]
    corners += [(x, (box.top + box.bottom) / 2) for x in (box.left, box.right)]
    if one.share > _WHOLE and not inner:
        return all((x - at[0]) ** 2 + (y - at[1]) ** 2 <= (outer - rim) ** 2 for x, y in corners)
    for x, y in corners:
        dx, dy = x - at[0], at[1] - y
        turned = (degrees(atan2(dx, dy)) - one.start) % 360
        if not inner + rim <= hypot(dx, dy) <= outer - rim or turned > one.end - one.start:
            return False
        for edge in (one.start, one.end):
            angle = radians(edge)
            ahead, aside = dx * sin(angle) + dy * cos(angle), dx * cos(angle) - dy * sin(angle)
            if ahead > -rim and abs(aside) < rim:
                return False
    return True
