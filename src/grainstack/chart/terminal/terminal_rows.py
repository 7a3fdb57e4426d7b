"""A page of character columns that grows row by row: the frame of every chart for a terminal."""

from collections.abc import Callable, Sequence

from msgspec import Struct

from grainstack.chart.cells import Cell, ChartCells
from grainstack.chart.look.color import text_on
from grainstack.chart.look.inks import Inks
from grainstack.chart.look.palette import MUTED
from grainstack.chart.look.style_file import look_of
from grainstack.chart.marks import Anchor, Key, MarkRole
from grainstack.chart.terminal.screen import Bar, Characters, Post, Screen, ScreenMark
from grainstack.chart.writing.character_columns import columns_wide, fitted, lines_within
from grainstack.chart.writing.figures_at import FiguresAt, without_names
from grainstack.chart.writing.signs import SIGNS
from grainstack.chart.writing.wording import Place, Words, alt_text, words_for
from grainstack.language import phrase
from grainstack.requests import Requests


class Entry(Struct, frozen=True):
    """An entry of a legend: a name, its colour and its pattern, and which series it is."""

    name: str
    fill: str
    pattern: int
    key: Key


class Track(Struct, frozen=True):
    """The columns between which values are drawn.

    Attributes:
        start: The column of the lowest value.
        width: How many columns there are.
        low: The lowest value.
        high: The highest.
    """

    start: float
    width: float
    low: float
    high: float

    def at(self, value: float) -> float:
        """Where a value stands, in columns; values beyond the track stand at its end."""
        inside = min(max(value, self.low), self.high)
        return self.start + (inside - self.low) * self.width / ((self.high - self.low) or 1.0)

    def column(self, value: float) -> int:
        """The whole column, counted from the start of the track, in which a value stands."""
        inside = min(max(value, self.low), self.high)
        place = round((inside - self.low) / ((self.high - self.low) or 1.0) * (self.width - 1))
        return min(max(place, 0), int(self.width) - 1)


class Rows:
    """A chart for a terminal while it is being written.

    Args:
        words: Title, subtitle and notes.
        columns: The width of the terminal.
    """

    def __init__(self, words: Words, columns: int) -> None:
        self.words = words
        self.columns = columns
        self.row = 0
        self._marks: list[ScreenMark] = []

    def head(self) -> None:
        """Title and subtitle, or what the values are, and an empty row."""
        self.lines(self.words.title, MarkRole.TITLE, bold=True)
        self.lines(self.words.subtitle or self.words.value_title, MarkRole.SUBTITLE)
        self.skip()

    def finished(self, alt: str) -> Screen:
        """The page with its notes."""
        texts = (mark.content for mark in self._marks if isinstance(mark, Characters) and mark.role in _WITH_SIGNS)
        drawn = set(SIGNS.values()).intersection("".join(texts))
        self.lines(self.words.explaining(drawn).footnote, MarkRole.FOOTNOTE)
        self.lines(self.words.source, MarkRole.SOURCE)
        return Screen(self.columns, self.row, tuple(self._marks), alt, self.words.title)

    def skip(self, rows: int = 1) -> None:
        """Goes on some rows."""
        self.row += rows

    def add(self, mark: ScreenMark) -> None:
        """Places any mark."""
        self._marks.append(mark)

    def text(
        self, column: float, content: str, role: MarkRole, *, anchor: Anchor = Anchor.START, bold: bool = False
    ) -> None:
        """Places a text on this row, its end at the column where it is anchored there."""
        start = int(column - (columns_wide(content) if anchor is Anchor.END else 0))
        self.add(Characters(start, self.row, content, role, bold))

    def lines(self, content: str, role: MarkRole, *, bold: bool = False) -> None:
        """Places a text over as many rows as it needs, and goes on to the next."""
        for line in lines_within(content, self.columns):
            self.text(0, line, role, bold=bold)
            self.skip()

    def panel_title(self, title: str) -> None:
        """Names a panel; without a name nothing is written."""
        if title:
            self.text(0, title, MarkRole.PANEL_TITLE, bold=True)
            self.skip()

    def legend(self, entries: Sequence[Entry], left: int) -> None:
        """Names with their colours and patterns, and an empty row below."""
        x = left
        for entry in entries:
            content = fitted(entry.name, self.columns - left - 3)
            if x > left and x + 3 + columns_wide(content) > self.columns:
                x = left
                self.skip()
            self.add(Bar(x, 2, self.row, entry.fill, MarkRole.LEGEND_SWATCH, entry.pattern, entry.key))
            self.text(x + 3, content, MarkRole.LEGEND)
            x += columns_wide(content) + 6
        self.row += 2

    def inside(self, middle: float, figure: str, fill: str, key: Key) -> None:
        """Places a figure on a bar of a colour."""
        start = round(middle - columns_wide(figure) / 2)
        self.add(Characters(start, self.row, figure, MarkRole.VALUE, fill=text_on(fill), ground=fill, key=key))

    def reference_posts(self, references: Sequence[tuple[float, str]], track: Track, first: int) -> None:
        """Upright lines at reference values from a row down to this one, behind what is there, and their labels."""
        inside = [(value, label) for value, label in references if track.low <= value <= track.high]
        if not inside:
            return
        for value, _ in inside:
            for row in range(first, self.row):
                self.add(Post(int(track.at(value)), row))
        free = 0
        for value, label in sorted(inside):
            column = int(track.at(value))
            content = fitted(f"╵ {label}".rstrip(), max(self.columns - column, 1))
            if column < free:
                self.skip()
            self.add(Characters(column, self.row, content, MarkRole.REFERENCE_LABEL, fill=MUTED))
            free = column + columns_wide(content) + 1
        self.skip()


