"""Round widths of bands."""

import math

import numpy as np
import numpy.typing as npt

_MOST_BANDS = 250  # a far value does not cut the rest into bands nobody can see; rounding makes this 354 at most


def auto_width(values: npt.NDArray[np.float64], counts: npt.NDArray[np.number]) -> float:
    """A round band width by the rule of Freedman & Diaconis (1981): 2 · IQR / ∛n, rounded to 1, 2, 2.5 or 5 × 10ⁿ.

    Where values lie far from the rest it is wider, so that no more than a few hundred bands come of it.

    Args:
        values: Distinct values, rising, shape (values,).
        counts: How often each occurs, shape (values,).
    """
    reach = np.cumsum(counts)
    n = reach[-1]
    lower, upper = (values[np.searchsorted(reach, part * n)] for part in (0.25, 0.75))
    spread = upper - lower or (values[-1] - values[0]) / 2 or 1.0
    rough = max(2 * spread / np.cbrt(n), (values[-1] - values[0]) / _MOST_BANDS)
    whole = bool((values == np.round(values)).all())
    power = 10.0 ** math.floor(math.log10(rough))
    steps = [factor * power for factor in (1, 2, 2.5, 5, 10)]
    width = min(steps, key=lambda step: abs(math.log(step / rough)))
    return max(1.0, float(round(width))) if whole else width
