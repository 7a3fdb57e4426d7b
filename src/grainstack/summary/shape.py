"""What a distribution looks like, as far as a mean would hide it."""

from dataclasses import dataclass

import numpy as np

from grainstack.summary.values import Values


@dataclass(frozen=True, slots=True)
class Shape:
    """The distribution of one measure over all records of a table.

    Attributes:
        records: Records with an answer.
        zeros: How many of them are exactly 0.
        commonest: How often the most frequent value other than 0 occurs.
    """

    records: int
    zeros: int
    commonest: int


def shape_of(values: Values) -> Shape | None:
    """The shape of all values together, or None when they were too many to be kept."""
    if not values.complete:
        return None
    different, back = np.unique(values.values, return_inverse=True)
    times = np.bincount(back, values.records, len(different)).astype(np.int64)
    zeros = int(times[different == 0].sum())
    others = times[different != 0]
    return Shape(int(times.sum()), zeros, int(others.max(initial=0)))
