"""Which cells found make up each cell shown, and each base."""

import numpy as np

from grainstack.quick import dataclass
from grainstack.summary.sums.exact import Integers


@dataclass(frozen=True, slots=True)
class Grouping:
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
    entries = [(place, cell) for place, members in enumerate(sets) for cell in members.tolist()]
    inside = [np.flatnonzero(one.places == cell) for _, cell in entries]
    bases = [np.unique(one.base_of[members]) for members in sets]
    base_inside = [np.flatnonzero(np.isin(one.base_places, own)) for own in bases]
    return Grouping(
        inside=np.concatenate([one.inside[rows] for rows in inside]),
        places=np.concatenate([np.full(len(rows), place) for rows, (place, _) in zip(inside, entries, strict=True)]),
        count=len(sets),
        base_inside=np.concatenate([one.base_inside[rows] for rows in base_inside]),
        base_places=np.concatenate([np.full(len(rows), place) for place, rows in enumerate(base_inside)]),
        base_of=np.arange(len(sets)),
        of_respondents=one.of_respondents,
    )
