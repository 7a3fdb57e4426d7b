"""What rests on too few records: flags, and hiding what could be worked out from the rest."""

import numpy as np
import numpy.typing as npt

from grainstack.summary.sums.exact import Floats, Integers
from grainstack.summary.table import Flag

SMALL_BASE = 30  # records below which a figure is marked unsure, as the field does
Flags = npt.NDArray[np.uint8]


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
        small = (base > 0) & (np.minimum(base, base if effective is None else effective) < SMALL_BASE)
    return np.asarray(np.where(small, Flag.SMALL_BASE, 0) | np.where(wide & ~small, Flag.WIDE_INTERVAL, 0), np.uint8)


def base_flags(base: Integers, least: int) -> Flags:
    """Flags where there are some records, but fewer than `least`.

    Args:
        base: Records of each cell, shape (cells,).
        least: The smallest base that is not marked.
    """
    return np.asarray(np.where((base > 0) & (base < least), Flag.SMALL_BASE, 0), dtype=np.uint8)


def hidden_cells(base: Integers, least: int, lines: list[Integers]) -> npt.NDArray[np.bool_]:
    """Which cells are left out: those on small bases, and others from which they could be worked out.

    In a line of cells whose sum is known, a single cell left out could be worked out as the difference, so the next
    smallest is left out too, line by line until no line has just one.

    Args:
        base: Records of each cell, shape (cells,).
        least: The smallest base that is shown.
        lines: The cells of each line whose sum is known.
    """
    hidden = (base > 0) & (base < least)
    changed = True
    while changed:
        changed = False
        for line in lines:
            out = hidden[line]
            if out.sum() == 1 and len(line) > 1:
                open_cells = line[~out & (base[line] > 0)]
                if len(open_cells):
                    hidden[open_cells[np.argmin(base[open_cells])]] = True
                    changed = True
    return np.asarray(hidden)
