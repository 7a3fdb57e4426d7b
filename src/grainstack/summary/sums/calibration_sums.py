"""What limits under calibrated weights need besides: sums by the groups that weights were made to meet.

Weights that meet known totals leave only what these totals do not explain: a linearised value z is replaced by its
residual z − w x'β, where x says which groups a record is in (Deville & Särndal 1992, section 3).
"""

import dataclasses
from collections.abc import Sequence

import numpy as np

from grainstack.option_fields import Request
from grainstack.records.batch import Batch
from grainstack.summary.options import DesignRequest
from grainstack.summary.sums.cell_index import CellIndex, Cells, in_order
from grainstack.summary.sums.design import DesignSums, Ratios
from grainstack.summary.sums.exact import ExactSums, Integers
from grainstack.summary.sums.factors import Amounts


class Combinations(DesignRequest, frozen=True):
    """Combinations of levels in the place of drawn units: they were not drawn, so no stage is checked."""

    def __post_init__(self) -> None:
        Request.__post_init__(self)


def combination_design(design: DesignRequest) -> DesignRequest:
    """The design whose units are combinations of levels of target columns: within strata, where records are drawn."""
    columns = tuple(dict.fromkeys(column for columns in design.calibrated for column in columns))
    return Combinations(strata=design.strata if design.draws_records else None, cluster=columns)


@dataclasses.dataclass(slots=True)
class CalibrationSums:
    """Sums by combination of the levels of target columns.

    Attributes:
        design: The survey design.
        cells: The sums of each ratio per combination and cell.
        whole: Which combinations each drawn unit has, of all records read: unit and combination.
        weights: Σw of each of these pairs.
        squares: Σw².
    """

    design: DesignRequest
    cells: DesignSums = dataclasses.field(init=False)
    whole: CellIndex = dataclasses.field(default_factory=lambda: CellIndex(2))
    weights: ExactSums = dataclasses.field(default_factory=ExactSums)
    squares: ExactSums = dataclasses.field(default_factory=ExactSums)

    def __post_init__(self) -> None:
        self.cells = DesignSums(combination_design(self.design), with_squares=self.design.draws_records)

    def absorb(self, batch: Batch, units: Integers, cells: Cells, ratios: Ratios, amounts: Amounts) -> None:
        """Adds records.

        Args:
            batch: The records.
            units: The drawn unit of every record read, kept or not.
            cells: The cell of each record kept.
            ratios: For each ratio the numerator and denominator of each record kept.
            amounts: How much it counts; it stands for itself alone.
        """
        combinations = self.cells.place_everyone(batch, 0)
        every = np.ones(len(units)) if amounts.weights is None else batch.everyone_numbers(str(self.design.weight))
        places = self.whole.add(np.column_stack([units, combinations]))
        self.weights.add(places, every, len(self.whole))
        self.squares.add(places, every * every, len(self.whole))
        mine = combinations if batch.kept is None else combinations[batch.kept]
        self.cells.absorb(mine, cells, ratios, Amounts(amounts.shared, amounts.weights))

    def merge(self, other: "CalibrationSums", units: Integers, cells: Integers, codes: Sequence[Integers]) -> None:
        """Adds another set; `units`, `cells` and `codes` say where its units, cells and levels stand here."""
        combinations = self.cells.merge(other.cells, cells, codes)
        self._add(other, units, combinations)

    def canonical(self, units: Integers, cells: Integers, codes: Sequence[Integers]) -> "CalibrationSums":
        """The same sums with everything under other numbers, in the order of those."""
        result = CalibrationSums(self.design)
        result.cells, combinations = self.cells.canonical(cells, codes)
        result.whole.add(in_order(_moved(self.whole.keys, units, combinations)))
        result._add(self, units, combinations)
        return result

    def _add(self, other: "CalibrationSums", units: Integers, combinations: Integers) -> None:
        places = self.whole.add(_moved(other.whole.keys, units, combinations))
        self.weights.merge(other.weights, places, len(self.whole))
        self.squares.merge(other.squares, places, len(self.whole))


def _moved(keys: Integers, units: Integers, combinations: Integers) -> Integers:
    return np.column_stack([units[keys[:, 0]], combinations[keys[:, 1]]]) if len(keys) else keys
