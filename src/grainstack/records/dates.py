"""Dates as offices write them, settled column by column: 2025-01-31, 31.01.2025, 01/31/2025, 31 Jan 2025."""

import re
from collections.abc import Iterable
from datetime import date

from grainstack.records.time_words import day_moment, day_or_month_first

_ISO = re.compile(r"\d{4}-\d\d-\d\d")
DAY_FIRST, MONTH_FIRST = "day-first", "month-first"  # how 01/02/2025 is read


def day_of(text: str, *, day_first: bool) -> date | None:
    """The day a date says; the first of the month or year where it says no more; None for what is no date.

    Args:
        text: The date.
        day_first: Whether the day stands before the month where both are numbers between slashes or hyphens.
    """
    if _ISO.match(text):
        try:
            return date.fromisoformat(text[:10])
        except ValueError:
            return None
    moment = day_moment(" ".join(text.casefold().split()), day_first=day_first)
    if moment is None:
        return None
    year, month, day = (*moment, 1, 1)[:3]
    try:
        return date(year, month, day)
    except ValueError:  # 31 February
        return None


def settled_order(texts: Iterable[str]) -> str | None:
    """Whether the day or the month stands first in dates of numbers between slashes: by any part above 12.

    Args:
        texts: Some values of a column; those that are no such dates say nothing.

    Returns:
        `day-first` or `month-first`; `""` where no value is such a date; None where they can be read in two ways.
    """
    firsts = [found for text in texts if (found := day_or_month_first(" ".join(text.casefold().split()))) is not None]
    if not firsts:
        return ""
    if all(first <= 12 and second <= 12 for first, second in firsts):
        return None
    return DAY_FIRST if any(first > 12 for first, _ in firsts) else MONTH_FIRST
