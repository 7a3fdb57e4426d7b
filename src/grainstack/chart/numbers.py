"""Figures as text: one rounding rule, half away from zero, from the unrounded estimate."""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal

MINUS = "−"
_RAISED = str.maketrans("-0123456789", "⁻⁰¹²³⁴⁵⁶⁷⁸⁹")
_PLAIN = range(-6, 15)


def rounded(value: float, decimals: int) -> Decimal:
    """A figure rounded half away from zero, judged by its shortest decimal form: 2.675 gives 2.68."""
    return Decimal(repr(float(value))).quantize(Decimal(1).scaleb(-decimals), rounding=ROUND_HALF_UP)


def written(value: float, decimals: int) -> str:
    """A figure with thousands parted by commas and a true minus; empty for NaN."""
    if math.isnan(value):
        return ""
    text = f"{rounded(value, decimals):,f}"
    return text.replace("-", MINUS) if text.strip("-0.,") else text.lstrip("-")


@dataclass(frozen=True, slots=True)
class NumberStyle:
    """How the figures of one column are written, wherever they stand.

    Attributes:
        scale: What a figure is multiplied by first: 100 for shares, which are written in percent.
        decimals: How many decimals are written.
        power: The power of ten figures are written in, for those far too small or large to be written out.
    """

    scale: float = 1.0
    decimals: int = 0
    power: int = 0

    def __call__(self, value: float) -> str:
        """The figure as text; empty for NaN."""
        text = written(value * self.scale / 10.0**self.power, self.decimals)
        return f"{text}×10{str(self.power).translate(_RAISED)}" if self.power and text.strip("0.") else text


def number_style(values: Iterable[float], unit: str = "") -> NumberStyle:
    """How a column of figures is written: whole ones whole, shares in whole percent, else three digits of the largest.

    Args:
        values: The unrounded figures; NaN is passed over.
        unit: Their unit; `%` means shares between 0 and 1.
    """
    known = [abs(value) for value in values if math.isfinite(value)]
    largest = max(known, default=0.0)
    if unit == "%":
        return NumberStyle(100.0, 1 if 0 < largest < 0.1 else 0)
    if largest == 0 or (largest < 10.0**_PLAIN.stop and all(value == round(value) for value in known)):
        return NumberStyle(1.0, 0)
    power = math.floor(math.log10(largest))
    return NumberStyle(1.0, max(2 - power, 0)) if power in _PLAIN else NumberStyle(1.0, 2, power)
