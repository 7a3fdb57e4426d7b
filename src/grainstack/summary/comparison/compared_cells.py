"""Which cells of a table are tested against each other."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from grainstack.errors import RequestError, nearest
from grainstack.option_names import option
from grainstack.records.time_words import YEAR_BEFORE, year_before
from grainstack.records.variable import LevelOrder
from grainstack.summary.levels.grid import grouping_of, lines_along
from grainstack.summary.levels.grouping import Grouping
from grainstack.summary.levels.shown_cells import ShownCells
from grainstack.summary.order import place_of
from grainstack.summary.sums.exact import Integers
from grainstack.summary.table import Dimension, Role

_RUNNING = (LevelOrder.KNOWN, LevelOrder.NUMBERS, LevelOrder.BANDS, LevelOrder.LISTED)


PAIRWISE = ("pairs", "answers", "rest")  # what is compared without a level being named


RUNNING = ("previous", YEAR_BEFORE, "first")  # levels that a change can start from, by their place in the order


class Line(Struct, frozen=True):
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


def compared_lines(cells: ShownCells, compare: str, between: Role, *, shares: bool) -> list[Line]:
    """The cells compared with each other, line by line.

    Args:
        cells: The cells shown.
        compare: `pairs`, `answers`, `rest`, or the level all others are compared with.
        between: Whether categories are compared, or series.
        shares: Whether shares of groups are compared, so that two levels that make up a whole say the same.

    Raises:
        RequestError: There is no such level.
    """
    axes = cells.axes(between)
    others = [axis for axis in cells.axes(Role.CATEGORY, Role.SERIES) if axis not in axes]
    place = None
    if compare not in PAIRWISE:
        place = place_of(cells.dimensions[axes[-1]].variable, compare, also=PAIRWISE)
    totals = np.array([-1 if one.total is None else one.total for one in cells.dimensions])
    mirrored = [axis for axis in others if shares and _is_yes_or_no(cells.dimensions[axis])]
    fixed = [axis for axis in range(len(cells.dimensions)) if axis not in axes and axis not in mirrored]
    lines = []
    for line in lines_along(cells.grid, axes, cells.dimensions):
        if not len(line) or (cells.grid[line[0]] == totals).any():
            continue
        one = next((int(cell) for cell in line if cells.grid[cell, axes[-1]] == place), None)
        lines.append(Line(line, cells.grid[line][:, axes], tuple(cells.grid[line[0], fixed].tolist()), one))
    return lines


def compared_role(cells: ShownCells, compare: str, base: str) -> Role:
    """What is compared with what: groups, each of which is a whole of its own; else, or where asked for, answers.

    Shares of each series are compared between series, answer by answer, as readers of a table compare its columns.

    Args:
        cells: The cells shown.
        compare: `pairs`, `answers`, `rest`, or the level all others are compared with.
        base: What shares are shares of; empty for other figures.
    """
    series = cells.axes(Role.SERIES)
    if base != "series" or not series or compare == "answers":
        return Role.CATEGORY
    names = [{level.label, level.code} for axis in series for level in cells.dimensions[axis].levels]
    return Role.SERIES if compare in PAIRWISE or any(compare in one for one in names) else Role.CATEGORY


def changing_lines(cells: ShownCells, axis: int, relative_to: str) -> list[Line]:
    """The cells along one dimension, line by line, totals and nets of all others among them.

    Args:
        cells: The cells shown.
        axis: The dimension.
        relative_to: One of `RUNNING`, or the level all others are compared with.

    Raises:
        RequestError: There is no such level.
    """
    dimension = cells.dimensions[axis]
    natural = dimension.natural_places()
    place: int | None = natural[0]
    if relative_to not in RUNNING:
        place = place_of(dimension.variable, relative_to, also=RUNNING)
    elif not goes_in_order(dimension):
        raise RequestError(
            f"`{dimension.variable.name}` has no order of its own, so that nothing comes before.",
            'Name the level to compare with, or give its levels an order: kind = "ordered" in a codebook.',
        )
    rank = {level: order for order, level in enumerate(natural)}
    fixed = [other for other in range(len(cells.dimensions)) if other != axis]
    lines = []
    for drawn in lines_along(cells.grid, [axis], cells.dimensions):
        if not len(drawn):
            continue
        line = np.array(sorted(drawn.tolist(), key=lambda cell: rank[int(cells.grid[cell, axis])]))
        cell = next((int(one) for one in line if cells.grid[one, axis] == place), None)
        lines.append(Line(line, cells.grid[line][:, [axis]], tuple(cells.grid[line[0], fixed].tolist()), cell))
    return lines


def a_year_apart(lines: Sequence[Line], cells: ShownCells, axis: int) -> list[Line]:
    """Each two cells of some lines that are a year apart, the earlier one first.

    Args:
        lines: The cells along a dimension.
        cells: The cells shown.
        axis: The dimension.

    Raises:
        RequestError: Its levels are no times, or none is a year before another.
    """
    dimension = cells.dimensions[axis]
    before = year_before([level.label for level in dimension.levels[: dimension.plain]])
    found = []
    for line in lines:
        by_place = {int(cells.grid[cell, axis]): number for number, cell in enumerate(line.cells.tolist())}
        for place, number in by_place.items():
            year_ago = before[place]
            if year_ago is not None and year_ago in by_place:
                both = [by_place[year_ago], number]
                found.append(Line(line.cells[both], line.keys[both], line.twin, int(line.cells[both[0]])))
    if not found:
        raise RequestError(
            f"No level of `{dimension.variable.name}` is a year before another.",
            "Quarters, months, weeks, half-years and years are, as 2025 Q1 and 2024 Q1; keep those of the year before.",
        )
    return found


def changing_axis(cells: ShownCells, relative_to: str, along: str | None = None) -> int:
    """The dimension along which change is seen: the one that has the level named, else the one that runs by itself.

    Years, dates and bands do, files in the order they are named, and scales; where both the series and the innermost
    categories do, or neither, the series.

    Args:
        cells: The cells shown.
        relative_to: One of `RUNNING`, or a level.
        along: The column that was named; None for none.

    Raises:
        RequestError: No dimension has two levels, or the one named has not, or is none of them.
    """
    if along is not None:
        return _named_axis(cells, along)
    axes = [*cells.axes(Role.SERIES), *cells.axes(Role.CATEGORY)[-1:]]
    axes = [axis for axis in axes if cells.dimensions[axis].plain > 1]
    if not axes:
        raise RequestError("There are no two levels to see a change between.", f"Name them with {option('by')} COLUMN.")
    if relative_to not in RUNNING:
        for axis in axes:
            if any(relative_to in (level.label, level.code) for level in cells.dimensions[axis].levels):
                return axis
        return axes[0]

    def rank(axis: int) -> int:
        variable = cells.dimensions[axis].variable
        return 0 if variable.order in _RUNNING else 1 if variable.is_ordered else 2

    return min(axes, key=rank)  # the first of them where several are alike


def _named_axis(cells: ShownCells, along: str) -> int:
    columns = {one.variable.name: axis for axis, one in enumerate(cells.dimensions)}
    if along not in columns:
        raise RequestError(f"{option('along')}: nothing is shown by `{along}`.", nearest(along, columns))
    if cells.dimensions[columns[along]].plain < 2:
        raise RequestError(
            f"{option('along')}: `{along}` has one level only.", "Keep another level, or another column."
        )
    return columns[along]


def goes_in_order(dimension: Dimension) -> bool:
    """Whether levels run from low to high, or from early to late, so that a trend along them makes sense."""
    return dimension.variable.order in _RUNNING or dimension.variable.is_ordered


def without_level(cells: ShownCells, axis: int, place: int) -> tuple[ShownCells, Integers]:
    """The cells without a level, and which of the cells these are, shape (cells left,).

    Args:
        cells: The cells shown.
        axis: The dimension of the level.
        place: Its place.
    """
    kept = np.flatnonzero(cells.grid[:, axis] != place)
    grid = cells.grid[kept].copy()
    grid[:, axis] -= grid[:, axis] > place
    dimension = cells.dimensions[axis]
    levels = tuple(level for number, level in enumerate(dimension.levels) if number != place)
    nets = tuple(tuple(part - (part > place) for part in parts if part != place) for parts in dimension.nets)
    fewer = replace(dimension, variable=replace(dimension.variable, levels=levels), nets=nets)
    dimensions = tuple(fewer if number == axis else one for number, one in enumerate(cells.dimensions))
    return replace(cells, dimensions=dimensions, grid=grid), kept


def without_dimension(cells: ShownCells, axis: int) -> ShownCells:
    """The cells without a dimension that has a single level left."""
    dimensions = tuple(one for number, one in enumerate(cells.dimensions) if number != axis)
    return replace(cells, dimensions=dimensions, grid=np.delete(cells.grid, axis, axis=1))


def _is_yes_or_no(series: Dimension) -> bool:
    """Whether two levels make up a whole, so that one share says what the other does."""
    return series.plain == 2 and not (series.several or series.dropped or series.nets)


def plain_tables(cells: ShownCells, panels: Sequence[int]) -> tuple[Grouping, int, int]:
    """The categories by the series of some panels, without totals and with one base.

    Args:
        cells: The cells shown.
        panels: The places of the panels; nothing where there are none.

    Returns:
        The cells, panel by panel and row by row; how many rows and columns each panel has.
    """
    axes = cells.axes(Role.PANEL, Role.CATEGORY, Role.SERIES)
    *_, rows, columns = (cells.dimensions[axis].plain for axis in axes)
    outer = [(panel,) for panel in panels] if cells.axes(Role.PANEL) else [()]
    grid = [(*one, row, column) for one in outer for row in range(rows) for column in range(columns)]
    plain = [
        replace(d, variable=replace(d.variable, levels=d.levels[: d.plain]), nets=())
        for d in (cells.dimensions[axis] for axis in axes)
    ]
    keys = cells.keys[:, axes]
    return grouping_of(keys, cells.found, np.array(grid, dtype=np.int64), plain, ()), rows, columns
