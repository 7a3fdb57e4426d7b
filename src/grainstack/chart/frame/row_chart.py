"""A chart for a terminal with one row of characters for every figure: its label, its line, and its figure."""

from collections.abc import Callable, Sequence

from grainstack.chart.cells import Cell, ChartCells
from grainstack.chart.frame.rows import Rows, Track
from grainstack.chart.look.house import look_of
from grainstack.chart.look.inks import Inks
from grainstack.chart.scene import Anchor, MarkRole
from grainstack.chart.screen import Characters, Screen
from grainstack.chart.writing.alt import alt_text
from grainstack.chart.writing.columns import columns_wide, fitted
from grainstack.chart.writing.figures_at import FiguresAt, without_names
from grainstack.chart.writing.wording import Place, marks_of, words_for
from grainstack.language import phrase
from grainstack.requests import Requests

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
            return f"{phrase('n = {base}', base=cell.base_in_words)}{marks_of(cell.flags)}"
        return f"{self.figures.label(cell)} {cell.letters}".strip()
