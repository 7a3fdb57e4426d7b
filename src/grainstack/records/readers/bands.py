"""Numbers and dates cut into bands: labels come from the edges, order from the values, and nothing is lost unsaid."""

import math
from collections.abc import Iterable
from datetime import date
from itertools import pairwise

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from grainstack.errors import RequestError
from grainstack.language import phrase, spoken, with_signs
from grainstack.option_names import option
from grainstack.records.arrow import Codes, Numbers
from grainstack.records.dates import day_of
from grainstack.records.numerals import is_number
from grainstack.records.readers.levels import Rows
from grainstack.records.variable import MOST_BANDS, NO_BAND_CODE, Level

DATE_BANDS = ("week", "month", "quarter", "half-year", "year", "weekday")
_MONTHS, _DAYS_OF_A_WEEK = 12, 7
_MONTHS_OF = {"quarter": 3, "half-year": 6, "year": 12}
_EXAMPLES = 3  # enough to see what was left out, on one line
_EXACT = 2.0**53  # from here on numbers of bands are no longer told apart


class BandRule(Struct, frozen=True):
    """How a column is cut.

    Attributes:
        column: The column.
        width: The width of equal bands; 0 when edges are given.
        edges: The edges between bands, rising.
        under: Whether a band lies open below the first edge.
        over: Whether a band lies open above the last edge.
        closed: Which end belongs to a band, `left` or `right`.
        by: One of `DATE_BANDS` of a date, `auto` for a width chosen by rule, else empty.
        year_starts: The month with which years begin, from 1; those of quarters and half-years too.
        name: What the banded column is called; empty where it takes the place of the column itself.
    """

    column: str
    width: float = 0.0
    edges: tuple[float, ...] = ()
    under: bool = False
    over: bool = False
    closed: str = "left"
    by: str = ""
    name: str = ""
    year_starts: int = 1

    @property
    def target(self) -> str:
        """The column of bands as a request names it."""
        return self.name or self.column

    @property
    def is_date(self) -> bool:
        """Whether it cuts dates."""
        return self.by in DATE_BANDS


def band_rule(text: str, closed: str, year_starts: int = 1) -> BandRule:
    """The rule in `COLUMN=10`, `COLUMN=0,18,65`, `COLUMN=under,18,65,over`, `COLUMN=auto` or `COLUMN=month`.

    Before it may stand what the banded column is called: `NAME: COLUMN=10`.

    Args:
        text: The rule as asked for.
        closed: Which end belongs to a band, `left` or `right`.
        year_starts: The month with which years begin, from 1.

    Raises:
        RequestError: It is of none of these forms, or edges overlap or stand twice.
    """
    column, equals, how_cut = text.partition("=")
    name, colon, inner = column.partition(":")
    name, column = (name.strip(), inner.strip()) if colon else ("", column.strip())
    parts = [part.strip() for part in how_cut.split(",")]
    how = (
        "Write COLUMN=10 for a width, COLUMN=0,18,65 for edges, COLUMN=under,18,65,over for open ends, or COLUMN=month."
    )
    if not equals or not column or not all(parts) or (colon and not name):
        raise RequestError(f"`{option('band')} {text}` names no bands.", how)
    if len(parts) == 1 and parts[0] in (*DATE_BANDS, "auto"):
        return BandRule(column, closed=closed, by=parts[0], name=name, year_starts=year_starts)
    under, over = parts[0] == "under", parts[-1] == "over"
    numbers = parts[under : len(parts) - over]
    try:
        edges = tuple(float(part) for part in numbers)
    except ValueError as reason:
        wrong = next(part for part in numbers if not is_number(part))
        raise RequestError(f"`{wrong}` in `{option('band')} {text}` is no number.", how) from reason
    if not all(map(math.isfinite, edges)) or not edges:
        raise RequestError(f"`{option('band')} {text}` has no finite edges.", how)
    if len(edges) == 1 and not under and not over:
        if edges[0] <= 0:
            raise RequestError(f"The width of `{option('band')} {text}` must be above 0.", how)
        return BandRule(column, width=edges[0], closed=closed, name=name)
    for before, after in pairwise(edges):
        if after <= before:
            raise RequestError(
                f"The edges of `{column}` overlap: {after:g} comes after {before:g}.", "Give rising edges, each once."
            )
    return BandRule(column, edges=edges, under=under, over=over, closed=closed, name=name)