_WITH_SIGNS = frozenset(  # roles of texts that hold figures
    (MarkRole.ASIDE, MarkRole.BASE, MarkRole.CATEGORY, MarkRole.SECOND, MarkRole.TOTAL, MarkRole.VALUE)
)
_LEAST = 8  # columns: less than that shows nothing of a distribution
_MOST_LABEL = 2 / 5  # of the width: names are shortened before the drawing is squeezed further


class RowChart:
    """Such a chart while it is being written.

    Args:
        cells: The figures.
        request: Words, numbers and colours.
        columns: The width of the terminal.
        notes: Sentences for the footnote besides those of the table.
        labels: What is written at the end of each row; None for the base.
    """

    def __init__(
        self,
        cells: ChartCells,
        request: Requests,
        columns: int,
        notes: Sequence[str],
        labels: Sequence[str] | None = None,
    ) -> None:
        self._cells = cells
        self._with_bases = labels is None
        self.figures = FiguresAt(cells, request, without_names(labels or ()))
        self.rows = Rows(words_for(cells.table, request, notes, figures_at=Place.SUBTITLE), columns)
        self._inks = Inks(cells, request, look_of(request))
        names = [self._name(cell) for cell in cells.cells]
        self._label_room = min(max(columns_wide(name) for name in names), int(columns * _MOST_LABEL))
        self._texts = {cell.row: self._text(cell) for cell in cells.cells}
        taken = max(columns_wide(text) for text in self._texts.values())
        self._width = max(columns - self._label_room - taken - 3, _LEAST)

    def track(self, low: float, high: float) -> Track:
        """The columns between which values are drawn."""
        return Track(self._label_room + 1, self._width, low, high)

    def write(
        self,
        line: Callable[[Cell], str],
        track: Track,
        references: Sequence[tuple[float, str]],
        ends: tuple[str, str] | None = None,
    ) -> None:
        """A row for every figure, posts at reference values, and the ends of the value axis where they are wanted.

        Args:
            line: Draws a figure in as many characters as the track is wide.
            track: Where it is drawn.
            references: Values marked, with their labels.
            ends: What is written under the ends of the rows; None for nothing.
        """
        rows, cells = self.rows, self._cells
        rows.head()
        first, before = rows.row, ""
        for cell in cells.cells:
            panel = cells.panels[cell.panel]
            if panel != before:
                rows.panel_title(panel)
            before = panel
            rows.text(
                self._label_room, fitted(self._name(cell), self._label_room), MarkRole.CATEGORY, anchor=Anchor.END
            )
            if cell.known:
                ink = self._inks.of(cell).fill
                rows.add(Characters(int(track.start), rows.row, line(cell), MarkRole.BAR, fill=ink))
            rows.text(rows.columns, self._texts[cell.row], MarkRole.VALUE, anchor=Anchor.END)
            rows.skip()
        rows.reference_posts(references, track, first)
        if ends:
            rows.text(track.start, ends[0], MarkRole.TICK)
            rows.text(track.start + track.width, ends[1], MarkRole.TICK, anchor=Anchor.END)
            rows.skip(2)
        else:
            rows.skip()

    def finished(self, kind: str) -> Screen:
        """The page with its notes.

        Args:
            kind: What the chart is called in the text for readers who cannot see it.
        """
        cells = self._cells
        return self.rows.finished(alt_text(kind, cells.table, cells.column, self.rows.words.title, self.figures.first))

    def _name(self, cell: Cell) -> str:
        series = self._cells.series[cell.series] if self._cells.series else ""
        return " · ".join(part for part in (self._cells.slots[cell.slot].name, series) if part)

    def _text(self, cell: Cell) -> str:
        if self._with_bases:
            return f"{phrase('n = {base}', base=cell.base_in_words)}{self.figures.signs(cell.flags)}"
        return f"{self.figures.label(cell)} {cell.letters}".strip()
