"""What cells have in common where a record stands in several of them: answers of one record, questions put to it.

Differences between such cells are tested by what the same records say in both, so for each two cells the products of
their records are summed. Where clusters were drawn, their totals hold this already.
"""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct, field

from grainstack.summary.sums.cell_index import CellIndex, Cells, in_order
from grainstack.summary.sums.design import COUNT, Pair, Ratios, grown
from grainstack.summary.sums.exact import ExactSums, Floats, Integers
from grainstack.summary.sums.factors import Column


class JointRows(Struct, frozen=True):
    """Rows of some records: one for each cell they stand in, or for each base.

    Attributes:
        owners: The record of each row, shape (rows,); None where each record is one row.
        units: Its unit in the design.
        cells: Its cell; negative ones are passed over.
        weights: Its weight; None where every record weighs 1.
        times: How many records it stands for; None where it stands for itself.
    """

    owners: Integers | None
    units: Integers
    cells: Cells
    weights: Column | None
    times: Integers | None = None


class JointSums(Struct):
    """Sums over records that stand in two cells, per unit of the design and two cells.

    Bases of respondents, each counted once whatever it answered, are cells too: an even number 2c is the cell c, an odd
    one 2c + 1 the outer cell c.

    Attributes:
        keys: The unit and the two cells, each of them as the first and as the second one.
        records: How many records have each ratio in both cells.
        sums: Of each ratio Σw²·xx, Σw²·xy, Σw²·yx and Σw²·yy, the first factor of the first cell.
    """

    keys: CellIndex = field(default_factory=lambda: CellIndex(3))
    records: dict[Pair, Integers] = field(default_factory=dict)
    sums: dict[Pair, tuple[ExactSums, ExactSums, ExactSums, ExactSums]] = field(default_factory=dict)

    def absorb(self, rows: Sequence[JointRows], ratios: Ratios) -> None:
        """Adds the rows of some records.

        Args:
            rows: Those of cells, then those of outer cells if there are any.
            ratios: For each ratio the numerator and denominator of each row of the cells.
        """
        inner, *outer = rows
        if inner.owners is None:
            return
        owners = np.concatenate([inner.owners, *(one.owners for one in outer if one.owners is not None)])
        order = np.argsort(owners, kind="stable")
        units = np.concatenate([one.units for one in rows])[order]
        cells = np.concatenate([np.where(one.cells < 0, -1, 2 * one.cells + odd) for odd, one in enumerate(rows)])[
            order
        ]
        first, second = _pairs(owners[order], cells)
        places = self.keys.add(np.column_stack([units[first], cells[first], cells[second]]))
        count, ones = len(self.keys), np.ones(len(cells))
        weights = ones if inner.weights is None else _joined([one.weights for one in rows])[order]
        squared = weights[first] ** 2
        times = None
        if inner.times is not None:
            times = np.concatenate([one.times for one in rows if one.times is not None])[order][first]
        for name, both in ratios.items():
            plain = np.full(len(cells) - len(inner.cells), 1.0 if name == COUNT else np.nan)
            x, y = (ones if one is None else np.concatenate([one.numbers, plain])[order] for one in both)
            keep = ~np.isnan(x + y)[first] & ~np.isnan(x + y)[second]
            kept_times = None if times is None else times[keep]
            counted = np.bincount(places[keep], kept_times, count).astype(np.int64)
            self.records[name] = grown(self.records.get(name, counted[:0]), count) + counted
            sums = self.sums.setdefault(name, (ExactSums(), ExactSums(), ExactSums(), ExactSums()))
            for one, (a, b) in zip(sums, ((x, x), (x, y), (y, x), (y, y)), strict=True):
                for part in _repeated((squared * a[first] * b[second])[keep], kept_times):
                    one.add(places[keep], part, count)

    def merge(self, other: "JointSums", units: Integers, cells: Integers, outer: Integers | None) -> None:
        """Adds another set.

        Args:
            other: The sums to add.
            units: Where each of its units stands here.
            cells: Where each of its cells stands here.
            outer: Where each of its outer cells stands here; None where there are none.
        """
        places = self.keys.add(_moved(other.keys.keys, units, cells, outer))
        for name, added in other.sums.items():
            counted = np.bincount(places, other.records[name], len(self.keys)).astype(np.int64)
            self.records[name] = grown(self.records.get(name, counted[:0]), len(self.keys)) + counted
            sums = self.sums.setdefault(name, (ExactSums(), ExactSums(), ExactSums(), ExactSums()))
            for one, theirs in zip(sums, added, strict=True):
                one.merge(theirs, places, len(self.keys))

    def canonical(self, units: Integers, cells: Integers, outer: Integers | None) -> "JointSums":
        """The same sums with units and cells under other numbers, in the order of those."""
        result = JointSums()
        result.keys.add(in_order(_moved(self.keys.keys, units, cells, outer)))
        result.merge(self, units, cells, outer)
        return result


def _repeated(products: Floats, times: Integers | None) -> list[Floats]:
    """Products as often as they occur: parts whose sum is that without rounding, shape (products,) each.

    Factors of at most 26 bits have a product that fits the 53 of a double (Veltkamp's splitting, Dekker 1971).
    """
    if times is None:
        return [products]
    scaled = products * (2.0**27 + 1)
    high = scaled - (scaled - products)
    few = times % 2**26
    return [part * often for part in (high, products - high) for often in (few, times - few)]


def _joined(columns: Sequence[Column | None]) -> Floats:
    return np.concatenate([column.numbers for column in columns if column is not None])


def _pairs(owners: Integers, cells: Cells) -> tuple[Integers, Integers]:
    """Every two rows of one record that both have a cell, in both orders."""
    rows = np.flatnonzero(cells >= 0)
    mine = owners[rows]
    found: list[tuple[Integers, Integers]] = []
    for apart in range(1, len(rows)):
        same = np.flatnonzero(mine[apart:] == mine[:-apart])
        if not len(same):
            break
        found += [(rows[same], rows[same + apart]), (rows[same + apart], rows[same])]
    if not found:
        return rows[:0], rows[:0]
    one, other = (np.concatenate(side) for side in zip(*found, strict=True))
    return one, other


def _moved(keys: Integers, units: Integers, cells: Integers, outer: Integers | None) -> Integers:
    """Keys with units and cells under other numbers, shape (keys, 3)."""
    if not len(keys):
        return keys

    def moved(column: Integers) -> Integers:
        numbers, odd = column // 2, column % 2
        bases = np.zeros(1, dtype=np.int64) if outer is None else outer
        return np.where(odd, 2 * bases[np.where(odd, numbers, 0)] + 1, 2 * cells[np.where(odd, 0, numbers)])

    return np.column_stack([units[keys[:, 0]], moved(keys[:, 1]), moved(keys[:, 2])])
