"""The columns of tables in documents: as wide as they need, and what stands over several of them."""

from grainstack.chart.writing.columns import columns_wide
from grainstack.report.printing import Printed

CELL = 11.0  # points of a cell beside what is in it, as word processors have them
_SLACK = 1.2  # times what columns need, where there is room
LETTER = 6.0 / 9.0  # the width of a character in a wide typeface and in bold, by the size of the type


def widths(printed: Printed, size: float, room: float, cell: float = CELL) -> list[float]:
    """The widths of the columns of a table in points: what their cells and each word of their headings need.

    Headings break between words, figures should not; where all is too wide for the page, everything shrinks alike, and
    where it is not, a reader's typeface may be wider than was thought.

    Args:
        printed: The table.
        size: The size of its type in points.
        room: The width there is in points.
        cell: What a cell needs beside what is in it.
    """
    wide = needed(printed, size, cell)
    return [one * min(_SLACK, room / sum(wide)) for one in wide]


def needed(printed: Printed, size: float, cell: float = CELL) -> list[float]:
    """The widths that columns need, whatever room there is; see `widths`.

    Args:
        printed: The table.
        size: The size of its type in points.
        cell: What a cell needs beside what is in it.
    """
    wide = []
    for right, heading, *cells in zip(printed.right, printed.heading, *printed.rows, strict=True):
        texts = [*heading.split(), *(text.strip() for text in cells)]
        letter = LETTER if right else LETTER * _SLACK  # figures are narrower than letters
        wide.append(max(map(columns_wide, texts), default=1) * size * letter + cell)
    return wide


def headings(printed: Printed) -> list[tuple[str, ...]]:
    """The rows of the heading: what stands over several columns is over the first of them."""
    if not printed.above:
        return [printed.heading]
    above = [""] * len(printed.heading)
    for start, title in printed.above:
        above[start] = title
    return [tuple(above), printed.heading]
