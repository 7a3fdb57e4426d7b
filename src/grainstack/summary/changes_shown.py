"""A table of changes in place of levels: along which column, from which level, and what is left to show."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from grainstack.language import phrase
from grainstack.records.time_words import YEAR_BEFORE, distances
from grainstack.summary.comparison.change import changed, trends
from grainstack.summary.comparison.compared_cells import (
    Line,
    a_year_apart,
    changing_axis,
    changing_lines,
    goes_in_order,
    without_dimension,
    without_level,
)
from grainstack.summary.comparison.tested import Trend
from grainstack.summary.figures.inference import Inference
from grainstack.summary.figures.table_columns import at_cells
from grainstack.summary.levels.shown_cells import ShownCells
from grainstack.summary.summary_request import Purpose
from grainstack.summary.table import Change, ChangeKind, Column, Dimension, Role


class Changes(Struct, frozen=True):
    """What is shown of changes.

    Attributes:
        cells: The cells left: without the level changes start from where it has none.
        columns: The changes.
        trends: Slopes along levels that run in an order, where one figure is shown.
        along: The column these go along.
    """

    cells: ShownCells
    columns: tuple[Column, ...]
    trends: tuple[Trend, ...]
    along: Dimension


def changes_shown(cells: ShownCells, made: Sequence[tuple[Column, Inference]]) -> Changes:
    """The changes of some figures.

    Args:
        cells: The cells of the figures.
        made: The figures, with what they come from.

    Raises:
        RequestError: There is nothing to see a change between, no such level, or a figure has no such limits.
    """
    request = made[0][1].estimator.request.comparison
    relative_to, kind = str(request.relative_to), ChangeKind(request.as_)
    axis = changing_axis(cells, relative_to, request.along)
    along, lines = cells.dimensions[axis], changing_lines(cells, axis, relative_to)
    by_step = relative_to in ("previous", YEAR_BEFORE)
    steps = a_year_apart(lines, cells, axis) if relative_to == YEAR_BEFORE else lines
    start = next((int(cells.grid[line.reference, axis]) for line in lines if line.reference is not None), 0)
    starts = {start} if by_step or kind in (ChangeKind.DIFFERENCE, ChangeKind.PERCENT) else set()
    if relative_to == YEAR_BEFORE:
        starts = set(range(along.plain)) - {int(cells.grid[line.cells[-1], axis]) for line in steps}
    shown, kept = cells, np.arange(len(cells.grid))
    for place in sorted(starts, reverse=True):
        shown, left = without_level(shown, axis, place)
        kept = kept[left]
    since = phrase("the {level} before", level=along.variable.in_sentence) if by_step else along.levels[start].label
    if relative_to == YEAR_BEFORE:
        since = phrase("a year before")
    until, lone = "", shown.dimensions[axis].levels
    if along.role is Role.SERIES and len(lone) == 1:
        since = along.levels[int(cells.grid[steps[0].cells[0], axis]) if by_step else start].label
        until = lone[0].label
        shown = without_dimension(shown, axis)
    change = Change(kind, since, by_step, until=until)
    figures = [(column, one) for column, one in made if column.figure.purpose is Purpose.SHOWN]
    columns = tuple(at_cells(changed(column, one, steps, change), kept) for column, one in figures)
    found: tuple[Trend, ...] = ()
    if len(figures) == 1 and columns[0].interval and goes_in_order(along) and relative_to in ("previous", "first"):
        places = {int(cell): place for place, cell in enumerate(kept)}
        found = tuple(replace(one, cell=places[one.cell]) for one in _trends(figures[0][1], lines, cells, axis))
    return Changes(shown, columns, found, along)


def _trends(figures: Inference, lines: Sequence[Line], cells: ShownCells, axis: int) -> tuple[Trend, ...]:
    """The slopes along a dimension: by the distances of its levels where they have any, else step by step."""
    apart = distances([level.label for level in cells.dimensions[axis].levels[: cells.dimensions[axis].plain]])
    if apart is None:
        return trends(figures, lines, lambda number, _: float(number), "step")
    return trends(figures, lines, lambda _, cell: apart.places[int(cells.grid[cell, axis])], apart.unit or "unit")
