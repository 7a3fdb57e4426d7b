"""Text as a number, without guessing."""

import math
import re
from collections.abc import Iterable
from typing import NamedTuple

import numpy as np

from grainstack.compiled import compiled
from grainstack.records.arrow import Numbers

_UNIT = r"(?:[$€£¥%]|EUR|USD|GBP|CHF|JPY|SEK|NOK|DKK|PLN|CZK|HUF|CAD|AUD|NZD)"
_DRESSED = re.compile(rf"({_UNIT})?\s*(\d[\d.,' ]*?|[.,]\d+)\s*({_UNIT})?", re.ASCII | re.IGNORECASE)
_BLANK_GROUPS = re.compile(r"[1-9]\d{0,2}([ '])\d{3}(\1\d{3})*")  # thousands parted by what is no decimal sign
_TWO_WAYS = re.compile(r"[1-9]\d{0,2}[.,]\d{3}")  # 1.234: a little more than one, or than one thousand
_PROGRAM = re.compile(r"-?\d+(?:(\.)(?:\d{1,2}|\d{4,}))?", re.ASCII)  # with a point, in no way with thousands
_ALIKE = {ord("−"): "-", ord("’"): "'", **dict.fromkeys(map(ord, "\u00a0\u2007\u2009\u202f"), " ")}
_THOUSAND = 3  # digits between two signs that part thousands


def parsed(text: str, decimal: str = ".") -> float | None:
    """The number a text stands for, NaN when it is blank, None when it is something else.

    Currencies, percent signs, a true minus, a minus behind the number or brackets in its place, and thousands parted
    by blanks or apostrophes are understood. With a decimal comma, `1.234,5` is a little more than one thousand. With a
    point, `1,234` alone is reported rather than guessed, unless it is settled that commas part thousands. `nan` and
    `inf` are not numbers anybody measured.

    Args:
        text: What may be a number.
        decimal: The sign before its decimals, and behind it the one that parts thousands where that is settled.
    """
    plain = text.strip()
    if not plain:
        return math.nan
    if decimal[0] == ".":
        try:
            value = float(plain)
        except ValueError:
            value = math.nan
        if math.isfinite(value):
            return value
    dressed = undressed(plain)
    if dressed is None:
        return None
    value_found = _value(dressed.digits, decimal)
    return None if value_found is None else dressed.sign * value_found


class Dressed(NamedTuple):
    """A number as it is written.

    Attributes:
        sign: 1 or -1.
        digits: Its digits with commas and points.
        unit: The currency or percent sign beside it; empty for none.
    """

    sign: float
    digits: str
    unit: str


def undressed(text: str) -> Dressed | None:
    """The sign, digits and unit of a number; None where a text is none.

    Args:
        text: What may be a number.
    """
    plain, sign = text.strip().translate(_ALIKE), 1.0
    if plain[:1] == "(" and plain[-1:] == ")":
        plain, sign = plain[1:-1].strip(), -1.0
    elif plain[:1] in ("+", "-"):
        plain, sign = plain[1:].lstrip(), -1.0 if plain[0] == "-" else 1.0
    elif plain[-1:] == "-":
        plain, sign = plain[:-1].rstrip(), -1.0
    found = _DRESSED.fullmatch(plain)
    if found is None or (found[1] and found[3]):
        return None
    digits = found[2]
    if " " in digits or "'" in digits:
        whole = re.split(r"[.,]", digits)[0]
        if not _BLANK_GROUPS.fullmatch(whole):
            return None
        digits = digits.replace(" ", "").replace("'", "")
    return Dressed(sign, digits, (found[1] or found[3] or "").upper())


def _value(digits: str, decimal: str) -> float | None:
    """Digits with commas and points as a number; None where they are none, or could be read in two ways."""
    point, other = decimal[0], "." if decimal[0] == "," else ","
    if digits.count(point) > 1:  # it parts thousands then, as nothing has two decimal signs
        return float(digits.replace(point, "")) if _grouped(digits, point) else None
    whole, sign, fraction = digits.partition(point)
    settled = point == "," or decimal[1:] == other or sign or whole.count(other) > 1
    if other in whole and not (settled and _grouped(whole, other)):
        return None
    plain = whole.replace(other, "")
    if not (plain + fraction).isdigit():
        return None
    return float(f"{plain or 0}.{fraction or 0}")


def _grouped(whole: str, sign: str) -> bool:
    """Whether a sign parts the thousands of a whole number."""
    first, *groups = whole.split(sign)
    return (
        first.isdigit()
        and len(first) <= _THOUSAND
        and all(group.isdigit() and len(group) == _THOUSAND for group in groups)
    )


class NumberForm(NamedTuple):
    """How the numbers of a column of text are written.

    Attributes:
        signs: The sign before decimals, and behind it the one that parts thousands where that is settled.
        unit: The currency or percent sign that all of them carry; empty for none.
        doubtful: A number that can be read in two ways, where nothing settles which; empty otherwise.
        truths: Whether they are no numbers but `true` and `false`, which count as 1 and 0.
    """

    signs: str
    unit: str = ""
    doubtful: str = ""
    truths: bool = False


TRUTHS = {"true": 1.0, "false": 0.0}


def form_of(texts: Iterable[str], decimal: str = ".", *, told: bool = False) -> NumberForm:
    """How the numbers of a column are written, as its values tell.

    Args:
        texts: Some of its different values.
        decimal: The sign before decimals, as the file suggests or somebody said.
        told: Whether somebody said so.
    """
    units: set[str] = set()
    signs: set[str] = set()  # before decimals, of numbers that can be read in one way only
    doubtful, plain = "", True
    for text in texts:
        if simple := _PROGRAM.fullmatch(text):  # as most numbers are: nothing has to be taken off them
            units.add("")
            signs.update(simple[1] or ())
            continue
        dressed = undressed(text)
        if dressed is None:
            continue
        units.add(dressed.unit)
        plain = plain and is_number(text)
        if _TWO_WAYS.fullmatch(dressed.digits):
            doubtful = doubtful or text
        elif sign := _decimal_sign(dressed.digits):
            signs.add(sign)
    if told or decimal == "," or len(signs) > 1:
        signs = {decimal}
    settled = next(iter(signs), "")
    unit = units.pop() if len(units) == 1 else ""
    if not settled and doubtful:
        return NumberForm(decimal, unit, doubtful)
    sign = settled or decimal
    form = sign if sign == "," or (plain and sign == ".") else ".,"
    return NumberForm(form, unit)


def _decimal_sign(digits: str) -> str:
    """Which sign stands before the decimals of a number that can be read in one way only; empty for a whole one."""
    last = max(digits.rfind("."), digits.rfind(","))
    if last < 0:
        return ""
    sign, other = digits[last], "." if digits[last] == "," else ","
    if digits.count(sign) > 1:
        return other
    return sign


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
