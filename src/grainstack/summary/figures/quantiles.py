"""Quantiles, exact from the different values of a cell."""

import numpy as np

from grainstack.summary.sums.exact import Floats, Integers

Counted = tuple[Floats, Integers, Floats]


def quantile(cell: Counted, part: float, *, weighted: bool) -> float:
    """A quantile of one cell.

    Unweighted: linear interpolation between order statistics (Hyndman & Fan 1996, definition 7). Weighted: the smallest
    value at which the cumulative weight reaches `part` of the whole; the mean of the two neighbours when it is reached
    exactly.

    Args:
        cell: Different values, rising, with their records and weights, shape (values,) each.
        part: Which quantile, from 0 to 1.
        weighted: Whether weights count.
    """
    values, records, weights = cell
    if not records.sum():
        return np.nan
    if weighted:
        return _weighted(values, weights, part)
    place = part * (int(records.sum()) - 1)
    below = np.floor(place)
    low, high = order_statistics(values, records, np.array([below, np.ceil(place)]))
    return float(low + (place - below) * (high - low))


def order_statistics(values: Floats, records: Integers, places: Floats) -> Floats:
    """The values at these places of the sorted records, counted from 0.

    Args:
        values: Different values, rising, shape (values,).
        records: How often each occurs, shape (values,).
        places: Places in the sorted records, from 0, shape (places,).
    """
    return np.asarray(values[np.searchsorted(np.cumsum(records), places, side="right").clip(0, len(values) - 1)])


def _weighted(values: Floats, weights: Floats, part: float) -> float:
    held = weights > 0
    values, reach = values[held], np.cumsum(weights[held])
    if not len(values):
        return np.nan
    wanted = part * reach[-1]
    tolerance = 1e-12 * reach[-1]
    place = int(np.searchsorted(reach, wanted - tolerance))
    place = min(place, len(values) - 1)
    if abs(reach[place] - wanted) <= tolerance and place + 1 < len(values):
        return float((values[place] + values[place + 1]) / 2)
    return float(values[place])
