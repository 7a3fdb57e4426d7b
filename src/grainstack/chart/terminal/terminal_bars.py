"""Bars for a terminal: one row of characters per bar, on the same axis as in a picture."""

from collections import defaultdict
from collections.abc import Sequence
from math import floor, isnan

from msgspec.structs import replace

from grainstack.chart.bars.bar_arrangement import Bar as Shape
from grainstack.chart.bars.bar_arrangement import BarArrangement, Total
from grainstack.chart.bars.bar_axis import axis_of
from grainstack.chart.bars.bar_notes import bar_notes, cut_short
from grainstack.chart.bars.bar_request import BarRequest
from grainstack.chart.cells import Cell, ChartCells
from grainstack.chart.chart_requests import NumbersRequest
from grainstack.chart.dots.dot_axis import axis_of as axis_of_dots
from grainstack.chart.dots.dot_axis import dot_notes
from grainstack.chart.dots.dot_request import DotRequest
from grainstack.chart.frame.side_columns import side_columns_of
from grainstack.chart.frame.value_axis import axis_span
from grainstack.chart.look.color import INK
from grainstack.chart.look.inks import Inks
from grainstack.chart.look.style_file import look_of
from grainstack.chart.marks import Anchor, MarkRole
from grainstack.chart.terminal.screen import Bar, Screen, Whisker
from grainstack.chart.terminal.terminal_rows import Entry, RowChart, Rows, Track
from grainstack.chart.writing.character_columns import columns_wide, fitted
from grainstack.chart.writing.figures import figures_of
from grainstack.chart.writing.figures_at import FiguresAt, without_names
from grainstack.chart.writing.signs import SIGNS
from grainstack.chart.writing.wording import Place, alt_text, titled_with_unit, words_for
from grainstack.language import marked
from grainstack.requests import Requests
from grainstack.summary.summary_request import Purpose
from grainstack.summary.table import Column, Flag, SummaryTable


def bar_rows(arrangement: BarArrangement, request: Requests, columns: int) -> Screen:
    """The bars as rows of characters.

    Args:
        arrangement: The figures as bars.
        request: Labels, words, axis and colours.
        columns: The width of the terminal.

    Raises:
        RequestError: A colour or highlight for a level that is not shown.
    """
    first, *others = (_RowsOfBars(one, request, columns) for one in arrangement.every)
    return first.screen(others, arrangement.table)


