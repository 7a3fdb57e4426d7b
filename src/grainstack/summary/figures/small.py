"""What rests on too few records is flagged."""

import numpy as np
import numpy.typing as npt

from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.sums.exact import Floats, Integers
from grainstack.summary.table import Flag

SMALL_BASE = 30  # records below which a figure is marked unsure, as the field does
FEW_DEGREES = 8  # of freedom, below which limits are marked unsure
Flags = npt.NDArray[np.uint8]


def least_shown(request: SummaryRequest) -> int:
    """The smallest number of records that is shown where small ones are left out."""
    return request.small.min_base or SMALL_BASE


def share_flags(share: Floats, low: Floats, high: Floats, base: Integers, effective: Floats | None) -> Flags:
    """The published presentation standard for proportions (Parker et al. 2017).

    A share is flagged when its base or effective base is below 30, when its interval is wider than 30 points, or wider
    than 5 points and above 130 % of the share itself.

    Args:
        share: Shares, shape (cells,).
        low: Lower limits, shape (cells,).
        high: Upper limits, shape (cells,).
        base: Records of the whole, shape (cells,).
        effective: The effective base, shape (cells,); None where it is the base itself.
    """
    with np.errstate(invalid="ignore"):
        width = high - low
        wide = (width > 0.30) | ((width > 0.05) & (width > 1.30 * share))
        small = (base > 0) & (np.fmin(base, base if effective is None else effective) < SMALL_BASE)
    return flagged(small, Flag.SMALL_BASE) | flagged(wide & ~small, Flag.WIDE_INTERVAL)


def base_flags(base: Integers, least: int) -> Flags:
    """Flags where there are some records, but fewer than `least`.

    Args:
        base: Records of each cell, shape (cells,).
        least: The smallest base that is not marked.
    """
    return flagged((base > 0) & (base < least), Flag.SMALL_BASE)


def few_degrees(degrees: Floats) -> Flags:
    """Flags where limits rest on fewer than 8 degrees of freedom, and so are unsure themselves (Parker et al. 2017).

    Args:
        degrees: Degrees of freedom, shape (cells,); NaN where there are none to tell.
    """
    with np.errstate(invalid="ignore"):
        return flagged((degrees >= 1) & (degrees < FEW_DEGREES), Flag.FEW_DEGREES)


def flagged(where: npt.NDArray[np.bool_], flag: Flag) -> Flags:
    """A flag where something holds, shape as given."""
    return np.where(where, np.uint8(flag), np.uint8(0)).astype(np.uint8)
