"""Text as a number, without guessing."""

import math
import re
from typing import NamedTuple

import numpy as np

from grainstack.compiled import compiled
from grainstack.records.arrow import Numbers

_COMMA_NUMBER = re.compile(r"[-+]?(\d+|\d{1,3}(\.\d{3})+)(,\d*)?")


def parsed(text: str, decimal: str = ".") -> float | None:
    """The number a text stands for, NaN when it is blank, None when it is something else.

    With `decimal` a comma, `1.234,5` is a little more than one thousand. Otherwise `1,234` is reported rather than
    guessed: in one country it is a thousand times what it is in another. `nan` and `inf` are not numbers anybody
    measured.

    Args:
        text: What may be a number.
        decimal: The sign before its decimals.
    """
    plain = text.strip()
    if not plain:
        return math.nan
    if decimal == ",":
        if not _COMMA_NUMBER.fullmatch(plain):
            return None
        plain = plain.replace(".", "").replace(",", ".")
    try:
        value = float(plain)
    except ValueError:
        return None
    return value if math.isfinite(value) else None


def is_number(text: str) -> bool:
    """Whether a text reads as one number in the notation of programs."""
    try:
        float(text)
    except ValueError:
        return False
    return True


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