class NumberBands:
    """Cuts numbers by a rule and remembers which bands occurred and which values fell in none.

    Attributes:
        met: The place of each band met, by its number.
        lost_values: A few of the values in no band, as text, each with the first record that has it.
        whole: Whether all values were whole numbers.
    """

    def __init__(self, rule: BandRule) -> None:
        self._rule = rule
        self.met: dict[int, int] = {}
        self.lost_values: dict[str, int] = {}
        self.whole = True

    @property
    def codes(self) -> tuple[str, ...]:
        """The codes of the bands met; the last resort is the code for values in no band."""
        return tuple(_code(index) for index in self.met)

    @property
    def outside(self) -> tuple[str, ...]:
        """A few of the values in no band, as text: those of the first records that have any."""
        return tuple(sorted(self.lost_values, key=self.lost_values.__getitem__)[:_EXAMPLES])

    def place(self, numbers: Numbers, rows: Rows) -> Codes:
        """Places in `codes`, shape (records,); -1 where there is no number.

        Args:
            numbers: Shape (records,); NaN where there is none.
            rows: Which records they belong to.

        Raises:
            RequestError: The width makes more bands than anybody could read.
        """
        known = ~np.isnan(numbers)
        values = np.where(known, numbers, 0.0)
        index = self.index(values)
        self.whole = self.whole and bool((values == np.round(values)).all())
        self._note_outside(values, known & (index == LOST), rows)
        different, back = np.unique(np.where(known, index, LOST - 1), return_inverse=True)
        met = self.met
        mine = [-1 if one == LOST - 1 else met.setdefault(one, len(met)) for one in different.tolist()]
        self._check_span()
        return np.asarray(np.array(mine, dtype=np.int32)[back], dtype=np.int32)

    def merge(self, other: "NumberBands") -> npt.NDArray[np.int64]:
        """Learns what other bands of the same rule have met; gives the place here of each of their places."""
        self.whole = self.whole and other.whole
        for text, record in other.lost_values.items():
            self.lost_values[text] = min(record, self.lost_values.get(text, record))
        self._keep_first_outside()
        places = [self.met.setdefault(index, len(self.met)) for index in other.met]
        self._check_span()
        return np.array(places, dtype=np.int64)

    def order(self) -> list[int]:
        """The places of the bands met, from the lowest band to the highest."""
        return sorted(range(len(self.met)), key=list(self.met).__getitem__)

    def _note_outside(self, values: Numbers, lost: npt.NDArray[np.bool_], rows: Rows) -> None:
        """Remembers values in no band with the first record that has each."""
        seen: set[float] = set()
        for row in np.flatnonzero(lost).tolist():
            value = float(values[row])
            if value in seen:
                continue
            seen.add(value)
            record, text = rows.number(row), f"{value:g}"
            self.lost_values[text] = min(record, self.lost_values.get(text, record))
            if len(seen) == _EXAMPLES:
                break
        self._keep_first_outside()

    def _keep_first_outside(self) -> None:
        self.lost_values = {text: self.lost_values[text] for text in self.outside}

    def _check_span(self) -> None:
        if _span(self.met) > MOST_BANDS:
            raise RequestError(
                f"Bands of {self._rule.width:g} make more than {MOST_BANDS} bands of `{self._rule.column}`.",
                "Choose a larger width, or edges: `under` and `over` take a few far values. "
                "A number that stands for a missing answer belongs among the missing codes of the codebook.",
            )

    def levels(self) -> tuple[Level, ...]:
        """All bands from the lowest met to the highest, in order, with those between that stayed empty."""
        met = [index for index in self.met if index != LOST]
        every = range(min(met), max(met) + 1) if met else ()
        return tuple(Level(_code(index), self._label(index)) for index in every)

    def index(self, values: Numbers) -> npt.NDArray[np.int64]:
        """The number of each value's band; `LOST` for none. Float noise at an edge counts as the edge."""
        rule = self._rule
        if rule.width:
            steps = values / rule.width
            near = np.round(steps)
            steps = np.where(np.abs(steps - near) < 1e-12 * np.maximum(1, np.abs(near)), near, steps)
            steps = np.clip(steps, -_EXACT, _EXACT)
            cut = np.floor(steps) if rule.closed == "left" else np.ceil(steps) - 1
            return np.asarray(cut, dtype=np.int64)
        index = np.searchsorted(np.array(rule.edges), values, side="right" if rule.closed == "left" else "left") - 1
        last = len(rule.edges) - 1
        lost = ((index < 0) & (not rule.under)) | ((index >= last) & (not rule.over))
        return np.asarray(np.where(lost, LOST, index), dtype=np.int64)

    def _label(self, index: int) -> str:
        rule = self._rule
        left = rule.closed == "left"
        if rule.width:
            low, high = index * rule.width, (index + 1) * rule.width
        else:
            if index < 0:
                edge = _written(rule.edges[0])
                return phrase("under {edge}", edge=edge) if left else phrase("{edge} and under", edge=edge)
            if index >= len(rule.edges) - 1:
                edge = _written(rule.edges[-1])
                return phrase("{edge} and over", edge=edge) if left else phrase("over {edge}", edge=edge)
            low, high = rule.edges[index], rule.edges[index + 1]
        if self.whole and low.is_integer() and high.is_integer():
            first, last = (low, high - 1) if left else (low + 1, high)
            return _written(first) if first == last else f"{_written(first)}–{_written(last)}"
        low, high = float(f"{low:.12g}"), float(f"{high:.12g}")
        edges = {"low": _written(low), "high": _written(high)}
        return phrase("{low} to under {high}", **edges) if left else phrase("over {low} to {high}", **edges)


