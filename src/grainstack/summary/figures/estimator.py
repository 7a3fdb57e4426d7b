"""The variances that a survey design gives each figure, for whatever grouping of cells they are wanted."""

from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from grainstack.summary.figures.calibrated import calibrated_spread
from grainstack.summary.figures.linear import Matrices, ratio_spread, share_spread, total_spread
from grainstack.summary.figures.overlap import Overlap
from grainstack.summary.figures.replicated import replicated, replicated_below
from grainstack.summary.figures.shown_sums import ShownSums
from grainstack.summary.statistics import Linear
from grainstack.summary.summary_request import Figure
from grainstack.summary.sums.design import COUNT, Pair
from grainstack.summary.sums.exact import Floats, Integers

if TYPE_CHECKING:
    from grainstack.summary.figures.spread import DesignSpread


class ValuesByUnit(Struct, frozen=True):
    """Values of a cell, rising, one entry for each unit that holds one; shape (entries,) each.

    Attributes:
        values: The values.
        records: How many records hold it, never weighted.
        weights: Σw.
        squares: Σw².
        units: The drawn unit; where single records were drawn, their stratum.
    """

    values: Floats
    records: Integers
    weights: Floats
    squares: Floats
    units: Integers

    def at(self, entries: Integers) -> "ValuesByUnit":
        """Some of the entries, in the order of these."""
        arrays = (self.values[entries], self.records[entries], self.weights[entries], self.squares[entries])
        return ValuesByUnit(*arrays, self.units[entries])


class Estimator(ShownSums):
    """Sums of the cells of a grouping, and the variances a survey design gives them."""

    def spread(self, figure: Figure, estimate: Floats) -> "DesignSpread":
        """The linearised or replicated spread of a figure.

        Args:
            figure: A count, share, sum, mean or rate.
            estimate: Its value in each cell, shape (cells,).
        """
        if self.totals.replicates is not None:
            return replicated(self, figure, estimate)
        linear = figure.statistic.linear
        if linear is Linear.SHARE:
            pair: Pair = (figure.measure, None) if figure.measure else COUNT
            spread = share_spread(self.stages, self.matrices(pair), self.base_matrices(pair), estimate)
        elif linear is Linear.TOTAL:
            spread = total_spread(self.stages, self.matrices((figure.measure, None)))
        else:
            sums = self.matrices((figure.measure, figure.per))
            spread = ratio_spread(self.stages, sums, estimate, sums.y.sum(axis=0))
        calibration = self.totals.calibration
        by_record_rate = figure.per is not None and self.request.design.draws_records  # its sums are not kept
        if calibration is not None and len(calibration.whole) and not by_record_rate:
            return calibrated_spread(spread, calibration, self, figure, estimate)
        if self.totals.joint is None or not len(self.totals.joint.keys):
            return spread

        overlap = Overlap(figure, self, estimate)
        squares = [np.nan_to_num(overlap.squares(cell)) for cell in range(self.grouping.count)]
        return replace(spread, squares=np.column_stack(squares))

    def quantile_spread(self, measure: str, points: Floats) -> "DesignSpread":
        """The spread of the share of each cell's records at or below a point.

        Args:
            measure: The measure.
            points: One point per cell, shape (cells,).
        """
        if self.totals.replicates is not None:
            return replicated_below(self, measure, points)
        design, grouping = self._design, self.grouping
        keys = design.pairs.keys
        values = design.values[measure]
        found = int(max(keys[:, 1].max(initial=-1), grouping.inside.max(initial=-1))) + 1
        x, y, xx, yy = (np.zeros((len(design.units), grouping.count)) for _ in range(4))
        for cell in range(grouping.count):
            members = np.zeros(found, dtype=bool)
            members[grouping.inside[grouping.places == cell]] = True
            mine = members[keys[values.cells, 1]]
            units, below = keys[values.cells[mine], 0], values.values[mine] <= points[cell]
            for table, amounts in ((y, values.weights), (yy, values.squares)):
                table[:, cell] = np.bincount(units, amounts[mine], len(design.units))
            for table, amounts in ((x, values.weights), (xx, values.squares)):
                table[:, cell] = np.bincount(units, amounts[mine] * below, len(design.units))
        by_record = design.request.draws_records
        records = self.records_by_unit((measure, None))
        sums = Matrices(records, x, y, *((xx, xx, yy) if by_record else (None, None, None)))
        total = y.sum(axis=0)
        with np.errstate(invalid="ignore", divide="ignore"):
            return ratio_spread(self.stages, sums, x.sum(axis=0) / total, total)

    def values_by_unit(self, measure: str) -> "list[ValuesByUnit]":
        """The values of a measure in each cell, rising, with the units that hold them.

        Args:
            measure: The measure; its values are kept per drawn unit.
        """
        keys, values = self._design.pairs.keys, self._design.values[measure]
        found = []
        for cell in range(self.grouping.count):
            mine = np.isin(keys[values.cells, 1], self.grouping.inside[self.grouping.places == cell])
            of_cell = np.flatnonzero(mine)[np.argsort(values.values[mine], kind="stable")]
            everyone = ValuesByUnit(
                values.values, values.records, values.weights, values.squares, keys[values.cells, 0]
            )
            found.append(everyone.at(of_cell))
        return found
