"""Bars for a terminal: a scene measured in character cells instead of points, one row per bar."""

from math import floor, isnan

from grainstack.chart.alt import alt_text
from grainstack.chart.arrange.bars import Bar, BarArrangement
from grainstack.chart.cells import cells_wide, fitted
from grainstack.chart.compose.figures_at import FiguresAt
from grainstack.chart.compose.inks import Inks
from grainstack.chart.compose.notes import bar_notes
from grainstack.chart.compose.rows import Rows
from grainstack.chart.figures import figures_of
from grainstack.chart.palette import INK
from grainstack.chart.request import ChartRequest
from grainstack.chart.scene import Anchor, Key, Line, Rect, Scene, Weight
from grainstack.chart.style import style_named
from grainstack.chart.wording import marks_of, words_for
from grainstack.summary.request import Purpose

_HATCHES = ("", "light", "dense", "medium")


def terminal_scene(arrangement: BarArrangement, request: ChartRequest, columns: int) -> Scene:
    """The bars as a scene whose unit is one character cell: x and width in columns, y and height in rows.

    Args:
        arrangement: The figures as bars.
        request: Labels, words and colours.
        columns: The width of the terminal.

    Raises:
        RequestError: A colour or highlight for a level that is not shown.
    """
    return _TerminalChart(arrangement, request, columns).scene()


