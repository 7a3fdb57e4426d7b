"""The columns of tables in documents: as wide as they need, and what stands over several of them."""

import re

from grainstack.chart.writing.character_columns import columns_wide
from grainstack.report.printing import Printed

CELL = 11.0  # points of a cell beside what is in it, as word processors have them
_BREAK = re.compile(r"\s+|(?<=-)")  # where a heading may be broken into lines
_SLACK = 1.2  # times what columns need, where there is room
LETTER = 6.0 / 9.0  # the width of a character in a wide typeface and in bold, by the size of the type


def widths(printed: Printed, size: float, room: float, cell: float = CELL) -> list[float]:
    """The widths of the columns of a table in points: what their cells and each word of their headings need.

    Where there is room, all are wider, as a reader's typeface may be; where there is not, words of headings give way
    first, so that no figure is ever broken, and in the end everything alike.

    Args:
        printed: The table.
        size: The size of its type in points.
        room: The width there is in points.
        cell: What a cell needs beside what is in it.
    """
    wide = needed(printed, size, cell)
    if sum(wide) <= room:
        return [one * min(_SLACK, room / sum(wide)) for one in wide]
    least = [min(one, other) for one, other in zip(_of_cells(printed, size, cell), wide, strict=True)]
    if sum(least) >= room:
        return [one * room / sum(least) for one in least]
    given = (room - sum(least)) / (sum(wide) - sum(least))
    return [one + given * (other - one) for one, other in zip(least, wide, strict=True)]


def needed(printed: Printed, size: float, cell: float = CELL) -> list[float]:
    """The widths that columns need, whatever room there is; see `widths`.

    Args:
        printed: The table.
        size: The size of its type in points.
        cell: What a cell needs beside what is in it.
    """
    words = [max(map(columns_wide, _BREAK.split(heading)), default=1) for heading in printed.heading]
    of_headings = [word * size * LETTER * _SLACK + cell for word in words]
    return [max(pair) for pair in zip(_of_cells(printed, size, cell), of_headings, strict=True)]


def _of_cells(printed: Printed, size: float, cell: float) -> list[float]:
    """The widths that cells need, those of headings aside: a figure stands on one line, and so does a label."""
    found = []
    for place, letter in enumerate(_letters(printed)):
        longest = max((columns_wide(row[place].strip()) for row in printed.rows), default=1)
        found.append(longest * size * letter + cell)
    return found


def _letters(printed: Printed) -> list[float]:
    """The width of a character of each column by the size of the type: figures are narrower than letters."""
    return [LETTER if right else LETTER * _SLACK for right in printed.right]


def headings(printed: Printed) -> list[tuple[str, ...]]:
    """The rows of the heading: what stands over several columns is over the first of them."""
    if not printed.above:
        return [printed.heading]
    above = [""] * len(printed.heading)
    for start, title in printed.above:
        above[start] = title
    return [tuple(above), printed.heading]
