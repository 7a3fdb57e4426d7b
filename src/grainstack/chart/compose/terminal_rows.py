"""Dots and distributions for a terminal: one row of characters per category and series."""

from collections.abc import Callable, Sequence

import numpy as np

from grainstack.chart.alt import alt_text
from grainstack.chart.arrange.cells import Cell, ChartCells
from grainstack.chart.arrange.distribution import Distribution, boxes_of, edges_of, heights_of
from grainstack.chart.cells import cells_wide, fitted
from grainstack.chart.compose.distribution import distribution_notes, rounded_extent
from grainstack.chart.compose.dots import dot_notes, extent
from grainstack.chart.compose.figures_at import FiguresAt
from grainstack.chart.compose.inks import Inks
from grainstack.chart.compose.rows import Rows
from grainstack.chart.request import ChartRequest
from grainstack.chart.scene import Anchor, Scene, Weight
from grainstack.chart.style import style_named
from grainstack.chart.wording import words_for, words_of_distribution

_BLOCKS = " ▁▂▃▄▅▆▇█"


def dot_rows(cells: ChartCells, request: ChartRequest, columns: int) -> Scene:
    """Dots as a scene of characters: a row per category with a stem, dots and the ends of whiskers."""
    page = _Page(cells, request, columns, dot_notes(cells, request))
    low, high = extent(cells)
    page.head()

    def line(cell: Cell, wide: int) -> str:
        place = _scale(low, high, wide)
        row = list("─" * (place(cell.estimate)) + " " * (wide - place(cell.estimate)))
        if cell.has_spread:
            first, last = place(cell.low), place(cell.high)
            row[first : last + 1] = list("├" + "─" * max(last - first - 1, 0) + "┤")[: last - first + 1]
        row[place(cell.estimate)] = "●"
        return "".join(row[:wide])

    page.rows_of(line, values=True)
    return page.finished("Dot chart")


def distribution_rows(
    distribution: Distribution, request: ChartRequest, form: str, bands: str | None, columns: int
) -> Scene:
    """Distributions as a scene of characters: boxes on one line each, or bands as columns of eighths."""
    cells = distribution.cells
    notes = distribution_notes(distribution, request, form)
    page = _Page(cells, request, columns, notes, distribution=True)
    low, high = rounded_extent(distribution)
    boxes = {box.cell.row: box for box in boxes_of(distribution)}
    counted = dict(zip((cell.row for cell in cells.cells), distribution.values, strict=True))
    page.head()

    def box(cell: Cell, wide: int) -> str:
        place = _scale(low, high, wide)
        one = boxes[cell.row]
        row = [" "] * wide
        for value in one.outliers:
            row[place(value)] = "·"
        row[place(one.low) : place(one.high) + 1] = ["─"] * (place(one.high) - place(one.low) + 1)
        row[place(one.low)], row[place(one.high)] = "├", "┤"
        row[place(one.lower) : place(one.upper) + 1] = ["▒"] * (place(one.upper) - place(one.lower) + 1)
        row[place(one.median)] = "┃"
        row[place(cell.estimate)] = "○" if place(cell.estimate) != place(one.median) else "◉"
        return "".join(row)

    def profile(cell: Cell, wide: int) -> str:
        edges = edges_of(distribution, bands) if bands else np.linspace(low, high, wide + 1)
        heights = heights_of(counted[cell.row], edges)
        top = max(float(heights.max(initial=0.0)), 1e-300)
        eighths = [8 if height == top else int(height / top * 8) for height in heights.tolist()]
        return "".join(_BLOCKS[max(n, 1 if h else 0)] for n, h in zip(eighths, heights.tolist(), strict=True))[:wide]

    page.rows_of(box if form == "box" else profile, values=False)
    page.ends(low, high)
    return page.finished("Box plot" if form == "box" else "Histogram")


def _scale(low: float, high: float, wide: int) -> Callable[[float], int]:
    """Turns a value into its column."""
    span = (high - low) or 1.0
    return lambda value: min(max(round((value - low) / span * (wide - 1)), 0), wide - 1)


class _Page:
    """The frame of such a chart."""

    def __init__(
        self,
        cells: ChartCells,
        request: ChartRequest,
        columns: int,
        notes: Sequence[str],
        *,
        distribution: bool = False,
    ) -> None:
        asked = request.words
        if distribution:
            asked = words_of_distribution(cells.table, asked, request.numbers)
        self._cells = cells
        self._figures = FiguresAt(cells, request)
        self._words = words_for(cells.table, asked, request.numbers, notes, request.small.min_base or 30)
        self._inks = Inks(cells, request.colors, style_named(request.picture.style))
        self._rows = Rows(columns)
        names = [self._name(cell) for cell in cells.cells]
        self._label_room = min(max(cells_wide(name) for name in names), columns * 2 // 5)
        self._wide = 0

    def _name(self, cell: Cell) -> str:
        series = self._cells.series[cell.series] if self._cells.series else ""
        return " · ".join(part for part in (self._cells.slots[cell.slot].name, series) if part)

    def head(self) -> None:
        """Title and unit."""
        self._rows.lines(self._words.title, "title")
        self._rows.lines(self._words.subtitle or self._words.value_title, "subtitle")
        self._rows.skip()

    def rows_of(self, line: Callable[[Cell, int], str], *, values: bool) -> None:
        """A row for every cell with its label, the line drawn for it, and its figure or base."""
        rows, cells = self._rows, self._cells
        texts = {
            cell.row: self._figures.label(cell) + (f" {cell.letters}" if cell.letters else "")
            if values
            else f"n = {cell.base:,}"
            for cell in cells.cells
        }
        room = max(cells_wide(text) for text in texts.values())
        self._wide = max(rows.columns - self._label_room - room - 3, 8)
        before = ""
        for cell in cells.cells:
            panel = cells.panels[cell.panel]
            if panel != before:
                rows.text(0, panel, "panel-title", weight=Weight.SEMIBOLD)
                rows.skip()
            before = panel
            rows.text(self._label_room, fitted(self._name(cell), self._label_room), "category", anchor=Anchor.END)
            if cell.known:
                rows.text(self._label_room + 1, line(cell, self._wide), "bar")
            rows.text(rows.columns, texts[cell.row], "value", anchor=Anchor.END)
            rows.skip()
        rows.skip()

    def ends(self, low: float, high: float) -> None:
        """The ends of the value axis under the lines."""
        rows = self._rows
        rows.row -= 1
        rows.text(self._label_room + 1, self._figures.first.number(low), "tick")
        end = self._label_room + 1 + self._wide
        rows.text(end, self._figures.first.number(high), "tick", anchor=Anchor.END)
        rows.row += 2

    def finished(self, kind: str) -> Scene:
        """The page with its notes."""
        self._rows.lines(self._words.footnote, "footnote")
        self._rows.lines(self._words.source, "source")
        alt = alt_text(kind, self._cells.table, self._cells.column, self._words.title, self._figures.first)
        return self._rows.scene(alt, self._words.title)
