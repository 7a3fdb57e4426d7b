"""Which cells of a table are left out so that no small one can be worked out from what is still shown.

A reader knows every cell and total that is shown, the bases of shares, and from the note how many records there are.
A cell is safe when the counts it could have, with all that is shown, lie at least as far apart as the limit: the
interval of a linear programme, as in cell suppression (Fischetti & Salazar 2001).
"""

import dataclasses
from collections import Counter
from collections.abc import Sequence
from functools import reduce

import numpy as np
from msgspec import Struct
from scipy.optimize import linprog

from grainstack.summary.figures.small import least_shown
from grainstack.summary.figures.smallest_hiding import Telling, is_large, smallest_set
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.sums.exact import Integers, Mask
from grainstack.summary.table import Column, Dimension

_MOST_SEARCHES = 100  # for one small sum after the other: more would take longer than a table is waited for
_ROUNDING = 1e-6  # of a record: what a linear programme may be off


class Hidden(Struct, frozen=True):
    """What is left out of a table.

    Attributes:
        cells: Which cells, shape (cells,).
        bases: Which cells have a base that is left out, shape (cells,).
    """

    cells: Mask
    bases: Mask

    def and_also(self, other: "Hidden") -> "Hidden":
        """What either leaves out."""
        return Hidden(self.cells | other.cells, self.bases | other.bases)


def hidden_figures(
    grid: Integers,
    dimensions: Sequence[Dimension],
    columns: Sequence[Column],
    request: SummaryRequest,
    base_axes: Sequence[int],
) -> Hidden:
    """What has to be left out of a table: what any of its figures needs left out.

    Args:
        grid: The cells shown, as places among the levels, shape (cells, dimensions).
        dimensions: The columns with the levels shown.
        columns: The figures; those that rest on different records are looked at one by one.
        request: What is summed up, and the smallest number of records that is shown.
        base_axes: The dimensions whose level the records of a base have in common.
    """
    different = {column.records.tobytes(): column.records for column in columns}
    known = base_axes if any(column.is_share for column in columns) else None
    least = least_shown(request)
    found = [_Hiding(grid, dimensions, records, least, known).hidden() for records in different.values()]
    return reduce(Hidden.and_also, found)


