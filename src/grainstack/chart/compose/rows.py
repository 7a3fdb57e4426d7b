"""A page of character cells that grows row by row: what every chart for a terminal is made of."""

from collections.abc import Sequence

from grainstack.chart.cells import cells_wide, fitted, lines_within
from grainstack.chart.palette import INK, MUTED, text_on
from grainstack.chart.scene import Anchor, Key, Mark, Rect, Scene, Text, Weight

_QUIET = ("subtitle", "footnote", "source")


class Rows:
    """Marks placed on rows; x and width in columns, y in rows.

    Args:
        columns: The width of the terminal.
    """

    def __init__(self, columns: int) -> None:
        self.columns = columns
        self.row = 0
        self._marks: list[Mark] = []

    def skip(self) -> None:
        """Goes on to the next row."""
        self.row += 1

    def add(self, mark: Mark) -> None:
        """Places any mark."""
        self._marks.append(mark)

    def text(
        self, x: float, content: str, role: str, *, anchor: Anchor = Anchor.START, weight: Weight = Weight.REGULAR
    ) -> None:
        """Places a text on this row."""
        fill = MUTED if role in _QUIET else INK
        self.add(Text(x, self.row, content, 1, cells_wide(content), fill, role, weight, anchor))

    def lines(self, content: str, role: str) -> None:
        """Places a text over as many rows as it needs, and goes on to the next."""
        weight = Weight.SEMIBOLD if role == "title" else Weight.REGULAR
        for line in lines_within(content, self.columns):
            self.text(0, line, role, weight=weight)
            self.skip()

    def legend(self, entries: Sequence[tuple[str, str, str]], left: int) -> None:
        """Names with their colours and patterns, and an empty row below."""
        x = left
        for name, fill, hatch in entries:
            content = fitted(name, self.columns - left - 3)
            if x > left and x + 3 + cells_wide(content) > self.columns:
                x = left
                self.skip()
            self.add(Rect(x, self.row, 2, 1, fill, "legend-swatch", Key(series=name), hatch=hatch))
            self.text(x + 3, content, "legend")
            x += cells_wide(content) + 6
        self.row += 2

    def inside(self, middle: float, figure: str, fill: str, key: Key) -> None:
        """Places a figure on a bar of a colour."""
        room = cells_wide(figure)
        start = round(middle - room / 2)
        self.add(Text(start, self.row, figure, 1, room, text_on(fill), "value", ground=fill, key=key))

    def scene(self, alt: str, title: str) -> Scene:
        """Everything placed so far."""
        return Scene(self.columns, self.row, tuple(self._marks), alt, title)
