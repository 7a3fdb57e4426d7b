"""Round numbers for a value axis."""

import math

from msgspec import Struct

from grainstack.chart.look.measures import ROUNDING

_STEPS = (1, 2, 2.5, 5, 10)
_PLAIN = range(-6, 13)
_NEAR_ZERO = 0.35  # of the far end: an axis that would start no further out starts at zero, which tells more


class Ticks(Struct, frozen=True):
    """Equally spaced round values that cover a range.

    Attributes:
        values: From the lowest to the highest.
        decimals: How many decimals they need to be written without loss.
        power: The power of ten they are written in, for values far too small or large to be written out.
    """

    values: tuple[float, ...]
    decimals: int
    power: int = 0


def from_zero(low: float, high: float) -> tuple[float, float]:
    """The range of an axis: from zero where the figures start near it, or are all one.

    Args:
        low: The lowest figure.
        high: The highest.
    """
    near = 0 <= low <= _NEAR_ZERO * high or _NEAR_ZERO * low <= high <= 0 or low == high
    return (min(low, 0.0), max(high, 0.0)) if near else (low, high)


def ticks_for(low: float, high: float, most: int) -> Ticks:
    """The finest round steps that cover a range with no more than `most` intervals.

    Steps are 1, 2, 2.5 or 5 times a power of ten; 2.5 only where it needs no more decimals than its neighbours would.

    Args:
        low: Lower end of the range, in value units.
        high: Upper end; above `low`.
        most: The largest number of intervals, at least 1.
    """
    if not high - low > 1e-290:
        high = low + 1
    rough = (high - low) / max(most, 1)
    power = math.floor(math.log10(rough))
    for exponent in (power, power + 1):
        for factor in _STEPS:
            step = factor * 10.0**exponent
            first, last = math.floor(low / step + ROUNDING), math.ceil(high / step - ROUNDING)
            if last - first <= most:
                return _ticks(tuple(range(first, last + 1)), factor, exponent)
    return Ticks((low, high), 0)


def _ticks(multiples: tuple[int, ...], factor: float, exponent: int) -> Ticks:
    """Multiples of a round step, written out or, far from one, in the power of ten of the step."""
    extra = 1 if factor == 2.5 else 0
    if exponent in _PLAIN:
        decimals = max(0, extra - exponent)
        return Ticks(tuple(round(factor * 10.0**exponent * n, decimals + 1) for n in multiples), decimals)
    return Ticks(tuple(factor * n * 10.0**exponent for n in multiples), extra, exponent)


def ticks_within(low: float, high: float, most: int) -> Ticks:
    """Round values inside a range whose ends stay where they are.

    Args:
        low: Lower end of the range, in value units.
        high: Upper end; above `low`.
        most: The largest number of intervals, at least 1.
    """
    covering = ticks_for(low, high, most)
    slack = (high - low) * ROUNDING
    inside = tuple(value for value in covering.values if low - slack <= value <= high + slack)
    return (
        Ticks(inside, covering.decimals, covering.power) if len(inside) > 1 else Ticks((low, high), _needed(low, high))
    )


def _needed(*values: float) -> int:
    return max(len(f"{value:.6f}".rstrip("0").partition(".")[2]) for value in values)
