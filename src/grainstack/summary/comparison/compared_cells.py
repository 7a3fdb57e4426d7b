"""Which cells of a table are tested against each other."""

from dataclasses import replace

import numpy as np

from grainstack.summary.levels.grid import grouping_of, lines_along
from grainstack.summary.levels.grouping import Grouping
from grainstack.summary.levels.shown_cells import ShownCells
from grainstack.summary.order import place_of
from grainstack.summary.sums.exact import Integers
from grainstack.summary.table import ALL, Role


def compared_lines(cells: ShownCells) -> list[Integers]:
    """The cells compared with each other, one array per line: one series of one panel, totals left aside."""
    totals = np.array([-1 if total is None else total for total in cells.totals])
    lines = lines_along(cells.grid, cells.axes(Role.CATEGORY), cells.totals)
    return [line for line in lines if len(line) and (cells.grid[line[0]] != totals).all()]


def references(cells: ShownCells, lines: list[Integers], compare: str) -> list[int | None]:
    """For each line the cell that all others are compared with; None where they are not compared with one.

    Args:
        cells: The cells shown.
        lines: The cells compared with each other.
        compare: `pairs`, `rest`, or the category all others are compared with.

    Raises:
        RequestError: There is no such category.
    """
    if compare in ("pairs", "rest"):
        return [None for _ in lines]
    axis = cells.axes(Role.CATEGORY)[-1]
    place = place_of(cells.dimensions[axis].variable, compare, also=("pairs", "rest"))
    return [next((int(cell) for cell in line if cells.grid[cell, axis] == place), None) for line in lines]


def plain_table(cells: ShownCells) -> tuple[Grouping, int, int]:
    """The categories by the series, without totals and panels and with one base; how many rows and columns it has."""
    axes = cells.axes(Role.CATEGORY, Role.SERIES)
    counts = [len(cells.dimensions[axis].levels) - (ALL in cells.dimensions[axis].levels) for axis in axes]
    grid = np.array([(row, column) for row in range(counts[0]) for column in range(counts[1])], dtype=np.int64)
    plain = [
        replace(d, variable=replace(d.variable, levels=d.levels[:n]))
        for d, n in zip((cells.dimensions[axis] for axis in axes), counts, strict=True)
    ]
    return grouping_of(cells.keys[:, axes], cells.found, grid, plain, ()), counts[0], counts[1]
