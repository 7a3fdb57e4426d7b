"""Figures that were summed up before: one row per cell, with limits of their own."""

import numpy as np

from grainstack.errors import RequestError, listed
from grainstack.option_names import option
from grainstack.records.variable import EVERYTHING
from grainstack.summary.figures.estimator import Estimator
from grainstack.summary.levels.shown_cells import ShownCells
from grainstack.summary.sums.exact import Floats


def check_one_row_each(cells: ShownCells, estimator: Estimator) -> None:
    """Refuses several rows for one cell of figures that are summed up already.

    Args:
        cells: The cells shown; those put together of several, totals and rests, may have several rows.
        estimator: Their sums.

    Raises:
        RequestError: Names the cell with the most rows, and the columns in which these differ.
    """
    value = estimator.request.value
    if not value or estimator.request.pools_values:
        return
    records = estimator.moments(None).records
    totals = [(axis, n) for axis, d in enumerate(cells.dimensions) for n in range(d.plain, len(d.levels))]
    rests = [(axis, n) for axis, d in enumerate(cells.dimensions) for n, one in enumerate(d.levels) if one.is_rest]
    together = [*totals, *rests]
    candidates = np.flatnonzero(records > 1).tolist()
    several = [cell for cell in candidates if all(cells.grid[cell, axis] != place for axis, place in together)]
    if not several:
        return
    cell = int(several[int(np.argmax(records[several]))])
    levels = [d.levels[place] for d, place in zip(cells.dimensions, cells.grid[cell], strict=True)]
    named = [(d.variable.name, level.label) for d, level in zip(cells.dimensions, levels, strict=True)]
    where = ", ".join(f"{name} = {label}" for name, label in named if name != EVERYTHING)
    raise RequestError(
        f"{records[cell]:,} rows stand for one bar{f' ({where})' if where else ''}: `{value}` is not summed up yet.",
        f"Add them up: {option('measure')} {value} {option('stat', 'sum')}.{_told_apart(cell, estimator)}",
    )


def _told_apart(cell: int, estimator: Estimator) -> str:
    """In which columns the rows of a cell differ, and what to do about it."""
    grouping, rows = estimator.grouping, estimator.totals.rows
    inside = grouping.inside[grouping.places == cell].tolist()
    differing = rows.differing(inside) if rows is not None else []
    if not differing:
        return ""
    return f" They differ in {listed(differing)}: choose one level with {option('only')}, or split by it."


def ready_made_limits(estimator: Estimator) -> tuple[Floats, Floats] | None:
    """The lower and upper limits that came with the figures, shape (cells,) each; None where none did.

    Args:
        estimator: The sums of the cells shown.
    """
    request = estimator.request

    def known(name: str) -> Floats:
        moments = estimator.moments(name)
        return np.where(moments.records == 1, moments.sum, np.nan)  # a sum of limits is no limit

    if request.error_size and request.value:
        middle, reach = known(request.value), known(request.error_size)
        return middle - reach, middle + reach
    if request.error_low and request.error_high:
        return known(request.error_low), known(request.error_high)
    return None
