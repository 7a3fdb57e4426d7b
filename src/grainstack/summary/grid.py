"""Which cells a table shows: the combinations that occur, and those that would leave a gap."""

from collections.abc import Sequence
from itertools import product

import numpy as np

from grainstack.summary.moments import Integers
from grainstack.summary.table import Dimension, Role


def grid_of(keys: Integers, dimensions: Sequence[Dimension]) -> tuple[Integers, Integers]:
    """The cells shown, sorted: every combination of categories that occurs, with every series.

    A level that is shown although it occurs nowhere (an empty band, a level kept on purpose) stands in every
    combination with the levels outside it.

    Args:
        keys: The cells found, as places among the levels shown, shape (found, dimensions).
        dimensions: The columns with the levels shown.

    Returns:
        The keys of the cells shown, shape (cells, dimensions), and for each of `keys` its place among them.
    """
    split = dimensions[-1].role is Role.SERIES
    categories = dimensions[:-1] if split else dimensions
    series = len(dimensions[-1].levels) if split else 1
    combinations = _combinations(keys[:, : len(categories)], categories)
    grid = np.repeat(combinations, series, axis=0)
    if split:
        grid = np.column_stack([grid, np.tile(np.arange(series), len(combinations))])
    sizes = [len(dimension.levels) for dimension in dimensions]
    flat = np.ravel_multi_index(tuple(grid.T), sizes)
    return grid, np.searchsorted(flat, np.ravel_multi_index(tuple(keys.T), sizes))


def _combinations(keys: Integers, categories: Sequence[Dimension]) -> Integers:
    found = np.unique(keys, axis=0)
    empty = [set(range(len(d.levels))) - set(found[:, axis].tolist()) for axis, d in enumerate(categories)]
    if not any(empty):
        return found
    outer = np.unique(found[:, :-1], axis=0).tolist()
    if empty[-1] and not any(empty[:-1]):
        every = [(*row, place) for row in outer for place in range(len(categories[-1].levels))]
        return np.array(every, dtype=np.int64)
    return np.array(list(product(*(range(len(d.levels)) for d in categories))), dtype=np.int64)