class _RowsOfBars:
    """One chart while it is being written, row by row."""

    def __init__(self, arrangement: BarArrangement, request: Requests, columns: int) -> None:
        self._bars = arrangement
        self._request = request
        self._cells = arrangement.cells
        labels = without_names(request[BarRequest].labels)
        self._figures = FiguresAt(self._cells, request, labels)
        self.notes = bar_notes(arrangement, request, self._figures, None)
        self._rows = Rows(words_for(self._cells.table, request, self.notes, figures_at=Place.SUBTITLE), columns)
        ways = arrangement.sides.ways if arrangement.sides else None
        self._inks = Inks(self._cells, request, look_of(request), ways)
        self._labelled = bool(labels)
        self._cut = cut_short(arrangement, request, self._figures.scale)
        self._outside = not arrangement.stacked and (self._labelled or bool(self._cut))
        self._second = self._cells.table.column_for(Purpose.SECOND)
        self._side_columns = side_columns_of(self._cells, request)
        self._axis = axis_of(arrangement, request, self._figures)
        self._label_room, self._start, self._track = self._columns(columns)
        self._bars_of: defaultdict[tuple[int, int], list[Shape]] = defaultdict(list)  # by panel and slot
        self._totals_of: defaultdict[tuple[int, int], list[Total]] = defaultdict(list)
        for bar in arrangement.bars:
            self._bars_of[bar.cell.panel, bar.cell.slot].append(bar)
        for total in arrangement.totals:
            self._totals_of[total.panel, total.slot].append(total)

    def screen(self, others: "Sequence[_RowsOfBars]", table: SummaryTable) -> Screen:
        """The finished page.

        Args:
            others: The bars of other figures, which follow under their titles.
            table: The table of all figures.
        """
        rows = self._rows
        if others:
            notes = [note for one in (self, *others) for note in one.notes]
            words = words_for(table, self._request, list(dict.fromkeys(notes)), figures_at=Place.TITLE)
            rows.words = replace(words, value_title="")  # each has one of its own
        rows.head()
        if self._cells.series:
            entries = [
                Entry(name, ink.fill, place, self._cells.series_key(place))
                for place, (name, ink) in enumerate(zip(self._cells.series, self._inks.series, strict=True))
            ]
            rows.legend(entries, self._start)
        for one in (self, *others):
            one.write_on(rows, titled_with_unit((one.column,), one.numbers) if others else "")
        table, column = self._cells.table, self._cells.column
        return rows.finished(alt_text(marked("Bar chart"), table, column, rows.words.title, self._figures.first))

    @property
    def column(self) -> Column:
        """The figure it draws."""
        return self._cells.column

    @property
    def numbers(self) -> NumbersRequest:
        """How its numbers are written."""
        return self._request[NumbersRequest]

    def write_on(self, rows: Rows, title: str) -> None:
        """Writes its bars on a page.

        Args:
            rows: The page.
            title: What stands over them; empty for nothing.
        """
        self._rows = rows
        rows.panel_title(title)
        for panel, panel_title in enumerate(self._cells.panels):
            rows.panel_title(panel_title)
            if self._side_columns:
                self._beside([one.heading for one in self._side_columns], MarkRole.ASIDE_HEADING)
                rows.skip()
            first = rows.row
            self._panel(panel)
            rows.reference_posts(self._axis.references, self._track, first)
            rows.skip()

    def _columns(self, columns: int) -> tuple[int, int, Track]:
        """Shares the width out between labels, bars and figures."""
        bars = self._bars
        most = max(columns * 2 // 5, 8)
        names = [self._indented(slot.label, slot.outer) for slot in self._cells.slots]
        signed = any(cell.flags for cell in self._cells.cells) and not (self._outside and self._labelled)
        label_room = min(max(columns_wide(name) for name in names) + signed, most)
        start = label_room + 1 if label_room else 0
        left = right = 0
        if self._outside:
            rooms = [(bar, columns_wide(self._label(bar)) + 1) for bar in bars.bars]
            right = max((room for bar, room in rooms if not bar.down), default=0)
            left = max((room for bar, room in rooms if bar.down), default=0)
        elif self._labelled:
            totals = [(total, columns_wide(self._figures.first.number(total.amount)) + 1) for total in bars.totals]
            right = max((room for total, room in totals if not total.down), default=0)
            left = max((room + 1 for total, room in totals if total.down), default=0)
        second = max((columns_wide(self._second_text(0, slot)) for slot in range(len(self._cells.slots))), default=0)
        second_room = second + 2 if second else 0
        second_room += sum(self._side_rooms())
        low, high = axis_span(self._axis)
        high = high if isnan(bars.apart) else max(bar.end for bar in bars.bars)
        room = max(columns - start - left - right - second_room - 1, 4)
        return label_room, start, Track(start + left, room, low, high)

    @staticmethod
    def _indented(label: str, outer: str) -> str:
        return f"  {label}" if outer else label

    def _panel(self, panel: int) -> None:
        cells = self._cells
        outer = ""
        for place, slot in enumerate(cells.slots):
            if slot.outer != outer and slot.outer:
                self._rows.text(0, fitted(slot.outer, self._rows.columns), MarkRole.GROUP_LABEL, bold=True)
                self._rows.skip()
            outer = slot.outer
            if self._label_room:
                signs = self._unwritten_signs(panel, place)
                label = fitted(self._indented(slot.label, slot.outer), self._label_room - len(signs)) + signs
                self._rows.text(self._label_room, label, MarkRole.CATEGORY, anchor=Anchor.END)
            text = self._second_text(panel, place)
            if text:
                beside = self._rows.columns - sum(self._side_rooms())
                self._rows.text(beside, text, MarkRole.SECOND, anchor=Anchor.END)
            self._beside([one.texts[panel][place] for one in self._side_columns], MarkRole.ASIDE)
            for bar in self._bars_of[panel, place]:
                self._bar(bar)
                if self._bars.lanes > 1:
                    self._rows.skip()
            self._totals(panel, place)
            self._rows.skip()

    def _side_rooms(self) -> list[int]:
        """How many columns each figure beside the bars takes."""
        texts = [[one.heading, *(text for panel in one.texts for text in panel)] for one in self._side_columns]
        return [max(map(columns_wide, each)) + 2 for each in texts]

    def _beside(self, texts: Sequence[str], role: MarkRole) -> None:
        """Texts in the columns beside the bars, on this row."""
        right = self._rows.columns
        for room, text in reversed(list(zip(self._side_rooms(), texts, strict=True))):
            self._rows.text(right, text, role, anchor=Anchor.END)
            right -= room

    def _second_text(self, panel: int, slot: int) -> str:
        if self._second is None:
            return ""
        total = self._cells.total(panel, slot)
        row = total.row if total else self._cells.stack(panel, slot)[0].row
        return f"● {figures_of(self._second).text(row)}{self._figures.signs(Flag(int(self._second.flags[row])))}"

    def _label(self, bar: Shape) -> str:
        text = self._figures.label(bar.cell) if self._labelled else ""
        if bar.cell in self._cut:
            text = f"» {text or self._figures.label(bar.cell, ('value',))}"
        return f"{text} {bar.cell.letters}".strip()

    def _bar(self, bar: Shape) -> None:
        row = self._rows.row
        key = self._cells.key(bar.cell)
        start, end = (self._track.at(value) for value in sorted((bar.start, bar.end)))
        fill = self._inks.of(bar.cell).fill
        if bar.cell.known:
            self._rows.add(Bar(start, end - start, row, fill, MarkRole.BAR, bar.cell.series, key))
        low = high = self._track.at(bar.end)
        if bar.whisker and self._outside:
            low, high = (self._track.at(value) for value in (bar.low, bar.high))
            self._rows.add(Whisker(low, high, row, INK, key))
        if self._outside:
            outside = floor(min(start, low)) - 1 if bar.down else -floor(-max(end, high)) + 1
            self._rows.text(outside, self._label(bar), MarkRole.VALUE, anchor=Anchor.END if bar.down else Anchor.START)
        elif self._labelled and self._holds_figure(bar):
            self._rows.inside((start + end) / 2, self._figures.label(bar.cell), fill, key)

    def _unwritten_signs(self, panel: int, slot: int) -> str:
        """The signs of figures that are written at no bar of a category: they stand at its name."""
        if self._outside and self._labelled:
            return ""
        signs = {
            sign
            for bar in self._bars_of[panel, slot]
            for sign in self._figures.signs(bar.cell.flags)
            if not (self._labelled and self._holds_figure(bar))
        }
        return "".join(sign for sign in SIGNS.values() if sign in signs)

    def _holds_figure(self, bar: Shape) -> bool:
        """Whether a segment is long enough for its figure, and the end of its side does not say it already."""
        start, end = (self._track.at(value) for value in sorted((bar.start, bar.end)))
        fits = columns_wide(self._figures.label(bar.cell)) + 2 <= int(end) - int(start)
        return fits and bar.cell.known and not self._alone(bar)

    def _alone(self, bar: Shape) -> bool:
        sides = self._bars.sides
        return sides is not None and (way := sides.ways[bar.cell.series]) != 0 and sides.ways.count(way) == 1

    def _totals(self, panel: int, slot: int) -> None:
        if not self._labelled or len(self._cells.series) < 2:
            return
        for total in self._totals_of[panel, slot]:
            if not (total.amount or self._bars.layout == "stacked"):
                continue
            at = self._track.at(total.at)
            outside = floor(at) - 1 if total.down else -floor(-at) + 1
            figure = self._figures.first.number(total.amount)
            self._rows.text(outside, figure, MarkRole.TOTAL, anchor=Anchor.END if total.down else Anchor.START)


def dot_rows(cells: ChartCells, request: Requests, columns: int) -> Screen:
    """Dots as rows of characters.

    Args:
        cells: The figures.
        request: Labels, words, axis and colours.
        columns: The width of the terminal.
    """
    chart = RowChart(cells, request, columns, dot_notes(cells, request), request[DotRequest].labels)
    axis = axis_of_dots(cells, request, chart.figures)
    track = chart.track(*axis_span(axis))

    def line(cell: Cell) -> str:
        at = track.column(cell.estimate)
        row = list("─" * at + " " * (int(track.width) - at))
        if cell.has_spread:
            first, last = track.column(cell.low), track.column(cell.high)
            row[first : last + 1] = list("├" + "─" * max(last - first - 1, 0) + "┤")[: last - first + 1]
        row[at] = "●"
        return "".join(row[: int(track.width)])

    chart.write(line, track, axis.references)
    return chart.finished(marked("Dot chart"))
