"""What became of every record that was read: where it stopped, and in how many figures it stands."""

from collections.abc import Hashable, Mapping
from typing import Self, TypeVar

import numpy as np
import numpy.typing as npt
from msgspec import Struct, field

from grainstack.summary.sums.design import Pair
from grainstack.summary.sums.exact import Integers

_Counted = TypeVar("_Counted", bound=Hashable)  # what some records are counted for


class RecordAccount(Struct):
    """The account of records.

    Attributes:
        unanswered: For each column, the records that stop there for want of an answer.
        lost: How many records have an answer everywhere but fall in no band, by the first column of which they do.
        used: How many records stand in the table, whatever is shown of them and by measure, or measure and what it is
            divided by.
        owners: Where rows were made of records: how many records have such a row.
        weightless: Records with a weight of 0: they stand for nobody and are in no cell.
        weightless_owners: Where rows were made of records: how many records these are.
    """

    unanswered: dict[str, int]
    lost: dict[str, int]
    used: dict[Pair | None, int] = field(default_factory=dict)
    owners: dict[Pair | None, int] = field(default_factory=dict)
    weightless: int = 0
    weightless_owners: int = 0

    def merge(self, other: Self) -> None:
        """Adds the account of other records."""
        for mine, added in ((self.unanswered, other.unanswered), (self.lost, other.lost)):
            add_counts(mine, added)
        for mine_by_pair, added_by_pair in ((self.used, other.used), (self.owners, other.owners)):
            add_counts(mine_by_pair, added_by_pair)
        self.weightless += other.weightless
        self.weightless_owners += other.weightless_owners


def counted(mask: npt.NDArray[np.bool_], times: Integers | None) -> int:
    """How many records some rows stand for."""
    return int(np.count_nonzero(mask) if times is None else times[mask].sum())


def add_counts(counts: dict[_Counted, int], added: Mapping[_Counted, int]) -> None:
    """Adds counts by what is counted."""
    for name, count in added.items():
        counts[name] = counts.get(name, 0) + count
