"""What expressions are worked out with: numbers, text and truth values, a column at a time."""

from collections.abc import Callable, Sequence
from datetime import date

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from grainstack.records.arrow import Codes, Numbers
from grainstack.records.dates import DateOrder, date_parts

_PARTS = ("Year", "Month", "Day")
DIGITS = 15  # of a number that is worked out: with 17, 0.1 + 0.2 would be another category than 0.3
_FIRST_DAY = date(1970, 1, 1).toordinal()  # which dates are counted from
OF_MANY = ("sum_of", "mean_of", "count_of", "min_of", "max_of")  # what may be asked of several columns of a record


class Truth(Struct, frozen=True):
    """What is known of a condition for each record; both arrays have shape (records,)."""

    true: npt.NDArray[np.bool_]
    known: npt.NDArray[np.bool_]


class Words(Struct, frozen=True):
    """A column of categories or text.

    Attributes:
        places: The place of each record's value in `names`, shape (records,); -1 where there is none.
        names: For each place, the label and code it may be called by.
        dates: Whether the day or the month stands first in its dates; None where that was not looked at.
    """

    places: Codes
    names: tuple[tuple[str, str], ...]
    dates: DateOrder | None = None

    def where(self, truths: Sequence[bool]) -> Truth:
        """What is known of each record, where that is known of each place; unknown where there is no value."""
        return Truth(np.array([*truths, False])[self.places], self.places >= 0)


Compare = Callable[..., npt.NDArray[np.bool_]]
Operand = Numbers | Words
Columns = Callable[[str], Operand]


def joined(one: Truth, other: Truth, *, both: bool) -> Truth:
    """SQL's AND, where both have to hold, and OR: unknown unless one side decides by itself."""
    if both:
        true = one.true & one.known & other.true & other.known
        false = (~one.true & one.known) | (~other.true & other.known)
        return Truth(true, true | false)
    true = (one.true & one.known) | (other.true & other.known)
    return Truth(true, true | (one.known & other.known))


def chosen(values: Sequence[Operand], conditions: Sequence[npt.NDArray[np.bool_]]) -> Operand:
    """For each record the value of the first condition that holds; missing where none does.

    Args:
        values: Numbers only, or text only; each for every record, or one for all.
        conditions: As many, likewise.
    """
    shapes = [len(one.places) if isinstance(one, Words) else len(one) for one in values]
    records = max(*shapes, *(len(one) for one in conditions))
    names: dict[tuple[str, str], int] = {}
    result: Numbers = np.full(records, np.nan)
    undecided = np.ones(records, dtype=bool)
    for value, condition in zip(values, conditions, strict=True):
        if isinstance(value, Words):
            mine = np.array([*(names.setdefault(one, len(names)) for one in value.names), np.nan], dtype=np.float64)
            numbers: Numbers = mine[value.places]
        else:
            numbers = value
        result = np.where(undecided & condition, numbers, result)
        undecided &= ~condition
    if not any(isinstance(value, Words) for value in values):
        return result
    return Words(np.nan_to_num(result, nan=-1).astype(np.int32), tuple(names))


def of_many(name: str, values: Sequence[Numbers]) -> Numbers:
    """A figure of several columns of each record, over those that have an answer; missing where none has.

    Args:
        name: Which, one of `OF_MANY`.
        values: The columns, each of shape (records,) or (1,).
    """
    table = np.vstack(np.broadcast_arrays(*values))
    known = ~np.isnan(table)
    count = known.sum(axis=0).astype(np.float64)
    if name == "count_of":
        return np.asarray(count)
    filled = np.where(known, table, {"min_of": np.inf, "max_of": -np.inf}.get(name, 0.0))
    if name in ("min_of", "max_of"):
        result = filled.min(axis=0) if name == "min_of" else filled.max(axis=0)
    else:
        result = filled.sum(axis=0) / (np.maximum(count, 1) if name == "mean_of" else 1)
    return np.where(count > 0, result, np.nan)


def rounded_half_up(value: Numbers, decimals: float) -> Numbers:
    """Numbers rounded half away from zero."""
    scale = 10.0**decimals
    return np.asarray(np.copysign(np.floor(np.abs(value) * scale + 0.5), value) / scale)


def part_of_date(value: Words, part: str, *, day_first: bool) -> Numbers:
    """The year, quarter, month or day of dates, or the number of the day; NaN for what does not say it.

    Args:
        value: The dates.
        part: `Year`, `Quarter`, `Month`, `Day` or `Date`.
        day_first: Whether the day stands first in dates of numbers between slashes.
    """
    days = [date_parts(code, day_first=day_first) for _, code in value.names]
    if part == "Date":
        found = [float(date(*day).toordinal() - _FIRST_DAY) if len(day) == len(_PARTS) else np.nan for day in days]
    elif part == "Quarter":
        found = [float((day[1] + 2) // 3) if len(day) > 1 else np.nan for day in days]
    else:
        place = _PARTS.index(part)
        found = [float(day[place]) if len(day) > place else np.nan for day in days]
    return np.asarray(np.array([*found, np.nan])[value.places])
