"""The sums behind each figure, for whatever grouping of cells they are wanted."""

from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace

from grainstack.errors import RequestError
from grainstack.summary.levels.grouping import Grouping
from grainstack.summary.request import Figure
from grainstack.summary.statistics import Linear
from grainstack.summary.sums.accumulator import Accumulator
from grainstack.summary.sums.design import COUNT, DesignSums, Pair
from grainstack.summary.sums.exact import Floats, Integers
from grainstack.summary.sums.extremes import Extremes
from grainstack.summary.sums.moments import Moments
from grainstack.summary.sums.values import Values

if TYPE_CHECKING:
    from grainstack.summary.figures.design_spread import DesignSpread
    from grainstack.summary.figures.linear import Matrices
    from grainstack.summary.figures.stages import Stage


class Estimator:
    """Sums of the cells of a grouping, and the variances a survey design gives them.

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

    def regrouped(self, grouping: Grouping) -> "Estimator":
        """The same records in other cells."""
        return Estimator(self.totals, grouping, self._strata_names)

    @property
    def weighted(self) -> bool:
        """Whether records weigh differently."""
        return bool(self.request.design.weight)

    def moments(self, measure: str | None) -> Moments:
        """The sums of a measure, or of the records themselves."""
        return self._shown(self.totals.counts if measure is None else self.totals.measures[measure])

    def rate(self, measure: str) -> tuple[Moments, Moments]:
        """The sums of a measure and of what it is divided by, over records that have both."""
        above, below = self.totals.rates[measure]
        return self._shown(above), self._shown(below)

    def whole(self, measure: str | None) -> Moments:
        """The sums of the base each cell's share is taken of."""
        grouping = self.grouping
        if grouping.of_respondents:
            source = self.totals.respondents
        else:
            source = self.totals.counts if measure is None else self.totals.measures[measure]
        return source.at(grouping.base_inside).regrouped(grouping.base_places, grouping.bases).at(grouping.base_of)

    def values(self, measure: str) -> Values:
        """The different values of a measure."""
        return self.totals.values[measure].regrouped(self.grouping.inside, self.grouping.places)

    def extremes(self, measure: str) -> Extremes:
        """The lowest and highest value of a measure."""
        grouping = self.grouping
        return self.totals.extremes[measure].regrouped(grouping.inside, grouping.places, grouping.count)

    @cached_property
    def stages(self) -> "tuple[Stage, ...]":
        """The stages the sample was drawn in."""
        from grainstack.summary.figures.stages import stages_of  # noqa: PLC0415 - only designs need it

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

    def spread(self, figure: Figure, estimate: Floats) -> "DesignSpread":
        """The linearised or replicated spread of a figure.

        Args:
            figure: A count, share, sum, mean or rate.
            estimate: Its value in each cell, shape (cells,).
        """
        from grainstack.summary.figures.linear import ratio_spread, share_spread, total_spread  # noqa: PLC0415 - see `stages`

        if self.totals.replicates is not None:
            from grainstack.summary.figures.replicated import replicated  # noqa: PLC0415 - few surveys have any

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
            from grainstack.summary.figures.calibrated import calibrated_spread  # noqa: PLC0415 - few weights are

            return calibrated_spread(spread, calibration, self, figure, estimate)
        if self.totals.joint is None or not len(self.totals.joint.keys):
            return spread
        from grainstack.summary.figures.overlap import Overlap  # noqa: PLC0415 - few rows are made of records

        overlap = Overlap(figure, self, estimate)
        squares = [np.nan_to_num(overlap.products(cell, cell)) for cell in range(self.grouping.count)]
        return replace(spread, squares=np.column_stack(squares))

    def quantile_spread(self, measure: str, points: Floats) -> "DesignSpread":
        """The spread of the share of each cell's records at or below a point.

        Args:
            measure: The measure.
            points: One point per cell, shape (cells,).
        """
        from grainstack.summary.figures.linear import Matrices, ratio_spread  # noqa: PLC0415 - see `stages`

        if self.totals.replicates is not None:
            from grainstack.summary.figures.replicated import replicated_below  # noqa: PLC0415 - few surveys have any

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

    def share_covariance(self) -> Floats:
        """The covariance of each cell's share of all cells together, shape (cells, cells)."""
        from grainstack.summary.figures.linear import share_covariance  # noqa: PLC0415 - see `stages`

        weight = self.moments(None).weight
        share = weight / weight.sum()
        if self.totals.replicates is not None:
            from grainstack.summary.figures.replicated import replicated_among_all  # noqa: PLC0415 - few surveys have any

            return replicated_among_all(self, share)
        return share_covariance(self.stages, self.matrices(COUNT), share)

    def degrees_of_all(self) -> float:
        """Degrees of freedom of all cells together."""
        if self.totals.replicates is not None:
            from grainstack.summary.figures.replicated import replicate_degrees  # noqa: PLC0415 - few surveys have any

            return float(replicate_degrees(self, self._held_by_all)[0])
        from grainstack.summary.figures.stages import held_degrees  # noqa: PLC0415 - see `stages`

        return float(held_degrees(self.stages, self._held_by_all())[0])

    def _held_by_all(self) -> Integers:
        return np.asarray(self.records_by_unit(COUNT).sum(axis=1, keepdims=True))

    def matrices(self, pair: Pair) -> "Matrices":
        """The sums of a ratio per drawn unit and cell."""
        from grainstack.summary.figures.linear import matrices_of  # noqa: PLC0415 - see `stages`

        grouping = self.grouping
        return matrices_of(self._design, pair, grouping.inside, grouping.places, grouping.count)

    def base_matrices(self, pair: Pair) -> "Matrices":
        """The sums per drawn unit of the base each cell's share is taken of."""
        from grainstack.summary.figures.linear import Matrices, matrices_of  # noqa: PLC0415 - see `stages`

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
