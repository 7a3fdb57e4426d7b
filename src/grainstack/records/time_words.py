"""Names of times as people write them, from dates to school years and waves, and the order they have."""

import re
from collections.abc import Callable, Sequence
from datetime import date
from typing import NamedTuple

Moment = tuple[int, ...]  # year, then the part of it; compared with others of the same form only

MONTH_SERIES = tuple(  # the names of months in one language and form each
    tuple(series.split())
    for series in (
        "january february march april may june july august september october november december",
        "jan feb mar apr may jun jul aug sep oct nov dec",
        "jan feb mar apr may june july aug sept oct nov dec",
        "januar februar märz april mai juni juli august september oktober november dezember",
        "jan feb mär apr mai jun jul aug sep okt nov dez",
        "jan feb mrz apr mai jun jul aug sept okt nov dez",
        "janvier février mars avril mai juin juillet août septembre octobre novembre décembre",
        "enero febrero marzo abril mayo junio julio agosto septiembre octubre noviembre diciembre",
        "gennaio febbraio marzo aprile maggio giugno luglio agosto settembre ottobre novembre dicembre",
    )
)
MONTHS_BY_NAME = MONTH_SERIES[0]
MONTHS = tuple(tuple(dict.fromkeys(words)) for words in zip(*MONTH_SERIES, strict=True))
MONTH_NUMBER = {word: number for number, words in enumerate(MONTHS, 1) for word in words}
_YEAR, _CLOCK = r"((?:19|20)\d\d)", r"(?:[t ]\d\d:\d\d(?::\d\d(?:\.\d+)?)?\s?(?:z|[+-]\d\d:?\d\d)?)?"
_ISO = re.compile(rf"{_YEAR}[-/.](\d\d?)(?:[-/.](\d\d?))?{_CLOCK}")
_POINTED = re.compile(rf"(\d\d?)\.\s?(\d\d?)\.\s?{_YEAR}{_CLOCK}")
_SLASHED = re.compile(rf"(\d\d?)[/-](\d\d?)[/-]{_YEAR}{_CLOCK}")
_MONTH_FIRST = re.compile(rf"(\d\d?)[/.-]{_YEAR}")
_NAMED = re.compile(rf"(?:(\d\d?)\.?[ -])?([^\W\d]+)\.?(?: (\d\d?),?)?[ -]?{_YEAR}")
_PART = r"(q|t|h|s|w|kw|wk|week|quarter|half)"
_YEARS = rf"{_YEAR}(?:[/–-]\d\d)?"  # of a fiscal year, the second one in short
_YEAR_PART = re.compile(rf"{_YEARS}[ /-]?{_PART} ?(\d\d?)")
_PART_YEAR = re.compile(rf"{_PART} ?(\d\d?)[ /-]{{1,2}}{_YEARS}|(\d)\. (quartal|halbjahr) {_YEAR}")
_TWO_YEARS = re.compile(rf"(?:fy ?)?{_YEAR} ?[/–-] ?(\d\d|(?:19|20)\d\d)")
_NUMBER = re.compile(r"-?\d+(?:\.\d+)?")
_WAVE = re.compile(r"(wave|welle|vague|round|runde|w) ?(\d{1,3})")
_MOST = {"q": 4, "t": 4, "quarter": 4, "quartal": 4, "h": 2, "s": 2, "half": 2, "halbjahr": 2}
_MOST_WEEKS, _MOST_MONTHS, _MOST_DAYS = 53, 12, 31
_WEEKS = 52  # of most years
PARTS_OF_A_YEAR = {"year": 1, "half-year": 2, "quarter": 4, "month": 12, "week": _WEEKS}
YEAR_BEFORE = "same-last-year"  # the level a year before another, as it is typed


def time_order(names: Sequence[str]) -> list[int] | None:
    """The places of some names from early to late; None where they are not all times of one form.

    Args:
        names: The names, in lower case.
    """
    for moment in _FORMS:
        if found := _all(moment, names):
            return found
    for day_first in (True, False):
        other = _all(_slashed(day_first=not day_first), names)
        if (found := _all(_slashed(day_first=day_first), names)) and not other:
            return found
    return None


class Distances(NamedTuple):
    """How far levels are apart.

    Attributes:
        places: Of each level, in its unit.
        unit: What they are counted in: `year`, `quarter`, `day`; empty where it is a unit of their own.
    """

    places: list[float]
    unit: str


def distances(names: Sequence[str]) -> Distances | None:
    """How far some names of numbers or times are apart; None where they are neither, and have an order only.

    Args:
        names: The names of levels.
    """
    plain = [" ".join(name.casefold().split()) for name in names]
    if all(re.fullmatch(_YEAR, name) for name in plain):
        return Distances([float(name) for name in plain], "year")
    if all(_NUMBER.fullmatch(name) for name in plain):
        return Distances([float(name) for name in plain], "")
    for moment in _FORMS:
        moments = [found for name in plain if (found := moment(name)) is not None]
        if len(moments) == len(plain) and len({len(one) for one in moments}) == 1:
            return _apart(moments, wave=moment is _wave)
    return None


