"""What expressions are worked out with: numbers, text and truth values, a column at a time."""

import re
from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from grainstack.records.arrow import Codes, Numbers
from grainstack.records.dates import MONTH_FIRST, day_of, settled_order

_WHOLE_DATE = len("1.1.2025")  # characters of a date that says its day
ISO_DATE = re.compile(r"\d{4}(-\d{2}(-\d{2}([ T].*)?)?)?")
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
    """

    places: Codes
    names: tuple[tuple[str, str], ...]


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


def part_of_date(value: Words, part: str) -> Numbers:
    """The year, quarter, month or day of dates, or the number of the day; NaN for what is no date."""
    codes = [code for _, code in value.names]
    day_first = settled_order(codes) != MONTH_FIRST
    found = []
    for code in codes:
        day = day_of(code, day_first=day_first) if len(code) >= _WHOLE_DATE else None
        if day is None:
            found.append(np.nan)
        elif part == "Date":
            found.append(float(np.datetime64(day, "D").astype(np.int64)))
        else:
            parts = {"Year": day.year, "Quarter": (day.month + 2) // 3, "Month": day.month, "Day": day.day}
            found.append(float(parts[part]))
    return np.asarray(np.array([*found, np.nan])[value.places])
