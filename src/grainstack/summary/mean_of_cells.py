"""The mean over the cells of a table: of the records behind means, or of the figures themselves."""

from enum import Enum, auto

import numpy as np

from grainstack.summary.table import Column, SummaryTable


class MeanOf(Enum):
    """What a mean is taken of."""

    BARS = auto()
    ALL = auto()
    SHOWN = auto()


def mean_of_cells(table: SummaryTable, column: Column) -> tuple[float, MeanOf] | None:
    """The mean over all cells that are neither nets nor totals; None where the figures have none.

    That of means is the mean of the records behind them, each cell weighted with its base; where levels are left
    out, or figures hidden, it is that of those shown. Counts, sums and given figures count once each.

    Args:
        table: The table.
        column: Its figures, shape (cells,).
    """
    statistic = column.figure.statistic.name
    plain = (table.keys < [dimension.plain for dimension in table.dimensions]).all(axis=1)
    shown = plain & ~np.isnan(column.estimate)
    several = any(dimension.several for dimension in table.dimensions)
    if several or statistic not in ("mean", "count", "sum", "value") or not shown.any():
        return None
    if statistic != "mean":
        return float(column.estimate[shown].mean()), MeanOf.BARS
    weights = column.weighted_base if len(column.weighted_base) else np.full(len(shown), np.nan)
    weights = np.where(np.isnan(weights), column.base, weights)[shown]
    hidden = bool(np.any(plain & np.isnan(column.estimate) & (column.base != 0)))
    left_out = hidden or any(dimension.dropped for dimension in table.dimensions)
    return float(np.average(column.estimate[shown], weights=weights)), MeanOf.SHOWN if left_out else MeanOf.ALL