@dataclasses.dataclass(slots=True)
class _Hiding:
    """The search for cells to leave out besides those that are small.

    Attributes:
        grid: The cells shown, as places among the levels, shape (cells, dimensions).
        dimensions: The columns with the levels shown.
        records: Records of each cell, shape (cells,).
        least: The smallest number of records that is shown.
        base_axes: The dimensions whose level the records of a base have in common; None where no shares are shown.
        whole: All cells but totals and nets.
        parts: What a reader is told the sums of, as sets of such cells.
        out: Those that are left out.
    """

    grid: Integers
    dimensions: Sequence[Dimension]
    records: Integers
    least: int
    base_axes: Sequence[int] | None
    whole: frozenset[int] = dataclasses.field(init=False)
    parts: list[frozenset[int]] = dataclasses.field(init=False)
    out: set[frozenset[int]] = dataclasses.field(init=False)

    def __post_init__(self) -> None:
        plain = np.flatnonzero((self.grid < [d.plain for d in self.dimensions]).all(axis=1)).tolist()
        self.whole = whole = frozenset(plain)
        self.parts = sorted(self._sums(plain) - {whole}, key=lambda one: (len(one), sorted(one)))
        self.out = {one for one in self.parts if 0 < self._size(one) < self.least}

    def hidden(self) -> Hidden:
        """What has to be left out: the smallest set that keeps every small one safe, or one that is found by and by."""
        small = [one for one in self.parts if one in self.out]
        telling = Telling(self._costs(), self.whole, self.records)
        together = [] if is_large(telling, small) else [small] if small else []
        for number, those in enumerate(together or [[one] for one in reversed(small)]):  # much is out by the last ones
            if all(self._is_safe(one) for one in those):
                continue
            found = smallest_set(telling, those, self.out, self.least) if number < _MOST_SEARCHES else None
            self.out = found or self.out
            for one in those:
                self._leave_out_more(one)
        cells = self._are_out(range(len(self.dimensions)))
        return Hidden(cells, cells if self.base_axes is None else self._are_out(self.base_axes))

    def _costs(self) -> dict[frozenset[int], float]:
        """How many figures of the table go with each sum, and of equally many, how many records."""
        every = range(len(self.dimensions))
        shown = Counter(self._parts_of(cell, every) for cell in range(len(self.grid)))
        if self.base_axes is not None:
            shown.update(self._parts_of(cell, self.base_axes) for cell in range(len(self.grid)))
        total = max(self._size(self.whole), 1)
        return {one: shown[one] + self._size(one) / total / (len(self.parts) + 1) for one in self.parts}

    def _is_safe(self, one: frozenset[int]) -> bool:
        """Whether nobody can work a sum out."""
        return self._reach(one) >= self.least - _ROUNDING

    def _leave_out_more(self, one: frozenset[int]) -> None:
        """Leaves out the smallest sums near a small one until it is safe, where no smallest set was found."""
        while not self._is_safe(one) and (more := self._next(one)):
            self.out.add(more)

    def _are_out(self, axes: Sequence[int]) -> Mask:
        """Whether the sum over the cells that share a cell's levels in some dimensions is left out, shape (cells,)."""
        return np.array([self._parts_of(cell, axes) in self.out for cell in range(len(self.grid))], dtype=bool)

    def _size(self, parts: frozenset[int]) -> int:
        return int(self.records[list(parts)].sum())

    def _next(self, one: frozenset[int]) -> frozenset[int] | None:
        """The smallest sum still shown: of cells in a line with it, else of such lines, else of any line, or cell."""
        near = [line for line in self.parts if len(line) > 1 and line & one]
        shown = {part for part in self.parts if part not in self.out and self._size(part)}
        cells = {part for part in shown if len(part) == 1 and not part <= one}
        lines = {part for part in shown if len(part) > 1}
        within = [{cell for cell in cells if cell <= line} for line in near]
        for choices in (*within, lines & set(near), lines, cells):
            if choices:
                return min(choices, key=lambda choice: (self._size(choice), sorted(choice)))
        return None

    def _reach(self, one: frozenset[int]) -> float:
        """How far apart the smallest and the largest sum lie that go with all that is shown."""
        unknown = sorted(cell for cell in self.whole if frozenset([cell]) in self.out)
        places = {cell: place for place, cell in enumerate(unknown)}
        shown = [line for line in (*self.parts, self.whole) if len(line) > 1 and line not in self.out]
        rows, sizes = [], []
        for line in shown:
            inside = [places[cell] for cell in line if cell in places]
            if inside:
                row = np.zeros(len(unknown))
                row[inside] = 1
                rows.append(row)
                sizes.append(sum(int(self.records[cell]) for cell in line if cell in places))
        wanted = np.zeros(len(unknown))
        wanted[[places[cell] for cell in one if cell in places]] = 1
        ends = []
        for sign in (1, -1):
            found = linprog(sign * wanted, A_eq=np.array(rows) if rows else None, b_eq=sizes if rows else None)
            ends.append(float("inf") if found.status == 3 else sign * float(found.fun))
        return ends[1] - ends[0] if np.isfinite(ends).all() else float("inf")

    def _sums(self, plain: Sequence[int]) -> set[frozenset[int]]:
        """The sums a reader is told: cells, totals, and the bases of shares; that of all stands in the note."""
        every = range(len(self.dimensions))
        published = {self._parts_of(cell, every) for cell in range(len(self.grid))}
        if self.base_axes is not None:
            published |= {self._parts_of(cell, self.base_axes) for cell in plain}
        return published - {frozenset()}

    def _parts_of(self, cell: int, axes: Sequence[int]) -> frozenset[int]:
        """The plain cells that have a cell's levels in some dimensions, or those its nets and totals stand for."""
        inside = (self.grid < [d.plain for d in self.dimensions]).all(axis=1)
        for axis in axes:
            parts = self.dimensions[axis].parts(int(self.grid[cell, axis]))
            if parts is not None:
                inside &= np.isin(self.grid[:, axis], parts)
        return frozenset(np.flatnonzero(inside).tolist())
