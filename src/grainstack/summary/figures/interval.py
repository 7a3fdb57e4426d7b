"""The limits of a figure, as whatever worked them out hands them on."""

from grainstack.quick import dataclass
from grainstack.summary.sums.exact import Floats


@dataclass(frozen=True, slots=True)
class Limits:
    """Limits of a figure; arrays have shape (cells,).

    Attributes:
        low: NaN where there is none.
        high: NaN where there is none.
        words: What they are; empty when there are none.
        effective: The effective base they rest on, where the method has one.
    """

    low: Floats
    high: Floats
    words: str
    effective: Floats | None = None
