"""What kind of column its values suggest, and which of them look like codes for `no answer`."""

import math
import re
from collections.abc import Collection, Mapping, Sequence

from grainstack.records.dates import date_order, date_parts, is_serial
from grainstack.records.numerals import form_of, parsed
from grainstack.records.variable import Kind

_DATE = re.compile(r"\d{4}-\d{2}(-\d{2}([T ]\d{2}:\d{2}(:\d{2})?)?)?")
_NO_ANSWER = frozenset(
    (
        *("n/a", "na", "n.a.", "nan", "null", "missing", "unknown", "?", "-", "--", ".", "..", "refused"),
        *("don't know", "dont know", "do not know", "no answer", "not given", "not stated", "not answered"),
        *("keine angabe", "k.a.", "k. a.", "(leer)", "leer", "weiß nicht", "sans réponse", "no contesta"),
    )
)
_LONGEST_NO_ANSWER = max(map(len, _NO_ANSWER))
_CODES = (-99, -98, -97, -9, -8, -7, -1, 9, 99, 999, 9999, 99999, 98, 998, 9998, 97, 997, 9997, 88, 888, 8888, 77, 777)
_MOST_ANSWERS = 30  # a question with more is nobody's to answer
_NUMBER_LIKE = re.compile(r"[-+]?\d+(,\d+)?")  # `1,5` may be a number, `1,3,5` is none
_FEW_LEVELS = 50  # more different texts are names or answers in words, not levels
_LONGEST_LEVEL = 300  # characters: a longer text is an answer in words, however few there are


def guessed_kind(counts: Mapping[str, int], decimal: str = ".") -> Kind:
    """The kind of a column from its codes and how often each occurs; `decimal` is the sign before decimals."""
    codes = [code for code in counts if not says_no_answer(code)]
    records = sum(counts.values())
    if not codes:
        return Kind.TEXT
    if all(_DATE.fullmatch(code) for code in codes) or _are_days(codes):
        return Kind.DATE
    form = form_of(codes, decimal)
    signs = ".," if form.doubtful else form.signs
    if all(parsed(code, signs) is not None for code in codes) and not any(_has_leading_zero(code) for code in codes):
        return Kind.NUMBER
    if separator_of(codes):
        return Kind.MULTI
    if any(len(code) > _LONGEST_LEVEL for code in codes):
        return Kind.TEXT
    few = len(codes) <= _FEW_LEVELS and len(codes) <= max(records / 2, 2)
    return Kind.CATEGORY if few or len(codes) <= math.sqrt(records) else Kind.TEXT


def _are_days(codes: Sequence[str]) -> bool:
    """Whether codes are days or months in any form; years alone are categories or numbers."""
    day_first = date_order(codes).day_first
    return all(len(date_parts(code, day_first=day_first)) > 1 and not is_serial(code) for code in codes)


def likely_missing(counts: Mapping[str, int], decimal: str = ".") -> tuple[str, ...]:
    """Codes that probably mean `no answer`: words that say so, and 9, 99, 999, −1 … standing apart from the rest."""
    words = [code for code in counts if says_no_answer(code)]
    values = {code: value for code in counts if (value := parsed(code, decimal)) is not None and not math.isnan(value)}
    numbers = sorted(set(values.values()))
    apart = {value for value in numbers if value in _CODES and _stands_apart(value, numbers)}
    texts = len(counts) - len(words) - len(values)
    if texts > len(numbers):  # among answers in words
        apart |= {value for value in numbers if value in _CODES}
    return (*words, *(code for code, value in values.items() if value in apart))


def _stands_apart(value: float, numbers: list[float]) -> bool:
    """Whether a code lies well outside the other values: further from them than they reach among themselves."""
    others = [number for number in numbers if number not in _CODES or abs(number) < abs(value) / 3]
    if len(others) < 2:
        return False
    low, high = others[0], others[-1]
    if value < 0:
        return low >= 0
    return value > high + max(2, (high - low) / 2) and value not in others


def says_no_answer(code: str) -> bool:
    """Whether a text says that there is no answer: `n/a`, `-`, `keine Angabe`.

    Args:
        code: The text.
    """
    return len(code) <= _LONGEST_NO_ANSWER and code.strip().casefold() in _NO_ANSWER


def _has_leading_zero(code: str) -> bool:
    digits = code.strip().lstrip("+-")
    return len(digits) > 1 and digits[0] == "0" and digits[1].isdigit()


def separator_of(codes: Collection[str]) -> str:
    """What parts several answers in one value, such as `;` in `cafe;lounge`; empty where codes are single answers.

    Parts have to come again in other values: `Last, First` are names and no answers.
    """
    for mark in (";", "|", ","):
        joined = [code for code in codes if mark in code]
        if not joined:
            continue
        sets = [{part.strip() for part in code.split(mark)} for code in codes]
        parts = set().union(*sets) if sets else set()
        again = all(sum(part in one for one in sets) > 1 for code in joined for part in _parts(code, mark))
        plain_number = mark == "," and all(_NUMBER_LIKE.fullmatch(code) for code in codes)
        if again and len(parts) < len(codes) and len(parts) <= _MOST_ANSWERS and not plain_number:
            return mark
    return ""


def _parts(code: str, mark: str) -> list[str]:
    return [part.strip() for part in code.split(mark)]
