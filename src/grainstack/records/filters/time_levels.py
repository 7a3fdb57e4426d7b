"""Levels named by their place in time, so that nothing is to be edited next quarter: `latest 4`, `previous`."""

import re
from collections.abc import Sequence
from copy import deepcopy

import numpy as np

from grainstack.errors import RequestError, listed
from grainstack.option_names import option
from grainstack.records.arrow import places_of
from grainstack.records.known_orders import known_order
from grainstack.records.readers.levels import Rows
from grainstack.records.readers.plain import LevelReader
from grainstack.records.source import Source, stretches_of
from grainstack.records.time_words import YEAR_BEFORE, distances, year_before
from grainstack.records.variable import Level

LATEST, PREVIOUS = "latest", "previous"
_LATEST_OF_SOME = re.compile(rf"{LATEST}(?: +(\d+))?")


def is_time_level(name: str) -> bool:
    """Whether a name says a place in time rather than a level."""
    return bool(_LATEST_OF_SOME.fullmatch(name)) or name in (PREVIOUS, YEAR_BEFORE)


def named_in_time(names: Sequence[str], column: str, levels: Sequence[Level], *, ordered: bool) -> tuple[str, ...]:
    """Names of levels in which those that say a place in time are the levels at these places.

    Args:
        names: As typed.
        column: The column.
        levels: The levels that records have, in their natural order if they have one.
        ordered: Whether they have one.

    Raises:
        RequestError: The levels have no order, or there is none at that place.
    """
    known = {name for level in levels for name in (level.label, level.code)}
    found: list[str] = []
    for name in names:
        found += _at(name, column, levels, ordered=ordered) if is_time_level(name) and name not in known else [name]
    return tuple(dict.fromkeys(found))


def met_levels(reader: LevelReader, source: Source) -> tuple[list[Level], bool]:
    """The levels of a column that records have, in their natural order, and whether they have one; reads the source.

    Args:
        reader: Reads the column; it learns nothing.
        source: The records.
    """
    reader = deepcopy(reader)
    codes: set[str] = set()
    first = 0
    for stretch in stretches_of(source, reader.raw):
        batch = stretch()
        column, _ = reader.read(batch, Rows(first))
        values = getattr(column, "values", column)  # those of several answers
        used = np.unique(places_of(values))
        every = values.dictionary.to_pylist()
        codes.update(every[place] for place in used.tolist() if place >= 0)
        first += batch.num_rows
    variable = reader.variable()
    met = [level for level in variable.levels if level.code in codes and not level.is_special]
    return in_time(met, ordered=variable.is_ordered)


def in_time(levels: Sequence[Level], *, ordered: bool) -> tuple[list[Level], bool]:
    """Levels from early to late, and whether they have such an order.

    Args:
        levels: The levels, in their natural order if they have one.
        ordered: Whether they have one.
    """
    labels = [level.label for level in levels]
    order = known_order(labels) if distances(labels) else None
    return [levels[place] for place in order] if order else list(levels), bool(order) or ordered


def _at(name: str, column: str, levels: Sequence[Level], *, ordered: bool) -> list[str]:
    if not ordered:
        raise RequestError(
            f"`{name}`: `{column}` has no order in time: {listed(level.label for level in levels[:3])}.",
            'Name its levels, or list them in their order in a codebook with kind = "ordered".',
        )
    labels = [level.label for level in levels]
    if latest := _LATEST_OF_SOME.fullmatch(name):
        return labels[-max(int(latest[1] or 1), 1) :]
    if name == PREVIOUS and len(labels) > 1:
        return [labels[-2]]
    if name == YEAR_BEFORE and (found := year_before(labels)) and (place := found[-1]) is not None:
        return [labels[place]]
    last = labels[-1] if labels else "nothing"
    raise RequestError(
        f"`{name}`: there is no such level of `{column}` before {last}.",
        f"There are: {listed(labels)}. Name one: {option('only', f'{column}={last}')}.",
    )
