"""Times that a column leaves out between others: a quarter without records is a gap, not two quarters side by side."""

import re
from collections.abc import Sequence
from itertools import pairwise, product

from msgspec.structs import replace

from grainstack.records.time_words import MONTH_SERIES, PARTS_OF_A_YEAR, Distances, distances
from grainstack.records.variable import Level, LevelOrder, Variable

_LEAST = 3  # times that tell how far apart they usually are
_TWO_PARTS = re.compile(r"(\d{4})([/–-])(\d\d)")  # a year with the end of the next one, or with its month
_TOKENS = re.compile(rf"{_TWO_PARTS.pattern}(?!\d)|\d+|[^\W\d]+|[\W_]+")


def with_missing_times(variable: Variable) -> Variable:
    """The variable with levels for times that lie between its own and that no record has.

    They are named as the others are. Nothing is filled in where levels are no times, are days, are in the order of a
    codebook, or would be more missing than there.

    Args:
        variable: Its levels stand in their natural order, special ones last.
    """
    if variable.order not in (LevelOrder.KNOWN, LevelOrder.NUMBERS):
        return variable
    plain = [level for level in variable.levels if not level.is_special]
    found = filled([level.label for level in plain])
    if found is None:
        return variable
    known = {level.label: level for level in plain}
    levels = [known.get(name) or Level(name, name) for name in found]
    special = [level for level in variable.levels if level.is_special]
    return replace(variable, levels=(*levels, *special))


def filled(names: Sequence[str]) -> list[str] | None:
    """Names of times from early to late, with those that are missing between them; None where nothing is.

    Args:
        names: The names, from early to late.
    """
    apart = _apart(names) if len(names) >= _LEAST else None
    if apart is None or apart.unit in ("", "day"):
        return None
    places = [round(place) for place in apart.places]
    steps = [after - before for before, after in pairwise(places)]
    step = min(steps)
    missing = sum(max(one // step - 1, 0) for one in steps) if step > 0 else 0
    regular = step > 0 and all(one % step == 0 for one in steps) and 2 * steps.count(step) >= len(steps)
    if not missing or missing > len(names) or not regular:
        return None
    found: list[str] = []
    for name, place, size in zip(names, places, [*steps, step], strict=True):
        between = [_named(place + n * step, apart.unit, names) for n in range(1, size // step)]
        if None in between:
            return None
        found += [name, *(one for one in between if one is not None)]
    return found


def _named(place: int, unit: str, names: Sequence[str]) -> str | None:
    """The time at a place, written as the others are; None where it cannot be.

    Args:
        place: As `distances` counts it.
        unit: In what.
        names: Other times of the same form.
    """
    size = PARTS_OF_A_YEAR.get(unit, 1)
    year, part = (place, place) if size == 1 else ((place - 1) // size, (place - 1) % size + 1)
    months = _months_of(names)
    for name in names:
        for candidate in product(*(_instead(token, year, part, months) for token in _tokens(name))):
            written = "".join(candidate)
            apart = _apart([name, written])
            if written not in names and apart is not None and apart.unit == unit and round(apart.places[1]) == place:
                return written
    return None


def _apart(names: Sequence[str]) -> Distances | None:
    """How far times are apart, those of months without a year too; None where names are no times."""
    months = _months_of(names)
    if months and all(name.casefold() in months for name in names):
        return Distances([months.index(name.casefold()) + 1.0 for name in names], "month alone")
    return distances(names)


def _months_of(names: Sequence[str]) -> Sequence[str]:
    """The names of months in the language and form that names of times use; empty where they use none."""
    words = {word for name in names for word in _tokens(name.casefold()) if word.isalpha()}
    used = words & {month for series in MONTH_SERIES for month in series}
    return next((series for series in MONTH_SERIES if used and used <= set(series)), ())


def _tokens(name: str) -> list[str]:
    return [found[0] for found in _TOKENS.finditer(name)]


def _instead(token: str, year: int, part: int, months: Sequence[str]) -> list[str]:
    """What may stand in the place of a part of a name: another year or number, or another month."""
    if pair := _TWO_PARTS.fullmatch(token):
        return [f"{year}{pair[2]}{number:02d}" for number in ((year + 1) % 100, part)]
    if token.isdigit():
        numbers = [year, year + 1] if len(token) == len("2025") else [part, year, (year + 1) % 100]
        return list(dict.fromkeys([*(f"{number:0{len(token)}d}" for number in numbers), token]))
    if token.casefold() in months and 1 <= part <= len(months):
        month = months[part - 1]
        return [token, month.title() if token.istitle() else month.upper() if token.isupper() else month]
    return [token]
