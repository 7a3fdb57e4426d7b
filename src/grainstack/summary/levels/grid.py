"""Which cells a table shows: the combinations that occur, those that would leave a gap, and totals."""

from collections.abc import Sequence
from itertools import product

import numpy as np
import numpy.typing as npt

from grainstack.summary.levels.grouping import Grouping
from grainstack.summary.sums.exact import Integers
from grainstack.summary.table import Dimension, Role


def grid_of(keys: Integers, dimensions: Sequence[Dimension]) -> Integers:
    """The cells shown, sorted, shape (cells, dimensions).

    Every combination of categories that occurs stands with every series, and in every panel. A level that is shown
    although it occurs nowhere (an empty band, a level kept on purpose) stands in every combination with the levels
    outside it. Totals stand last: a total of an inner category for every outer one, then one over all.

    Args:
        keys: The cells found, as places among the levels shown, shape (found, dimensions).
        dimensions: The columns with the levels shown.
    """
    panels = [d for d in dimensions if d.role is Role.PANEL]
    categories = [d for d in dimensions if d.role is Role.CATEGORY]
    first = len(panels)
    combinations = _combinations(keys[:, first : first + len(categories)], categories)
    rows = [(*combination,) for combination in combinations.tolist()]
    rows = [*rows, *_nets(rows, categories)]
    rows = sorted({*rows, *_totals(rows, categories)})
    outer = [range(len(d.levels)) for d in panels]
    inner = [range(len(d.levels)) for d in dimensions[first + len(categories) :]]
    return np.array([(*p, *row, *s) for p in product(*outer) for row in rows for s in product(*inner)], dtype=np.int64)


def grouping_of(
    keys: Integers, found: Integers, grid: Integers, dimensions: Sequence[Dimension], base_axes: Sequence[int]
) -> Grouping:
    """How the cells found make up the cells shown and the bases.

    Args:
        keys: The cells found, as places among the levels shown, shape (found, dimensions).
        found: The number of each among all cells found, shape (found,).
        grid: The cells shown, shape (cells, dimensions).
        dimensions: The columns with the levels shown.
        base_axes: The dimensions whose level a base has in common.
    """
    entries, shown = _expanded(keys, dimensions)
    sizes = [len(d.levels) + 1 for d in dimensions]  # one place more for levels that are left out but counted
    flat = _flat(grid, sizes)
    targets = _flat(shown, sizes)
    places = np.searchsorted(flat, targets)
    known = (places < len(flat)) & (flat[np.minimum(places, len(flat) - 1)] == targets)
    axes = list(base_axes)
    wanted, base_of = np.unique(grid[:, axes], axis=0, return_inverse=True) if axes else (None, None)
    base_entries, base_shown = _expanded(keys[:, axes], [dimensions[axis] for axis in axes])
    if wanted is None or base_of is None:
        base_places = np.zeros(len(base_entries), dtype=np.int64)
        base_of, base_known = np.zeros(len(grid), dtype=np.int64), np.ones(len(base_entries), dtype=bool)
    else:
        base_sizes = [sizes[axis] for axis in axes]
        base_flat, base_targets = _flat(wanted, base_sizes), _flat(base_shown, base_sizes)
        base_places = np.searchsorted(base_flat, base_targets).clip(0, len(base_flat) - 1)
        base_known = base_flat[base_places] == base_targets
    return Grouping(
        inside=found[entries[known]],
        places=places[known],
        count=len(grid),
        base_inside=found[base_entries[base_known]],
        base_places=base_places[base_known],
        base_of=np.asarray(base_of).reshape(-1),
    )


def lines_along(grid: Integers, axes: Sequence[int], dimensions: Sequence[Dimension]) -> list[Integers]:
    """The cells that differ in some dimensions only, one array per line; totals and nets belong to no line along them.

    Args:
        grid: The cells, shape (cells, dimensions).
        axes: The dimensions in which they differ.
        dimensions: The columns with the levels shown.
    """
    others = [axis for axis in range(grid.shape[1]) if axis not in axes]
    inside = np.ones(len(grid), dtype=bool)
    for axis in axes:
        inside &= grid[:, axis] < dimensions[axis].plain
    cells = np.flatnonzero(inside)
    if not others:
        return [cells]
    groups = np.unique(grid[cells][:, others], axis=0, return_inverse=True)[1].reshape(-1)
    return [cells[groups == group] for group in range(int(groups.max(initial=-1)) + 1)]


