"""Figures as text: one rounding rule, half away from zero, from the unrounded estimate."""

import math
from collections.abc import Iterable
from decimal import ROUND_HALF_UP, Context, Decimal, localcontext

from msgspec import Struct

from grainstack.language import spoken, with_signs

MINUS = "−"
_RAISED = str.maketrans("-0123456789", "⁻⁰¹²³⁴⁵⁶⁷⁸⁹")
_WIDE = Context(prec=400)  # digits of the largest number there is, with more decimals than anybody asks for
_WHOLE = 1e15  # below it, whole numbers are exact as they are
_PLAIN = range(-6, 15)
_COUNTABLE = 1e9  # steps: below it, what floating point adds to a figure is far below `_NEAR`
_NEAR = 1e-6  # of a step


def rounded(value: float, decimals: int) -> Decimal:
    """A figure rounded half away from zero, judged by its shortest decimal form: 2.675 gives 2.68.

    Args:
        value: The number.
        decimals: How many decimals are kept.
    """
    return Decimal(repr(float(value))).quantize(Decimal(1).scaleb(-decimals), ROUND_HALF_UP, _WIDE)


def written(value: float, decimals: int) -> str:
    """A figure with the signs of the language spoken, its thousands parted, and a true minus; empty for NaN.

    Args:
        value: The number.
        decimals: How many decimals are written.
    """
    if math.isnan(value):
        return ""
    if not decimals and abs(value) < _WHOLE and value == int(value):
        text = f"{int(value):,d}"
        return with_signs(text.replace("-", MINUS))
    text = f"{value:,.{decimals}f}" if _clear(value, decimals) else f"{rounded(value, decimals):,f}"
    return with_signs(text.replace("-", MINUS) if text.strip("-0.,") else text.lstrip("-"))


def _clear(value: float, decimals: int) -> bool:
    """Whether a figure is so far from the middle between two steps that every rule rounds it alike."""
    steps = abs(value) * 10.0**decimals
    return steps < _COUNTABLE and abs(steps % 1.0 - 0.5) > _NEAR


PERCENT = 100.0  # what a share is multiplied by to be written


class NumberStyle(Struct, frozen=True):
    """How the figures of one column are written, wherever they stand.

    Attributes:
        scale: What a figure is multiplied by first: 100 for shares, which are written in percent.
        decimals: How many decimals are written.
        power: The power of ten figures are written in, for those far too small or large to be written out.
        pattern: A number pattern as in Unicode CLDR (UTS 35, part 3) to write them in; empty for our own way.
        locale: The language whose signs are used; empty for the one spoken.
        signed: Whether numbers above 0 are written with a plus.
    """

    scale: float = 1.0
    decimals: int = 0
    power: int = 0
    pattern: str = ""
    locale: str = ""
    signed: bool = False

    def __call__(self, value: float) -> str:
        """The figure as text; empty for NaN. A share that is not nothing is never written as 0: `<1`, `>−1`."""
        text = self._written(value)
        return f"+{text}" if self.signed and value > 0 and text.strip("0.,") and text[0] != "<" else text

    def _written(self, value: float) -> str:
        step = 10.0**-self.decimals / self.scale
        if self.scale == PERCENT and not self.pattern and 0 < abs(value) < step / 2:
            return f"<{self._written(step)}" if value > 0 else f">{self._written(-step)}"
        if self.pattern or self.locale:
            return self._localised(value)
        text = written(value * self.scale / 10.0**self.power, self.decimals)
        return f"{text}×10{str(self.power).translate(_RAISED)}" if self.power and text.strip("0.") else text

    @property
    def carries_unit(self) -> bool:
        """Whether its pattern writes a unit or sign of its own beside the digits."""
        return bool(self.pattern.strip("#0,.-+ "))

    def _localised(self, value: float) -> str:
        if math.isnan(value):
            return ""
        from babel.numbers import format_decimal, parse_pattern  # noqa: PLC0415 - few charts ask for it

        pattern = self.pattern or ("#,##0." + "0" * self.decimals if self.decimals else "#,##0")
        decimals = parse_pattern(pattern).frac_prec[1] + (2 if "%" in pattern else 0)
        number = rounded(value * self.scale, decimals)
        with localcontext(_WIDE):
            text = str(format_decimal(number, format=pattern, locale=self.locale or spoken().name))
        return text.replace("-", MINUS) if number else text.replace("-", "")


def number_style(values: Iterable[float], *, share: bool = False) -> NumberStyle:
    """How a column of figures is written: whole ones whole, shares in whole percent, else three digits of the largest.

    Args:
        values: The unrounded figures; NaN is passed over.
        share: Whether they are shares between 0 and 1, which are written in percent.
    """
    known = [abs(value) for value in values if math.isfinite(value)]
    largest = max(known, default=0.0)
    if share:
        return NumberStyle(100.0, 1 if 0 < largest < 0.1 else 0)
    if largest < 1e-300 or (largest < 10.0**_PLAIN.stop and all(value == round(value) for value in known)):
        return NumberStyle(1.0, 0)
    power = math.floor(math.log10(largest))
    return NumberStyle(1.0, max(2 - power, 0)) if power in _PLAIN else NumberStyle(1.0, 2, power)