class DateBands:
    """Cuts dates by week, month, quarter, half-year, year or weekday.

    Args:
        rule: By which.
        day_first: Whether the day stands first in dates of numbers between slashes.

    Attributes:
        met: The place of each band met, by its number.
    """

    def __init__(self, rule: BandRule, *, day_first: bool = True) -> None:
        self._by, self._column, self._day_first = rule.by, rule.column, day_first
        self._before = rule.year_starts - 1  # months of a calendar year that belong to the year before
        self.met: dict[int, int] = {}

    @property
    def codes(self) -> tuple[str, ...]:
        """The codes of the bands met."""
        return tuple(_code(index) for index in self.met)

    def merge(self, other: "DateBands") -> npt.NDArray[np.int64]:
        """Learns what other bands of the same rule have met; gives the place here of each of their places."""
        return np.array([self.met.setdefault(index, len(self.met)) for index in other.met], dtype=np.int64)

    def order(self) -> list[int]:
        """The places of the bands met, from the first band to the last."""
        return sorted(range(len(self.met)), key=list(self.met).__getitem__)

    def place_of(self, text: str) -> int | None:
        """The place of one date in `codes`; -1 for blank, None for what is no date."""
        if not text.strip():
            return -1
        index = self._index(text.strip())
        if index is None:
            return None
        place = self.met.setdefault(index, len(self.met))
        if _span(self.met) > MOST_BANDS:
            raise RequestError(
                f"`{self._column}` reaches over more than {MOST_BANDS} bands by {self._by}, with {text.strip()}.",
                "Choose a longer band, or make a date that stands for a missing answer a missing code in the codebook.",
            )
        return place

    def levels(self) -> tuple[Level, ...]:
        """All bands from the first found to the last, in order."""
        if not self.met:
            return ()
        every = range(min(self.met), max(self.met) + 1)
        return tuple(Level(_code(index), self._label(index)) for index in every)

    def _index(self, text: str) -> int | None:
        day = day_of(text, day_first=self._day_first)
        if day is None:
            return None
        if self._by == "weekday":
            return day.weekday()
        if self._by == "week":
            return (day.toordinal() - 1) // _DAYS_OF_A_WEEK
        if self._by == "month":
            return day.year * _MONTHS + day.month - 1
        return (day.year * _MONTHS + day.month - 1 - self._before) // _MONTHS_OF[self._by]

    def _label(self, index: int) -> str:
        if self._by == "weekday":
            return spoken().weekdays[index]
        if self._by == "week":
            return "{}-W{:02d}".format(*date.fromordinal(index * _DAYS_OF_A_WEEK + 1).isocalendar()[:2])
        if self._by == "month":
            return f"{spoken().months[index % _MONTHS]} {index // _MONTHS}"
        number, part = divmod(index, _MONTHS // _MONTHS_OF[self._by])
        year = f"{number}/{(number + 1) % 100:02d}" if self._before else f"{number}"
        if self._by == "year":
            return year
        if self._by == "half-year":
            return phrase("H{half} {year}", half=part + 1, year=year)
        return phrase("Q{quarter} {year}", quarter=part + 1, year=year)


LOST = int(np.iinfo(np.int64).min) + 1  # the number of no band; the one below it stands for no number


def _span(met: Iterable[int]) -> int:
    """How many bands lie from the lowest met to the highest, both counted."""
    inside = [index for index in met if index != LOST]
    return max(inside) - min(inside) + 1 if inside else 0


def _code(index: int) -> str:
    return NO_BAND_CODE if index == LOST else f"band {index}"


def _written(value: float) -> str:
    if value.is_integer():
        return with_signs(f"{int(value):,}").replace("-", "−")
    return with_signs(f"{value:,.12g}").replace("-", "−")
