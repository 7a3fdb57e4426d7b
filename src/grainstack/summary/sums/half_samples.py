"""Which half samples hold the records of a cell: what tells the degrees of freedom where strata are not named."""

import numpy as np
from msgspec import Struct, field

from grainstack.summary.sums.cell_index import Cells
from grainstack.summary.sums.exact import Floats, Integers

_MOST = 100_000  # halves of strata in cells: half samples have two for each stratum, other weights one for each record


class HalfSamples(Struct):
    """Of the records of each cell, in which replicates their halves of the strata count.

    A record counts in a replicate where that weighs it more than the sample does.

    Attributes:
        halves: For each cell the different patterns of replicates, as bits; empty once there are too many.
        complete: Whether none was dropped.
    """

    halves: dict[int, set[bytes]] = field(default_factory=dict)
    complete: bool = True

    def absorb(self, cells: Cells, weights: Floats | None, replicates: list[Floats]) -> None:
        """Adds records.

        Args:
            cells: The cell of each record, shape (records,); negative ones are passed over.
            weights: Its weight, shape (records,); the mean of its replicates without.
            replicates: Its weights in each replicate, shape (records,) each.
        """
        if not self.complete:
            return
        under_each = np.array(replicates)[:, cells >= 0]
        own = under_each.mean(axis=0) if weights is None else weights[cells >= 0]
        bits = np.packbits(under_each > own, axis=0).T
        both = np.concatenate([cells[cells >= 0].astype("<i8")[:, None].view(np.uint8), bits], axis=1)
        for one in np.unique(np.ascontiguousarray(both).view(np.dtype((np.void, both.shape[1])))).tolist():
            self.halves.setdefault(int.from_bytes(one[:8], "little"), set()).add(one[8:])
        self._check()

    def merge(self, other: "HalfSamples", places: Integers) -> None:
        """Adds another set; `places` says where each of its cells stands here."""
        self.complete &= other.complete
        for cell, halves in other.halves.items():
            self.halves.setdefault(int(places[cell]), set()).update(halves)
        self._check()

    def ranks(self, inside: Integers, places: Integers, count: int) -> Floats | None:
        """How many independent halves the cells shown have records in, shape (count,); None where they are not known.

        With balanced half samples that is the number of strata with records in the cell.

        Args:
            inside: Cells found, one entry for every cell shown that they belong to, shape (entries,).
            places: The cell shown each entry goes to, shape (entries,).
            count: How many cells are shown.
        """
        if not self.complete:
            return None
        ranks = np.zeros(count)
        for shown in range(count):
            halves = set().union(*(self.halves.get(cell, set()) for cell in inside[places == shown].tolist()))
            if halves:
                bits = np.array([list(half) for half in halves], dtype=np.uint8)
                ranks[shown] = np.linalg.matrix_rank(2.0 * np.unpackbits(bits, axis=1) - 1.0)
        return ranks

    def _check(self) -> None:
        if sum(map(len, self.halves.values())) > _MOST:
            self.halves, self.complete = {}, False