def _apart(moments: Sequence[Moment], *, wave: bool) -> Distances:
    """The distances of moments of one form: years or waves, months, days, or parts of a year."""
    if len(moments[0]) == len(("year",)):
        return Distances([float(one[0]) for one in moments], "wave" if wave else "year")
    if len(moments[0]) == len(("year", "month")):
        return Distances([float(one[0] * _MOST_MONTHS + one[1]) for one in moments], "month")
    if len(moments[0]) == len(("year", "month", "day")):
        firsts = (date(one[0], one[1], 1).toordinal() + one[2] for one in moments)
        return Distances([float(day) for day in firsts], "day")
    size = moments[0][2]
    unit = {4: "quarter", 2: "half-year"}.get(size, "week")
    return Distances([float(one[0] * (_WEEKS if unit == "week" else size) + one[1]) for one in moments], unit)


def year_before(names: Sequence[str]) -> list[int | None]:
    """The place of the name a year before each of some names; None where there is none, or they say no times.

    Args:
        names: The names of levels.
    """
    found = distances(names)
    if found is None or found.unit not in PARTS_OF_A_YEAR:
        return [None] * len(names)
    places = {distance: place for place, distance in enumerate(found.places)}
    return [places.get(distance - PARTS_OF_A_YEAR[found.unit]) for distance in found.places]


def is_ambiguous(name: str) -> bool:
    """Whether a name is a date that may be read in two ways, and has no other order.

    Args:
        name: The name, in lower case.
    """
    return _SLASHED.fullmatch(name) is not None


def day_moment(name: str, *, day_first: bool) -> Moment | None:
    """The year, month and day of a date, as far as it says them; None for what is no date.

    Args:
        name: The date, in lower case.
        day_first: Whether the day stands first between slashes or hyphens.
    """
    if re.fullmatch(_YEAR, name):
        return (int(name),)
    for moment in (_iso, _pointed, _slashed(day_first=day_first), _named):
        if found := moment(name):
            return found
    return None


def day_or_month_first(name: str) -> tuple[int, int] | None:
    """The first and second number of a date between slashes or hyphens that does not begin with its year.

    Args:
        name: The date, in lower case.
    """
    found = _SLASHED.fullmatch(name)
    return (int(found[1]), int(found[2])) if found else None


def _all(moment: Callable[[str], Moment | None], names: Sequence[str]) -> list[int] | None:
    """The places of names by their moments; None where one has none, or two have the same."""
    moments: list[Moment] = []
    for name in names:
        found = moment(name)
        if found is None or (moments and len(found) != len(moments[0])):
            return None
        moments.append(found)
    return sorted(range(len(names)), key=moments.__getitem__) if len(set(moments)) == len(moments) else None


def _date(year: str, month: int, day: int | None = None) -> Moment | None:
    if not 1 <= month <= _MOST_MONTHS or (day is not None and not 1 <= day <= _MOST_DAYS):
        return None
    return (int(year), month) if day is None else (int(year), month, day)


def _iso(name: str) -> Moment | None:
    found = _ISO.fullmatch(name)
    return _date(found[1], int(found[2]), int(found[3]) if found[3] else None) if found else None


def _pointed(name: str) -> Moment | None:
    found = _POINTED.fullmatch(name)
    return _date(found[3], int(found[2]), int(found[1])) if found else None


def _slashed(*, day_first: bool) -> Callable[[str], Moment | None]:
    def moment(name: str) -> Moment | None:
        found = _SLASHED.fullmatch(name)
        if not found:
            return None
        day, month = (int(found[1]), int(found[2])) if day_first else (int(found[2]), int(found[1]))
        return _date(found[3], month, day)

    return moment


def _month_first(name: str) -> Moment | None:
    found = _MONTH_FIRST.fullmatch(name)
    return _date(found[2], int(found[1])) if found else None


def _named(name: str) -> Moment | None:
    found = _NAMED.fullmatch(name)
    if not found or found[2] not in MONTH_NUMBER:
        return None
    day = found[1] or found[3]
    return _date(found[4], MONTH_NUMBER[found[2]], int(day) if day else None)


def _part(name: str) -> Moment | None:
    """A quarter, half-year or week of a year."""
    if found := _YEAR_PART.fullmatch(name):
        year, part, number = found[1], found[2], int(found[3])
    elif (found := _PART_YEAR.fullmatch(name)) and found[1]:
        part, number, year = found[1], int(found[2]), found[3]
    elif found:
        number, part, year = int(found[4]), found[5], found[6]
    else:
        return None
    most = _MOST.get(part, _MOST_WEEKS)
    return (int(year), number, most, 0) if 1 <= number <= most else None


def _two_years(name: str) -> Moment | None:
    """A school or fiscal year: it ends in the year after it begins."""
    found = _TWO_YEARS.fullmatch(name)
    if not found:
        return None
    return (int(found[1]),) if (int(found[1]) + 1) % 100 == int(found[2]) % 100 else None


def _wave(name: str) -> Moment | None:
    found = _WAVE.fullmatch(name)
    return (int(found[2]),) if found else None


_FORMS = (_iso, _pointed, _month_first, _named, _part, _two_years, _wave)  # each reads one form of times
