"""How columns of an expression are compared: numbers record by record, categories and text level by level."""

import operator
import re
from collections.abc import Callable

import numpy as np

from grainstack.errors import RequestError
from grainstack.records.arrow import Numbers
from grainstack.records.expressions.operands import Compare, Truth, Words
from grainstack.records.numerals import parsed

_ISO_DATE = re.compile(r"\d{4}(-\d{2}(-\d{2}([ T].*)?)?)?")
Refuse = Callable[[str, str], RequestError]  # makes an error that points at the place, from what is wrong and a remedy


def of_numbers(one: Numbers, other: Numbers, compare: Compare) -> Truth:
    """Compares numbers; unknown where one is missing.

    Args:
        one: Those before the sign, of shape (records,) or (1,).
        other: Those behind it, likewise.
        compare: The sign.
    """
    with np.errstate(invalid="ignore"):
        true = compare(one, other)
    return Truth(true, ~(np.isnan(one) | np.isnan(other)))


def with_constant(value: Words, compare: Compare, constant: str, refuse: Refuse, *, text: bool) -> Truth:
    """Compares each level once: for equality by label or code, for order as numbers or dates.

    Args:
        value: The column.
        compare: The sign.
        constant: What stands behind it.
        refuse: Makes the error.
        text: Whether that stands in quotes; a number that does not is the same in any form, `1` and `1.0`.

    Raises:
        RequestError: A level has no order with the constant.
    """
    number = parsed(constant)
    truths = []
    for names in value.names:
        if compare in (operator.eq, operator.ne):
            same = constant in names or (not text and any(parsed(name) == number for name in names))
            truths.append(same == (compare is operator.eq))
            continue
        own = parsed(names[1])
        if own is not None and number is not None:
            truths.append(bool(compare(own, number)))
        elif _ISO_DATE.fullmatch(constant) and _ISO_DATE.fullmatch(names[1]):
            truths.append(bool(compare(names[1], constant)))
        else:
            raise refuse(
                f"`{names[0]}` and `{constant}` have no order",
                "Categories can be compared with = and <>; only numbers and dates with < and >.",
            )
    return value.where(truths)


def of_columns(one: Words, other: Words, compare: Compare) -> Truth:
    """Compares two columns of categories or text by their labels, for equality.

    Args:
        one: The column before the sign.
        other: The one behind it.
        compare: The sign.
    """
    first, second = (np.array([*(names[0] for names in words.names), ""]) for words in (one, other))
    return Truth(compare(first[one.places], second[other.places]), (one.places >= 0) & (other.places >= 0))


def like(value: Words, pattern: str, *, any_case: bool) -> Truth:
    """SQL's LIKE, by label or code: `%` is any text, `_` any one letter.

    Args:
        value: The column.
        pattern: What it is compared with.
        any_case: Whether capitals make no difference.
    """
    written = "".join(".*" if mark == "%" else "." if mark == "_" else re.escape(mark) for mark in pattern)
    flags = re.DOTALL | (re.IGNORECASE if any_case else re.NOFLAG)
    return value.where([any(re.fullmatch(written, name, flags) for name in names) for names in value.names])
