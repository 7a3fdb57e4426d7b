"""Text made of text, worked out once for each value that occurs."""

import re
from collections.abc import Callable, Sequence
from datetime import date
from functools import reduce

import numpy as np
from sqlglot import exp

from grainstack.records.arrow import Numbers
from grainstack.records.expressions.operands import DIGITS, Operand, Words
from grainstack.records.numerals import parsed
from grainstack.records.time_words import MONTH_NUMBER

_PARTS = {  # of the form of a date, as SQL writes it
    "YYYY": r"(?P<year>\d{4})",
    "MM": r"(?P<month>\d{1,2})",
    "MON": r"(?P<name>[^\W\d]+)\.?",
    "DD": r"(?P<day>\d{1,2})",
}


def mapped(value: Words, of: Callable[[str], str | None]) -> Words:
    """Text made of the values of a column as they stand in the records; missing where there is none.

    Args:
        value: The column.
        of: Makes the text of one value; None where there is none.
    """
    found: dict[str, int] = {}
    texts = [None if code is None else of(code) for code in _met(value)]
    places = [-1 if text is None else found.setdefault(text, len(found)) for text in texts]
    return Words(np.array([*places, -1], dtype=np.int32)[value.places], tuple((text, text) for text in found))


def lengths(value: Words) -> Numbers:
    """How many letters the values of a column have, shape (records,)."""
    return np.array([*(float(len(code)) for _, code in value.names), np.nan])[value.places]


def numbers_of(value: Words) -> Numbers:
    """The values of a column as numbers, shape (records,).

    Raises:
        ValueError: A value that is none.
    """
    found = []
    for code in _met(value):
        number = np.nan if code is None else parsed(code.strip())
        if number is None:
            raise ValueError(code)
        found.append(number)
    return np.array([*found, np.nan])[value.places]


def _met(value: Words) -> list[str | None]:
    """The text of each place; None of those that no record has."""
    met = set(value.places.tolist())
    return [code if place in met else None for place, (_, code) in enumerate(value.names)]


def texts_of(value: Operand) -> Words:
    """Numbers as text; text as it is."""
    if isinstance(value, Words):
        return value
    different, places = np.unique(value[~np.isnan(value)], return_inverse=True)
    codes = np.full(len(value), -1, dtype=np.int32)
    codes[~np.isnan(value)] = places.reshape(-1)
    names = (f"{one:.{DIGITS}g}" for one in different.tolist())
    return Words(codes, tuple((name, name) for name in names))


def side_by_side(values: Sequence[Words]) -> Words:
    """Texts of each record one behind the other; missing where one of them is."""
    return reduce(_joined, values)


def _joined(one: Words, other: Words) -> Words:
    first, second = np.broadcast_arrays(one.places, other.places)
    pairs = np.where((first < 0) | (second < 0), -1, first.astype(np.int64) * len(other.names) + second)
    different, places = np.unique(pairs, return_inverse=True)
    both = [divmod(pair, len(other.names)) for pair in different.tolist() if pair >= 0]
    texts = [one.names[mine][1] + other.names[theirs][1] for mine, theirs in both]
    shift = int((different < 0).any())
    return Words((places.reshape(-1) - shift).astype(np.int32), tuple((text, text) for text in texts))


def part_of_text(node: exp.Substring | exp.Left | exp.Right, text: str, counts: Sequence[int | None]) -> str:
    """Some letters of a text; SQL counts them from 1.

    Args:
        node: Which function.
        text: The text.
        counts: From where and how many of SUBSTRING, or how many of LEFT and RIGHT.
    """
    first, count = (*counts, None)[:2]
    if isinstance(node, exp.Left):
        return text[: max(first or 0, 0)]
    if isinstance(node, exp.Right):
        return text[max(len(text) - (first or 0), 0) :]
    start = (first or 1) - 1
    return text[max(start, 0) : None if count is None else max(start + count, 0)]


def extracted(pattern: re.Pattern[str], text: str) -> str | None:
    """What a pattern finds in a text: its first group where it has one, else the whole of it."""
    found = pattern.search(text)
    return found[1 if pattern.groups else 0] if found else None


def date_form(form: str) -> re.Pattern[str]:
    """The pattern of dates of a form such as `DD.MM.YYYY`.

    Raises:
        ValueError: It does not say day, month and year, each once.
    """
    parts = re.split(rf"({'|'.join(_PARTS)})", form.upper())
    named = [part for part in parts if part in _PARTS]
    if sorted({"MON": "MM"}.get(part, part) for part in named) != ["DD", "MM", "YYYY"]:
        raise ValueError(form)
    return re.compile("".join(_PARTS.get(part, re.escape(part)) for part in parts))


def as_iso(pattern: re.Pattern[str], text: str) -> str:
    """A date of that form as 2025-01-31.

    Raises:
        ValueError: It is none.
    """
    found = pattern.fullmatch(text.strip())
    if not found:
        raise ValueError(text)
    parts = found.groupdict()
    month = int(parts["month"]) if "month" in parts else MONTH_NUMBER.get(parts["name"].casefold(), 0)
    try:
        return date(int(parts["year"]), month, int(parts["day"])).isoformat()
    except ValueError as reason:
        raise ValueError(text) from reason
