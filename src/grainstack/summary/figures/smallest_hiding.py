"""The smallest set of counts to leave out so that none of some small ones can be worked out.

Cell suppression as an integer programme (Fischetti & Salazar 2001, Solving the cell suppression problem on tabular
data with linear constraints, Management Science 47, 1008-1027): for each small count there must be two tables that go
with everything shown and in which it lies far enough apart.
"""

from collections.abc import Collection, Mapping, Sequence

import numpy as np
from msgspec import Struct
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import block_diag, coo_array, csr_array, eye_array, hstack, vstack

from grainstack.summary.sums.exact import Integers

Parts = frozenset[int]
_NODES = 200  # of the search, after which the best set so far counts: by a clock it would be another on each machine
_MOST = 4_000  # unknowns of a programme for all small ones together: larger ones find nothing by then


class Telling(Struct, frozen=True):
    """What a reader is told.

    Attributes:
        sums: The sums, as sets of cells, with how much leaving out each one costs.
        whole: All cells, whose sum is always told.
        records: The records of each cell, shape (cells,).
    """

    sums: Mapping[Parts, float]
    whole: Parts
    records: Integers


def is_large(telling: Telling, small: Sequence[Parts]) -> bool:
    """Whether the programme for these small ones together is too large to be solved."""
    return 2 * len(small) * len(telling.whole) > _MOST


def smallest_set(telling: Telling, small: Sequence[Parts], out: Collection[Parts], least: int) -> set[Parts] | None:
    """What to leave out; None where no set is found.

    Args:
        telling: What a reader is told.
        small: The sums that must not be worked out.
        out: What is left out in any case, these among it.
        least: How far apart the counts must lie that each of them could have.
    """
    sums, whole, records = telling.sums, telling.whole, telling.records
    every, cells = list(sums), sorted(whole)
    count, moved = len(every), len(cells)
    place = {cell: number for number, cell in enumerate(cells)}
    pairs = [(row, place[cell]) for row, one in enumerate(every) for cell in one]
    member = csr_array(coo_array((np.ones(len(pairs)), tuple(zip(*pairs, strict=True))), (count, moved)))
    sizes = records[list(cells)].astype(float)
    most = float(max(sizes.sum(), least))
    tables = 2 * len(small)  # for each small one a table in which it is larger, and one in which it is smaller
    free = block_diag([member] * tables)
    opened = vstack([most * eye_array(count)] * tables)
    nothing = csr_array((tables, count))
    sum_rows = block_diag([csr_array(np.ones((1, moved)))] * tables)
    apart = np.zeros((len(small), tables * moved))
    for number, one in enumerate(small):
        inside = [place[cell] for cell in one]
        apart[number, [2 * number * moved + cell for cell in inside]] = 1
        apart[number, [(2 * number + 1) * moved + cell for cell in inside]] = -1
    found = milp(
        np.concatenate([[sums[one] for one in every], np.zeros(tables * moved)]),
        integrality=np.concatenate([np.ones(count), np.zeros(tables * moved)]),
        bounds=Bounds(
            np.concatenate([[float(one in out) for one in every], np.tile(-sizes, tables)]),
            np.concatenate([np.ones(count), np.full(tables * moved, most)]),
        ),
        constraints=[
            LinearConstraint(hstack([opened, -free]), 0, np.inf),
            LinearConstraint(hstack([opened, free]), 0, np.inf),
            LinearConstraint(hstack([nothing, sum_rows]), 0, 0),
            LinearConstraint(hstack([csr_array((len(small), count)), csr_array(apart)]), least, np.inf),
        ],
        options={"node_limit": _NODES, "mip_rel_gap": 1e-4},
    )
    if found.x is None:
        return None
    return {one for one, out in zip(every, found.x[:count], strict=True) if out > 1 / 2}
