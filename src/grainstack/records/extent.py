"""How far the numbers of a column reach, found in one pass."""

import math
from typing import NamedTuple

import numpy as np

from grainstack.compiled import compiled
from grainstack.records.arrow import Numbers

kernel = compiled("grainstack.records.kernel")


class Extent(NamedTuple):
    """How far numbers reach.

    Attributes:
        least: The lowest one; +inf where there is none.
        most: The highest one; -inf where there is none.
        missing: How many are missing.
    """

    least: float
    most: float
    missing: int

    @property
    def size(self) -> float:
        """The largest distance from 0; -inf where there is no number."""
        return max(-self.least, self.most)


def extent_of(numbers: Numbers) -> Extent:
    """How far numbers reach, shape (records,); NaN is a missing one."""
    if kernel is not None and numbers.flags.c_contiguous:
        return Extent(*kernel.extent(numbers))
    least, most = np.fmin.reduce(numbers, initial=math.inf), np.fmax.reduce(numbers, initial=-math.inf)
    return Extent(float(least), float(most), int(np.isnan(numbers).sum()))
