"""Which cells of a table are tested against each other."""

from dataclasses import replace

import numpy as np

from grainstack.quick import dataclass
from grainstack.summary.levels.grid import grouping_of, lines_along
from grainstack.summary.levels.grouping import Grouping
from grainstack.summary.levels.shown_cells import ShownCells
from grainstack.summary.order import place_of
from grainstack.summary.sums.exact import Integers
from grainstack.summary.table import Dimension, Role


@dataclass(frozen=True, slots=True)
class Line:
    """Cells compared with each other: one series of one panel.

    Attributes:
        cells: The cells, totals left aside.
        keys: Their categories, shape (cells, categories).
        twin: What it tests; the lines of a yes and of its no test the same.
        reference: The cell all others are compared with; None where they are not compared with one.
    """

    cells: Integers
    keys: Integers
    twin: tuple[int, ...]
    reference: int | None

    def place(self, cell: int) -> tuple[int, ...]:
        """The categories of one of its cells."""
        return tuple(self.keys[int(np.flatnonzero(self.cells == cell)[0])].tolist())


def compared_lines(cells: ShownCells, compare: str, *, shares: bool) -> list[Line]:
    """The cells compared with each other, line by line.

    Args:
        cells: The cells shown.
        compare: `pairs`, `rest`, or the category all others are compared with.
        shares: Whether shares are compared, so that two series that make up a whole say the same.

    Raises:
        RequestError: There is no such category.
    """
    axes, series = cells.axes(Role.CATEGORY), cells.axes(Role.SERIES)
    place = None
    if compare not in ("pairs", "rest"):
        place = place_of(cells.dimensions[axes[-1]].variable, compare, also=("pairs", "rest"))
    totals = np.array([-1 if one.total is None else one.total for one in cells.dimensions])
    mirrored = shares and any(_is_yes_or_no(cells.dimensions[axis]) for axis in series)
    fixed = [axis for axis in range(len(cells.dimensions)) if axis not in axes and not (mirrored and axis in series)]
    lines = []
    for line in lines_along(cells.grid, axes, cells.dimensions):
        if not len(line) or (cells.grid[line[0]] == totals).any():
            continue
        one = next((int(cell) for cell in line if cells.grid[cell, axes[-1]] == place), None)
        lines.append(Line(line, cells.grid[line][:, axes], tuple(cells.grid[line[0], fixed].tolist()), one))
    return lines


def _is_yes_or_no(series: Dimension) -> bool:
    """Whether two levels make up a whole, so that one share says what the other does."""
    return series.plain == 2 and not (series.several or series.dropped or series.nets)


def plain_table(cells: ShownCells) -> tuple[Grouping, int, int]:
    """The categories by the series, without totals and panels and with one base; how many rows and columns it has."""
    axes = cells.axes(Role.CATEGORY, Role.SERIES)
    counts = [cells.dimensions[axis].plain for axis in axes]
    grid = np.array([(row, column) for row in range(counts[0]) for column in range(counts[1])], dtype=np.int64)
    plain = [
        replace(d, variable=replace(d.variable, levels=d.levels[:n]), nets=())
        for d, n in zip((cells.dimensions[axis] for axis in axes), counts, strict=True)
    ]
    return grouping_of(cells.keys[:, axes], cells.found, grid, plain, ()), counts[0], counts[1]
