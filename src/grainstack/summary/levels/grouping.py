"""Which cells found make up each cell shown, and each base."""

from collections.abc import Container

import numpy as np
from msgspec import Struct

from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.sums.exact import Integers


class Grouping(Struct, frozen=True):
    """How sums of the cells found become sums of the cells shown.

    A cell found has an entry for every cell shown it belongs to: its own, and totals it is part of.

    Attributes:
        inside: The cell found of each entry, shape (entries,).
        places: The cell shown it goes to, shape (entries,).
        count: How many cells are shown.
        base_inside: Cells found (or, for several answers, outer cells) that make up the bases, shape (base entries,).
        base_places: The base each goes to, shape (base entries,).
        base_of: The base of each cell shown, shape (count,).
        of_respondents: Whether bases are made of respondents, each counted once, rather than of cells.
    """

    inside: Integers
    places: Integers
    count: int
    base_inside: Integers
    base_places: Integers
    base_of: Integers
    of_respondents: bool = False

    @property
    def bases(self) -> int:
        """How many bases there are."""
        return int(self.base_of.max(initial=-1)) + 1


def joined(one: Grouping, sets: list[Integers]) -> Grouping:
    """The grouping whose cells are unions of cells of another.

    Args:
        one: The grouping.
        sets: For each new cell, the cells of `one` it is made of; each must share a base in which they lie.
    """
    inside, places = _rows_of(one.places, sets)
    base_inside, base_places = _rows_of(one.base_places, [np.unique(one.base_of[members]) for members in sets])
    return Grouping(
        inside=one.inside[inside],
        places=places,
        count=len(sets),
        base_inside=one.base_inside[base_inside],
        base_places=base_places,
        base_of=np.arange(len(sets)),
        of_respondents=one.of_respondents,
    )


def _rows_of(values: Integers, sets: list[Integers]) -> tuple[Integers, Integers]:
    """For each set the rows at which one of its values stands, one set after the other, and which set that is.

    Args:
        values: A value per row, from 0, shape (rows,).
        sets: The values of each set, at least one set.
    """
    wanted = np.concatenate(sets)
    order = np.argsort(values, kind="stable")
    ends = np.cumsum(np.bincount(values, minlength=int(wanted.max(initial=-1)) + 1))
    counts = np.diff(ends, prepend=0)[wanted]
    before = ends[wanted] - counts
    steps = np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)
    of_value = np.repeat(np.arange(len(sets)), [len(one) for one in sets])
    return order[np.repeat(before, counts) + steps], np.repeat(of_value, counts)


def base_of(request: SummaryRequest, several: Container[int]) -> str:
    """What shares are shares of unless it was said: of each category when it is split, else of the panel or all.

    Where the categories are several answers of one record, shares are of the respondents in each series.

    Args:
        request: What is summed up.
        several: The dimensions of which a record may have several levels.
    """
    if request.base:
        return request.base
    if not request.split:
        return "panel"
    return "series" if any(axis in several for axis in _categories(request)) else "category"


def base_axes(request: SummaryRequest, base: str) -> tuple[int, ...]:
    """The dimensions whose level all records of a base have in common.

    Args:
        request: What is summed up.
        base: What shares are shares of.
    """
    panel = (0,) if request.panel else ()
    series = (len(request.dimensions) - 1,) if request.split else ()
    axes = {"category": (*panel, *_categories(request)), "series": (*panel, *series), "panel": panel}
    return axes.get(base, ())


def _categories(request: SummaryRequest) -> range:
    first = 1 if request.panel else 0
    return range(first, first + len(request.by))