def rows_over_series(grid: Integers, dimensions: Sequence[Dimension]) -> tuple[list[Integers], Integers]:
    """The cells of each row: those that differ in their series only, totals and nets of series left aside.

    Args:
        grid: The cells, shape (cells, dimensions).
        dimensions: The columns with the levels shown.

    Returns:
        The cells of each row; and the row of every cell, shape (cells,).
    """
    outer = [axis for axis, one in enumerate(dimensions) if one.role is not Role.SERIES]
    series = [axis for axis, one in enumerate(dimensions) if one.role is Role.SERIES]
    _, row_of = np.unique(grid[:, outer], axis=0, return_inverse=True)
    row_of = row_of.reshape(-1)
    plain = np.ones(len(grid), dtype=bool)
    for axis in series:
        plain &= grid[:, axis] < dimensions[axis].plain
    return [np.flatnonzero(plain & (row_of == row)) for row in range(int(row_of.max(initial=-1)) + 1)], row_of


def _expanded(keys: Integers, dimensions: Sequence[Dimension]) -> tuple[Integers, Integers]:
    """Every cell found once for itself, and for every net and total it is part of: its number, and its key there."""
    entries, shown = np.arange(len(keys)), keys
    for axis, dimension in enumerate(dimensions):
        found = [(entries, shown)]
        nets = () if dimension.several else dimension.nets  # a record is in a net of several answers once
        sums: list[tuple[int, npt.NDArray[np.bool_]]] = [
            (dimension.plain + net, np.isin(shown[:, axis], parts)) for net, parts in enumerate(nets)
        ]
        if dimension.total is not None:
            sums.append((dimension.total, np.ones(len(shown), dtype=bool)))
        for place, inside in sums:
            also = shown[inside]
            also[:, axis] = place
            found.append((entries[inside], also))
        entries, shown = (np.concatenate(side) for side in zip(*found, strict=True))
    return entries, shown


def _flat(keys: Integers, sizes: Sequence[int]) -> Integers:
    return np.asarray(np.ravel_multi_index(tuple(keys.T), tuple(sizes)), dtype=np.int64)


def _combinations(keys: Integers, categories: Sequence[Dimension]) -> Integers:
    found = np.array(sorted(set(map(tuple, keys.tolist()))), dtype=np.int64).reshape(-1, len(categories))
    counts = [d.plain for d in categories]
    empty = [set(range(count)) - set(found[:, axis].tolist()) for axis, count in enumerate(counts)]
    if not any(empty):
        return found
    outer = sorted({tuple(row) for row in found[:, :-1].tolist()})
    if empty[-1] and not any(empty[:-1]):
        return np.array([(*row, place) for row in outer for place in range(counts[-1])], dtype=np.int64)
    return np.array(list(product(*(range(count) for count in counts))), dtype=np.int64)


def _nets(rows: Sequence[tuple[int, ...]], categories: Sequence[Dimension]) -> set[tuple[int, ...]]:
    """The rows of nets: of each category with all others it occurs with, nets of those too."""
    found = set(rows)
    for axis, dimension in enumerate(categories):
        for net, parts in enumerate(dimension.nets):
            found |= {(*row[:axis], dimension.plain + net, *row[axis + 1 :]) for row in found if row[axis] in parts}
    return found - set(rows)


def _totals(rows: Sequence[tuple[int, ...]], categories: Sequence[Dimension]) -> set[tuple[int, ...]]:
    """The total rows: over the inner categories of each outer one, then over all."""
    totals = set()
    for depth in range(len(categories)):
        if all(d.total is not None for d in categories[depth:]):
            last = tuple(len(d.levels) - 1 for d in categories[depth:])
            totals |= {(*row[:depth], *last) for row in rows}
    return totals
