"""The sums behind each figure, for whatever grouping of cells they are wanted."""

from functools import cached_property
from typing import TYPE_CHECKING, Self

import numpy as np

from grainstack.errors import RequestError
from grainstack.summary.figures.linear import Matrices, matrices_of
from grainstack.summary.figures.stages import stages_of
from grainstack.summary.levels.grouping import Grouping
from grainstack.summary.sums.accumulator import Accumulator
from grainstack.summary.sums.design import DesignSums, Pair
from grainstack.summary.sums.exact import Floats, Integers
from grainstack.summary.sums.extremes import Extremes
from grainstack.summary.sums.moments import Moments
from grainstack.summary.sums.values import Values

if TYPE_CHECKING:
    from grainstack.summary.figures.stages import Stage


class ShownSums:
    """Sums of the cells of a grouping.

    Args:
        totals: Everything an accumulator has seen.
        grouping: The cells wanted.
        strata_names: The names of the design's strata, by their codes.
    """

    def __init__(self, totals: Accumulator, grouping: Grouping, strata_names: tuple[str, ...] = ()) -> None:
        self.request = totals.request
        self.totals = totals
        self.grouping = grouping
        self._strata_names = strata_names

    def regrouped(self, grouping: Grouping) -> Self:
        """The same records in other cells."""
        return type(self)(self.totals, grouping, self._strata_names)

    @property
    def weighted(self) -> bool:
        """Whether records weigh differently."""
        return bool(self.request.design.weight)

    def moments(self, measure: str | None) -> Moments:
        """The sums of a measure, or of the records themselves."""
        return self._shown(self.totals.moments(measure))

    def rate(self, measure: str) -> tuple[Moments, Moments]:
        """The sums of a measure and of what it is divided by, over records that have both."""
        above, below = self.totals.rate(measure)
        return self._shown(above), self._shown(below)

    def whole(self, measure: str | None) -> Moments:
        """The sums of the base each cell's share is taken of."""
        grouping = self.grouping
        source = self.totals.respondents if grouping.of_respondents else self.totals.moments(measure)
        return source.at(grouping.base_inside).regrouped(grouping.base_places, grouping.bases).at(grouping.base_of)

    def values(self, measure: str) -> Values:
        """The different values of a measure."""
        return self.totals.values[measure].regrouped(self.grouping.inside, self.grouping.places)

    def extremes(self, measure: str) -> Extremes:
        """The lowest and highest value of a measure."""
        grouping = self.grouping
        return self.totals.extremes(measure).regrouped(grouping.inside, grouping.places, grouping.count)

    @cached_property
    def stages(self) -> "tuple[Stage, ...]":
        """The stages the sample was drawn in."""
        return stages_of(self._design, self._strata_names)

    def designs_by_record(self) -> list[tuple[DesignSums, int, Integers]]:
        """The sums over cells and over outer cells.

        Each comes with the number of its first cell, outer ones numbered behind the others, and with the place of each
        of its units among those of the first.
        """
        first = self._design
        found = [(first, 0, np.arange(len(first.units), dtype=np.int64))]
        outer = self.totals.outer_design
        if self.totals.outer is not None and outer is not None:
            order = np.argsort(_unit_order(first, outer), kind="stable")
            found.append((outer, len(self.totals.keys), order))
        return found

    @property
    def strata_of_units(self) -> Integers:
        """The stratum of each drawn unit, shape (units,)."""
        return np.asarray(self._design.units.keys[:, 0])

    def records_by_unit(self, pair: Pair) -> Integers:
        """How many records of a ratio each drawn unit has in each cell, shape (units, cells)."""
        return self.matrices(pair).records

    def matrices(self, pair: Pair) -> "Matrices":
        """The sums of a ratio per drawn unit and cell."""
        grouping = self.grouping
        return matrices_of(self._design, pair, grouping.inside, grouping.places, grouping.count)

    def base_matrices(self, pair: Pair) -> "Matrices":
        """The sums per drawn unit of the base each cell's share is taken of."""
        grouping = self.grouping
        design = self.totals.outer_design if grouping.of_respondents else self._design
        if design is None:
            raise RequestError("The design was not summed up for this question.", "")
        sums = matrices_of(design, pair, grouping.base_inside, grouping.base_places, grouping.bases)
        order = _unit_order(self._design, design)

        def of_cells(table: Floats | None) -> Floats | None:
            return None if table is None else table[order][:, grouping.base_of]

        x, y = sums.x[order][:, grouping.base_of], sums.y[order][:, grouping.base_of]
        squares = [of_cells(one) for one in (sums.xx, sums.xy, sums.yy)]
        return Matrices(sums.records[order][:, grouping.base_of], x, y, *squares)

    def _shown(self, moments: Moments) -> Moments:
        return moments.at(self.grouping.inside).regrouped(self.grouping.places, self.grouping.count)

    @property
    def _design(self) -> DesignSums:
        if self.totals.design is None:
            raise RequestError("The design was not summed up for this question.", "")
        return self.totals.design


def _unit_order(one: DesignSums, other: DesignSums) -> Integers:
    """Where each unit of one design stands in another that has seen the same records."""
    places = {tuple(key): place for place, key in enumerate(other.units.keys.tolist())}
    return np.array([places[tuple(key)] for key in one.units.keys.tolist()], dtype=np.int64)
