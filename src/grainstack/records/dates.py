"""Dates as offices write them, settled column by column: 2025-01-31, 31.01.2025, 01/31/2025, 31 Jan 2025."""

import re
from collections.abc import Iterable
from datetime import date
from typing import NamedTuple

from grainstack.records.time_words import day_moment, day_or_month_first

_ISO = re.compile(r"\d{4}-\d\d-\d\d")
_IN_ONE = re.compile(r"((?:19|20)\d\d)(\d\d)(\d\d)")  # 20250131
_SERIAL = re.compile(r"[2-6]\d{4}(?:\.\d+)?")  # days as spreadsheets count them: 1954 to 2091
_FIRST_SERIAL = date(1899, 12, 30).toordinal()  # the day that is 0 to them, as they take 1900 for a leap year
_MONTHS = 12  # of a year: a larger number is a day
DAY_FIRST, MONTH_FIRST = "day-first", "month-first"  # how 01/02/2025 is read, as it is typed


class DateOrder(NamedTuple):
    """What stands first in the dates of a column of text.

    Attributes:
        day_first: Whether the day does; so too where nothing says it.
        doubtful: A date that can be read in two ways, where nothing settles which; empty otherwise.
    """

    day_first: bool = True
    doubtful: str = ""


def date_parts(text: str, *, day_first: bool) -> tuple[int, ...]:
    """The year, month and day of a date, as far as it says them; nothing for what is no date.

    Args:
        text: The date.
        day_first: Whether the day stands before the month where both are numbers between slashes or hyphens.
    """
    parts: tuple[int, ...] = tuple(map(int, text[:10].split("-"))) if _ISO.match(text) else ()
    if in_one := _IN_ONE.fullmatch(text):
        parts = tuple(map(int, in_one.groups()))
    elif is_serial(text):
        day = date.fromordinal(_FIRST_SERIAL + int(text.partition(".")[0]))
        parts = (day.year, day.month, day.day)
    parts = parts or day_moment(" ".join(text.casefold().split()), day_first=day_first) or ()
    try:
        date(*(*parts, 1, 1)[:3])
    except (ValueError, TypeError):  # 31 February, or nothing
        return ()
    return parts


def is_serial(text: str) -> bool:
    """Whether a text is a number that can be a day as spreadsheets count them, where a date is wanted."""
    return _SERIAL.fullmatch(text) is not None


def day_of(text: str, *, day_first: bool) -> date | None:
    """The day a date says; the first of the month or year where it says no more; None for what is no date.

    Args:
        text: The date.
        day_first: Whether the day stands before the month where both are numbers between slashes or hyphens.
    """
    parts = date_parts(text, day_first=day_first)
    return date(*(*parts, 1, 1)[:3]) if parts else None


def date_order(texts: Iterable[str]) -> DateOrder:
    """What stands first in dates of numbers between slashes: any part above 12 settles it.

    Args:
        texts: Some values of a column; those that are no such dates say nothing.
    """
    found = {text: numbers for text in texts if (numbers := day_or_month_first(" ".join(text.casefold().split())))}
    if settling := [numbers for numbers in found.values() if max(numbers) > _MONTHS]:
        return DateOrder(day_first=any(first > _MONTHS for first, _ in settling))
    return DateOrder(doubtful=next(iter(found), ""))
