"""Which cells a table shows: the combinations that occur, those that would leave a gap, and totals."""

from collections.abc import Sequence
from itertools import product

import numpy as np

from grainstack.summary.levels.grouping import Grouping
from grainstack.summary.sums.exact import Integers
from grainstack.summary.table import ALL, Dimension, Role


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
    totals = [len(d.levels) - 1 if ALL in d.levels else None for d in dimensions]
    entries, shown = _expanded(keys, totals)
    sizes = [len(d.levels) + 1 for d in dimensions]  # one place more for levels that are left out but counted
    flat = _flat(grid, sizes)
    targets = _flat(shown, sizes)
    places = np.searchsorted(flat, targets)
    known = (places < len(flat)) & (flat[np.minimum(places, len(flat) - 1)] == targets)
    axes = list(base_axes)
    wanted, base_of = np.unique(grid[:, axes], axis=0, return_inverse=True) if axes else (None, None)
    base_entries, base_shown = _expanded(keys[:, axes], [totals[axis] for axis in axes])
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


def lines_along(grid: Integers, axes: Sequence[int], skip: Sequence[int | None]) -> list[Integers]:
    """The cells that differ in some dimensions only, one array per line.

    Args:
        grid: The cells, shape (cells, dimensions).
        axes: The dimensions in which they differ.
        skip: For each dimension the place of its total, which belongs to no line along it; None when it has none.
    """
    others = [axis for axis in range(grid.shape[1]) if axis not in axes]
    inside = np.ones(len(grid), dtype=bool)
    for axis in axes:
        if skip[axis] is not None:
            inside &= grid[:, axis] != skip[axis]
    cells = np.flatnonzero(inside)
    if not others:
        return [cells]
    groups = np.unique(grid[cells][:, others], axis=0, return_inverse=True)[1].reshape(-1)
    return [cells[groups == group] for group in range(int(groups.max(initial=-1)) + 1)]


def _expanded(keys: Integers, totals: Sequence[int | None]) -> tuple[Integers, Integers]:
    """Every cell found once for itself and once for every total it is part of: its number, and the key it goes to."""
    entries, shown = np.arange(len(keys)), keys
    for axis, total in enumerate(totals):
        if total is None:
            continue
        also = shown.copy()
        also[:, axis] = total
        entries, shown = np.concatenate([entries, entries]), np.concatenate([shown, also])
    return entries, shown


def _flat(keys: Integers, sizes: Sequence[int]) -> Integers:
    return np.asarray(np.ravel_multi_index(tuple(keys.T), tuple(sizes)), dtype=np.int64)


def _combinations(keys: Integers, categories: Sequence[Dimension]) -> Integers:
    found = np.array(sorted(set(map(tuple, keys.tolist()))), dtype=np.int64).reshape(-1, len(categories))
    counts = [len(d.levels) - (ALL in d.levels) for d in categories]
    empty = [set(range(count)) - set(found[:, axis].tolist()) for axis, count in enumerate(counts)]
    if not any(empty):
        return found
    outer = sorted({tuple(row) for row in found[:, :-1].tolist()})
    if empty[-1] and not any(empty[:-1]):
        return np.array([(*row, place) for row in outer for place in range(counts[-1])], dtype=np.int64)
    return np.array(list(product(*(range(count) for count in counts))), dtype=np.int64)


def _totals(rows: Sequence[tuple[int, ...]], categories: Sequence[Dimension]) -> set[tuple[int, ...]]:
    """The total rows: over the inner categories of each outer one, then over all."""
    totals = set()
    for depth in range(len(categories)):
        if all(ALL in d.levels for d in categories[depth:]):
            last = tuple(len(d.levels) - 1 for d in categories[depth:])
            totals |= {(*row[:depth], *last) for row in rows}
    return totals
