"""Bars for a terminal: a scene measured in character cells instead of points, one row per bar."""

from math import isnan

from grainstack.chart.alt import alt_text
from grainstack.chart.arrange.bars import Bar, BarArrangement
from grainstack.chart.cells import cells_wide, fitted, lines_within
from grainstack.chart.numbers import number_style
from grainstack.chart.palette import FIELDS, INK, MUTED, text_on
from grainstack.chart.request import ChartRequest
from grainstack.chart.scene import Anchor, Key, Line, Mark, Rect, Scene, Text, Weight
from grainstack.chart.wording import words_for
from grainstack.summary.table import Column, SummaryTable

_HATCHES = ("", "light", "dense", "medium")


def terminal_scene(
    table: SummaryTable, column: Column, arrangement: BarArrangement, request: ChartRequest, columns: int
) -> Scene:
    """The bars as a scene whose unit is one character cell: x and width in columns, y and height in rows.

    Args:
        table: The summary.
        column: Which of its figures is drawn.
        arrangement: The same figures as bars.
        request: Labels and words.
        columns: The width of the terminal.
    """
    return _TerminalChart(table, column, arrangement, request, columns).scene()


class _TerminalChart:
    """One chart while it is being composed, row by row."""

    def __init__(
        self, table: SummaryTable, column: Column, arrangement: BarArrangement, request: ChartRequest, columns: int
    ) -> None:
        self._table = table
        self._column = column
        self._bars = arrangement
        self._columns = columns
        self._words = words_for(table, column, request.words)
        self._write = number_style(column.estimate.tolist(), column.unit)
        self._series = [level.label for level in table.series.levels] if table.series else []
        self._labelled = request.bars.label == "value"
        self._marks: list[Mark] = []
        self._row = 0
        self._settle_columns()

    def scene(self) -> Scene:
        """The finished scene."""
        self._lines(self._words.title, "title")
        self._lines(self._words.subtitle or self._words.value_title, "subtitle")
        self._row += 1
        if self._series:
            self._legend()
        for slot in range(self._bars.slots):
            self._slot(slot, [bar for bar in self._bars.bars if bar.slot == slot])
        self._row += 1
        self._lines(self._words.footnote, "footnote")
        self._lines(self._words.source, "source")
        alt = alt_text(self._table, self._column, self._words, self._write)
        return Scene(self._columns, self._row, tuple(self._marks), alt, self._words.title)

    def _settle_columns(self) -> None:
        """Shares the width out between labels, bars and figures."""
        lanes = max(len(self._series), 1)
        self._names = [self._table.levels_of(slot * lanes)[0].label for slot in range(self._bars.slots)]
        most = max(self._columns * 2 // 5, 8)
        self._label_room = min(max(cells_wide(name) for name in self._names), most)
        figures = [self._write(bar.estimate) for bar in self._bars.bars]
        outside = self._bars.layout in ("simple", "grouped") and self._labelled
        self._figure_room = max(cells_wide(figure) for figure in figures) + 1 if outside else 0
        self._left = self._label_room + 1
        low, high = self._bars.low, self._bars.high
        low_room = self._figure_room if low < 0 else 0
        self._left += low_room
        room = max(self._columns - self._left - self._figure_room - 1, 4)
        span = (high - low) or 1.0
        self._per_value = room / span
        self._zero = self._left - low * self._per_value

    def _lines(self, content: str, role: str) -> None:
        weight = Weight.SEMIBOLD if role == "title" else Weight.REGULAR
        for line in lines_within(content, self._columns):
            self._text(0, line, role, weight=weight)
            self._row += 1

    def _text(
        self, x: float, content: str, role: str, anchor: Anchor = Anchor.START, weight: Weight = Weight.REGULAR
    ) -> None:
        fill = MUTED if role in ("subtitle", "footnote", "source") else INK
        self._marks.append(Text(x, self._row, content, 1, cells_wide(content), fill, role, weight, anchor))

    def _legend(self) -> None:
        x = self._left
        for place, name in enumerate(self._series):
            content = fitted(name, self._columns - self._left - 3)
            if x > self._left and x + 3 + cells_wide(content) > self._columns:
                x, self._row = self._left, self._row + 1
            self._marks.append(
                Rect(
                    x, self._row, 2, 1, self._color(place), "legend-swatch", Key(series=name), hatch=self._hatch(place)
                )
            )
            self._text(x + 3, content, "legend")
            x += cells_wide(content) + 6
        self._row += 2

    def _color(self, series: int) -> str:
        return FIELDS[series % len(FIELDS)]

    def _hatch(self, series: int) -> str:
        return _HATCHES[series % len(_HATCHES)]

    def _slot(self, slot: int, bars: list[Bar]) -> None:
        self._text(self._label_room, fitted(self._names[slot], self._label_room), "category", Anchor.END)
        for bar in bars:
            self._bar(bar)
            if self._bars.lanes > 1:
                self._row += 1
        self._row += 1

    def _bar(self, bar: Bar) -> None:
        key = Key(category=self._names[bar.slot], series=self._series[bar.series] if self._series else "")
        start, end = (self._zero + value * self._per_value for value in sorted((bar.start, bar.end)))
        figure = self._write(bar.estimate) or "–"
        if not isnan(bar.estimate):
            self._marks.append(
                Rect(
                    start, self._row, end - start, 1, self._color(bar.series), "bar", key, hatch=self._hatch(bar.series)
                )
            )
        low = high = self._zero + bar.end * self._per_value
        if bar.whisker:
            low, high = (self._zero + value * self._per_value for value in (bar.low, bar.high))
            self._marks.append(Line(low, self._row + 0.5, high, self._row + 0.5, INK, 1, "whisker", key))
        if not self._labelled:
            return
        if self._bars.layout in ("simple", "grouped"):
            beyond = -(-max(end, high) // 1) + 1 if bar.end >= 0 else min(start, low) // 1 - 1
            self._text(beyond, figure, "value", Anchor.END if bar.end < 0 else Anchor.START)
        elif cells_wide(figure) + 2 <= int(end) - int(start):
            self._inside((start + end) / 2, figure, self._color(bar.series), key)

    def _inside(self, middle: float, figure: str, fill: str, key: Key) -> None:
        room = cells_wide(figure)
        self._marks.append(
            Text(round(middle - room / 2), self._row, figure, 1, room, text_on(fill), "value", ground=fill, key=key)
        )
