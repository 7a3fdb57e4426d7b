"""Tables on pages: figures in line whatever follows them, rules, headings in as many lines as they need."""

import re
from collections.abc import Sequence

from grainstack.chart.scene import Anchor, Line, Mark, MarkRole, Text, Weight
from grainstack.chart.writing.text import width
from grainstack.report.documents.commonmark import Span
from grainstack.report.documents.setting import lines_of
from grainstack.report.printing import Printed

ROW = 1.55  # the height of a row by the size of its type
_BETWEEN = 12.0  # points between columns
_INK, _RULE = "#1f2a33", "#e3e6e8"
_TAIL = re.compile(r"[*†‡§]*(?: [a-z](?:[a-z, ])*)?$")  # marks and letters behind a figure


def widths(printed: Printed, size: float) -> list[float]:
    """The widths that the columns of a table need in points: headings break between words, cells do not.

    Args:
        printed: The table.
        size: The size of its type in points.
    """
    wide = []
    for place, (heading, *cells) in enumerate(zip(printed.heading, *printed.rows, strict=True)):
        parts = [_parted(cell) if printed.right[place] else (cell.strip(), "") for cell in cells]
        weights = [
            Weight.SEMIBOLD if printed.is_apart(number, place) else Weight.REGULAR for number in range(len(cells))
        ]
        figures = max((width(one, size, weight) for (one, _), weight in zip(parts, weights, strict=True)), default=0.0)
        tails = max((width(tail, size) for _, tail in parts), default=0.0)
        words = max((width(word, size, Weight.SEMIBOLD) for word in heading.split()), default=0.0)
        wide.append(max(figures, words) + tails + _BETWEEN)
    return wide


def _parted(cell: str) -> tuple[str, str]:
    """A figure, and the marks and letters behind it."""
    text = cell.strip()
    tail = match[0] if (match := _TAIL.search(text)) else ""
    return text[: len(text) - len(tail)], tail


class PageTable:
    """A table on its page.

    Args:
        left: Where it starts, in points from the edge of the page.
        printed: Its texts.
        columns: The widths of its columns in points.
        size: The size of its type in points.
    """

    def __init__(self, left: float, printed: Printed, columns: Sequence[float], size: float) -> None:
        self._left, self._printed, self._columns, self._size = left, printed, columns, size
        self._right = printed.right
        self._starts = [left + sum(columns[:place]) for place in range(len(columns))]
        self._tails = [
            max((width(_parted(row[place])[1], size) for row in printed.rows), default=0.0) if right else 0.0
            for place, right in enumerate(printed.right)
        ]

    @property
    def _end(self) -> float:
        """Where the last column ends."""
        return self._starts[-1] + self._columns[-1] - _BETWEEN

    def heading_height(self, rows: Sequence[Sequence[str]]) -> float:
        """The height of the rows of the heading."""
        return sum(self._lines_in(row) * self._size * 1.25 for row in rows) + self._size * 0.7

    def heading(self, rows: Sequence[Sequence[str]], top: float) -> list[Mark]:
        """The rows of the heading, their last lines in one, with a rule below."""
        marks: list[Mark] = []
        down = top
        for number, row in enumerate(rows):
            tall = self._lines_in(row) * self._size * 1.25
            over = number < len(rows) - 1
            for place, text in enumerate(row):
                lines = self._broken(text, place, over=over)
                for line, words in enumerate(reversed(lines)):
                    baseline = down + tall - line * self._size * 1.25 - self._size * 0.3
                    marks.append(self._set(words, place, baseline, Weight.SEMIBOLD, left=over))
            down += tall
        return [*marks, Line(self._left, down + 1, self._end, down + 1, _INK, 0.6, MarkRole.WORDS)]

    def row(self, number: int, top: float) -> list[Mark]:
        """A row of cells, by its number; those of nets and totals are set apart."""
        row = self._printed.rows[number]
        baseline = top + self._size * 1.15
        marks: list[Mark] = []
        for place, cell in enumerate(row):
            figure, tail = _parted(cell) if self._right[place] else (cell.strip(), "")
            weight = Weight.SEMIBOLD if self._printed.is_apart(number, place) else Weight.REGULAR
            marks.append(self._set(figure, place, baseline, weight))
            if tail:
                at = self._edge(place)
                marks.append(Text(at, baseline, tail, self._size, width(tail, self._size), _INK, MarkRole.WORDS))
        bottom = top + self._size * ROW
        return [*marks, Line(self._left, bottom, self._end, bottom, _RULE, 0.4, MarkRole.WORDS)]

    def _edge(self, place: int) -> float:
        """Where the figures of a column end."""
        return self._starts[place] + self._columns[place] - _BETWEEN - self._tails[place]

    def _set(self, text: str, place: int, baseline: float, weight: Weight, *, left: bool = False) -> Text:
        wide = width(text, self._size, weight)
        if self._right[place] and not left:
            return Text(self._edge(place), baseline, text, self._size, wide, _INK, MarkRole.WORDS, weight, Anchor.END)
        return Text(self._starts[place], baseline, text, self._size, wide, _INK, MarkRole.WORDS, weight)

    def _lines_in(self, row: Sequence[str]) -> int:
        return max(len(self._broken(text, place, over=False)) for place, text in enumerate(row))

    def _broken(self, text: str, place: int, *, over: bool) -> list[str]:
        """A title in lines as wide as its column; what stands over several may go on."""
        if over:
            return [text.strip()]
        room = self._columns[place] - _BETWEEN - self._tails[place] + 0.5
        lines = lines_of([Span(text.strip())], self._size, room, Weight.SEMIBOLD)
        return [" ".join(one.piece.text for one in line) for line in lines]
