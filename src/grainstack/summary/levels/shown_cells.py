"""The cells a table shows: levels in order, cells in no band set aside, and the full grid."""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt
from msgspec import Struct
from msgspec.structs import replace

from grainstack.errors import RequestError, listed
from grainstack.records.column_facts import ColumnFacts
from grainstack.summary.levels.grid import grid_of, grouping_of
from grainstack.summary.levels.grouping import Grouping
from grainstack.summary.levels.levels_shown import levels_shown
from grainstack.summary.order import OrderRequest
from grainstack.summary.provenance import NoBand
from grainstack.summary.sums.accumulator import Accumulator
from grainstack.summary.sums.exact import Integers
from grainstack.summary.table import Dimension, Role


class ShownCells(Struct, frozen=True):
    """The cells that are shown, and what becomes of the cells found.

    Attributes:
        dimensions: The columns with the levels shown.
        grid: Their keys, as places among the levels shown, shape (cells, dimensions).
        keys: The keys of the cells found that are in a band throughout, shape (found, dimensions).
        found: Their numbers, shape (found,).
        outer: The keys of the cells of respondents, where questions have several answers, shape (outer, dimensions);
            0 on the axes of those questions and negative where a level is not shown. None where there are none.
        rest: What became of levels that are not shown one by one, in words.
        no_band: The records in no band, column by column.
    """

    dimensions: tuple[Dimension, ...]
    grid: Integers
    keys: Integers
    found: Integers
    outer: Integers | None
    rest: str
    no_band: tuple[NoBand, ...]

    def axes(self, *roles: Role) -> list[int]:
        """The dimensions that do one of these things."""
        return [axis for axis, d in enumerate(self.dimensions) if d.role in roles]

    def grouping(self, base_axes: Sequence[int]) -> Grouping:
        """How the cells found make up those shown and their bases; bases of respondents count each of them once.

        Args:
            base_axes: The dimensions whose level a base has in common.
        """
        grouping = grouping_of(self.keys, self.found, self.grid, self.dimensions, base_axes)
        several = {axis for axis, d in enumerate(self.dimensions) if d.several}
        if self.outer is None or several <= set(base_axes):
            return grouping
        inside = np.flatnonzero((self.outer >= 0).all(axis=1))
        bases = grouping_of(self.outer[inside], inside, self.grid, self.dimensions, base_axes)
        return replace(
            grouping,
            base_inside=bases.base_inside,
            base_places=bases.base_places,
            base_of=bases.base_of,
            of_respondents=True,
        )


def shown_cells(totals: Accumulator, facts: ColumnFacts, order: OrderRequest) -> ShownCells:
    """The cells of a table.

    Args:
        totals: All sums; there are some.
        facts: What is known of the columns, and what level places stand for.
        order: In which order levels stand, and how many.

    Raises:
        RequestError: No record falls in a band, the order names a level there is not, or a rest cannot be counted.
    """
    names = totals.request.dimensions
    natural = totals.keys.copy()
    for axis, name in enumerate(names):
        natural[:, axis] = np.array(facts.level_places(name))[natural[:, axis]]
    inside, no_band = _in_bands(totals, facts, natural)
    found = np.flatnonzero(inside)
    if not len(found):
        raise RequestError(
            f"No record falls in a band of {listed(f'`{item.label}`' for item in no_band)}.",
            "Choose other edges; `under` and `over` leave the outer bands open.",
        )
    shown = [levels_shown(totals, facts, order, axis, found) for axis in range(len(names))]
    keys = np.column_stack([one.places[natural[found, axis]] for axis, one in enumerate(shown)])
    dimensions = tuple(one.dimension for one in shown)
    outer = _outer_keys(totals, facts, [one.places for one in shown])
    met = np.concatenate([keys, _of_nothing(outer, dimensions)])
    axes = [axis for axis, one in enumerate(dimensions) if one.role is Role.CATEGORY]  # others are shown all over
    visible = (met[:, axes] < [len(dimensions[axis].levels) for axis in axes]).all(axis=1)
    rest = "; ".join(one.rest for one in shown if one.rest)
    return ShownCells(dimensions, grid_of(met[visible], dimensions), keys, found, outer, rest, no_band)


def _in_bands(
    totals: Accumulator, facts: ColumnFacts, natural: Integers
) -> tuple[npt.NDArray[np.bool_], tuple[NoBand, ...]]:
    """Which cells are in a band throughout, shape (found,); and how many records are not, and why."""
    inside = np.ones(len(natural), dtype=bool)
    lost = []
    for axis, name in enumerate(totals.request.dimensions):
        variable = facts.variables[name]
        if not any(level.is_no_band for level in variable.levels):
            continue
        inside &= ~np.array([level.is_no_band for level in variable.levels])[natural[:, axis]]
        if totals.account.lost[name]:
            lost.append(NoBand(variable.in_sentence, totals.account.lost[name], variable.outside))
    return inside, tuple(lost)


def _outer_keys(totals: Accumulator, facts: ColumnFacts, places: Sequence[Integers]) -> Integers | None:
    """The keys of the cells of respondents among the levels shown; see `ShownCells.outer`."""
    if totals.outer_keys is None:
        return None
    keys = np.zeros((len(totals.outer_keys), len(places)), dtype=np.int64)
    for place, axis in enumerate(totals.outer_axes):
        natural = np.array(facts.level_places(totals.request.dimensions[axis]))[totals.outer_keys[:, place]]
        keys[:, axis] = places[axis][natural]
    return keys


def _of_nothing(outer: Integers | None, dimensions: Sequence[Dimension]) -> Integers:
    """The categories of records that chose none of several answers and so are in no cell, shape (met, dimensions)."""
    if outer is None or any(one.several for one in dimensions if one.role is Role.CATEGORY):
        return np.zeros((0, len(dimensions)), dtype=np.int64)
    return outer[(outer >= 0).all(axis=1)]