class _TerminalChart:
    """One chart while it is being composed, row by row."""

    def __init__(self, arrangement: BarArrangement, request: ChartRequest, columns: int) -> None:
        self._bars = arrangement
        self._cells = arrangement.cells
        self._figures = FiguresAt(self._cells, request)
        self._words = words_for(
            self._cells.table,
            request.words,
            request.numbers,
            bar_notes(arrangement, request, self._figures, None),
            request.small.min_base or 30,
        )
        ways = arrangement.sides.ways if arrangement.sides else None
        self._inks = Inks(self._cells, request.colors, style_named(request.picture.style), ways)
        self._labelled = bool(request.bars.labels)
        self._rows = Rows(columns)
        self._outside = not arrangement.stacked and self._labelled
        self._second = self._cells.table.column_for(Purpose.SECOND)
        self._settle_columns(columns)

    def scene(self) -> Scene:
        """The finished scene."""
        rows, words = self._rows, self._words
        rows.lines(words.title, "title")
        rows.lines(words.subtitle or words.value_title, "subtitle")
        rows.skip()
        if self._cells.series:
            entries = [
                (name, ink.fill, self._hatch(place))
                for place, (name, ink) in enumerate(zip(self._cells.series, self._inks.series, strict=True))
            ]
            rows.legend(entries, self._start)
        for panel, title in enumerate(self._cells.panels):
            if title:
                rows.text(0, title, "panel-title", weight=Weight.SEMIBOLD)
                rows.skip()
            self._panel(panel)
            rows.skip()
        rows.lines(words.footnote, "footnote")
        rows.lines(words.source, "source")
        table, column = self._cells.table, self._cells.column
        alt = alt_text("Bar chart", table, column, words.title, self._figures.first)
        return rows.scene(alt, words.title)

    def _settle_columns(self, columns: int) -> None:
        """Shares the width out between labels, bars and figures."""
        bars = self._bars
        most = max(columns * 2 // 5, 8)
        names = [self._indented(slot.label, slot.outer) for slot in self._cells.slots]
        self._label_room = min(max(cells_wide(name) for name in names), most)
        self._start = self._label_room + 1 if self._label_room else 0
        left = right = 0
        if self._outside:
            rooms = [(bar, cells_wide(self._label(bar)) + 1) for bar in bars.bars]
            right = max((room for bar, room in rooms if not bar.down), default=0)
            left = max((room for bar, room in rooms if bar.down), default=0)
        elif self._labelled:
            totals = [(total, cells_wide(self._figures.first.number(total.amount)) + 1) for total in bars.totals]
            right = max((room for total, room in totals if not total.down), default=0)
            left = max((room + 1 for total, room in totals if total.down), default=0)
        second = max((cells_wide(self._second_text(0, slot)) for slot in range(len(self._cells.slots))), default=0)
        self._second_room = second + 2 if second else 0
        high = bars.high if isnan(bars.apart) else max(bar.end for bar in bars.bars)
        room = max(columns - self._start - left - right - self._second_room - 1, 4)
        self._per_value = room / ((high - bars.low) or 1.0)
        self._zero = self._start + left - bars.low * self._per_value
        self._end = columns

    @staticmethod
    def _indented(label: str, outer: str) -> str:
        return f"  {label}" if outer else label

    def _panel(self, panel: int) -> None:
        cells = self._cells
        outer = ""
        for place, slot in enumerate(cells.slots):
            if slot.outer != outer and slot.outer:
                self._rows.text(0, fitted(slot.outer, self._end), "group-label", weight=Weight.SEMIBOLD)
                self._rows.skip()
            outer = slot.outer
            own = [bar for bar in self._bars.bars if (bar.cell.panel, bar.cell.slot) == (panel, place)]
            if self._label_room:
                label = fitted(self._indented(slot.label, slot.outer), self._label_room)
                self._rows.text(self._label_room, label, "category", anchor=Anchor.END)
            text = self._second_text(panel, place)
            if text:
                self._rows.text(self._end, text, "second", anchor=Anchor.END)
            for bar in own:
                self._bar(bar)
                if self._bars.lanes > 1:
                    self._rows.skip()
            self._totals(panel, place)
            self._rows.skip()

    def _second_text(self, panel: int, slot: int) -> str:
        if self._second is None:
            return ""
        total = self._cells.total(panel, slot)
        row = total.row if total else self._cells.stack(panel, slot)[0].row
        return f"● {figures_of(self._second).text(row)}"

    def _hatch(self, series: int) -> str:
        return _HATCHES[series % len(_HATCHES)]

    def _label(self, bar: Bar) -> str:
        text = self._figures.label(bar.cell) if self._labelled else ""
        return f"{text} {bar.cell.letters}".strip()

    def _bar(self, bar: Bar) -> None:
        cells, row = self._cells, self._rows.row
        series = cells.series[bar.cell.series] if cells.series else ""
        key = Key(cells.panels[bar.cell.panel], cells.slots[bar.cell.slot].name, series)
        start, end = (self._zero + value * self._per_value for value in sorted((bar.start, bar.end)))
        fill = self._inks.of(bar.cell).fill
        if bar.cell.known:
            hatch = self._hatch(bar.cell.series)
            self._rows.add(Rect(start, row, end - start, 1, fill, "bar", key, hatch=hatch))
        low = high = self._zero + bar.end * self._per_value
        if bar.whisker and self._outside:
            low, high = (self._zero + value * self._per_value for value in (bar.low, bar.high))
            self._rows.add(Line(low, row + 0.5, high, row + 0.5, INK, 1, "whisker", key))
        if self._outside:
            beyond = floor(min(start, low)) - 1 if bar.down else -floor(-max(end, high)) + 1
            self._rows.text(beyond, self._label(bar), "value", anchor=Anchor.END if bar.down else Anchor.START)
        elif self._labelled and bar.cell.known:
            figure = self._figures.label(bar.cell)
            if cells_wide(figure) + 2 <= int(end) - int(start) and not self._alone(bar):
                self._rows.inside((start + end) / 2, figure, fill, key)

    def _alone(self, bar: Bar) -> bool:
        sides = self._bars.sides
        return sides is not None and (way := sides.ways[bar.cell.series]) != 0 and sides.ways.count(way) == 1

    def _totals(self, panel: int, slot: int) -> None:
        if not self._labelled or len(self._cells.series) < 2:
            return
        for total in self._bars.totals:
            if (total.panel, total.slot) != (panel, slot) or not (total.amount or self._bars.layout == "stacked"):
                continue
            at = self._zero + total.at * self._per_value
            beyond = floor(at) - 1 if total.down else -floor(-at) + 1
            flags = marks_of(self._cells.stack(panel, slot)[0].flags) if self._bars.layout == "diverging" else ""
            figure = self._figures.first.number(total.amount) + flags
            self._rows.text(beyond, figure, "total", anchor=Anchor.END if total.down else Anchor.START)
