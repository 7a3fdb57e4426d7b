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
_LEAST_P = 0.001  # smaller p-values are told as below it


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


def p_value_text(value: float) -> str:
    """A p-value in three decimals, or as below the least that is told.

    Args:
        value: From 0 to 1.
    """
    return f"< {with_signs(str(_LEAST_P))}" if value < _LEAST_P else written(value, 3)


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
        own: The most decimals that a figure has of its own, where each keeps those it was given with; None where all
            have the same.
    """

    scale: float = 1.0
    decimals: int = 0
    power: int = 0
    pattern: str = ""
    locale: str = ""
    signed: bool = False
    own: int | None = None

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
        value = value * self.scale / 10.0**self.power
        text = written(value, self.decimals if self.own is None else max(self.decimals, decimals_of(value, self.own)))
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


_MOST_GIVEN = 4  # decimals of a given figure: more are noise of the program that wrote it
_ALIKE = 1000.0  # how many times as large as the smallest the largest may be for all to have the same decimals


def decimals_of(value: float, most: int = _MOST_GIVEN) -> int:
    """How many decimals a number needs, up to some.

    Args:
        value: The number.
        most: The most it may have.
    """
    if not math.isfinite(value):
        return 0
    exponent = rounded(value, most).normalize(_WIDE).as_tuple().exponent
    return max(-exponent, 0) if isinstance(exponent, int) else 0


def given_style(values: Iterable[float]) -> NumberStyle:
    """How given figures are written: with the decimals they have; where they differ much in size, each with its own.

    Args:
        values: The figures; NaN is passed over.
    """
    known = [abs(value) for value in values if math.isfinite(value)]
    apart = [value for value in known if value]
    if apart and not 10.0**_PLAIN.start <= max(apart) < 10.0**_PLAIN.stop:
        return number_style(known)
    most = max(map(decimals_of, known), default=0)
    alike = not apart or max(apart) <= _ALIKE * min(apart)
    return NumberStyle(1.0, most) if alike else NumberStyle(1.0, 0, own=most)


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
