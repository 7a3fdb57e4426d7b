"""Percent bars of figures that are no shares yet: each becomes its part of its bar."""

from dataclasses import replace

import numpy as np

from grainstack.chart.cells import ChartCells
from grainstack.errors import ChartError
from grainstack.records.variable import EVERYTHING
from grainstack.speech import option
from grainstack.summary.statistics import STATISTICS
from grainstack.summary.table import Column, SummaryTable


def shares_of_bars(cells: ChartCells) -> SummaryTable:
    """The table with every figure as its share of the bar it stands in, without limits.

    Args:
        cells: Figures that add up, bar by bar.

    Raises:
        ChartError: Figures with limits, or negative ones, which are no parts of a whole.
    """
    if any(cell.has_spread for cell in cells.cells):
        raise ChartError(
            "Figures with limits of their own have none as shares of a bar.",
            f"Leave them out, or {option('layout')} percent.",
        )
    if any(cell.known and cell.estimate < 0 for cell in cells.cells):
        raise ChartError("Negative figures are no parts of a whole.", f"Leave {option('layout')} percent out.")
    shares = [np.full(len(column.estimate), np.nan) for column in cells.columns]
    for panel in range(len(cells.panels)):
        for slot in range(len(cells.slots)):
            stack = [cell for cell in cells.stack(panel, slot) if cell.known]
            whole = sum(cell.estimate for cell in stack)
            for cell in stack:
                shares[cell.column][cell.row] = cell.estimate / whole if whole else np.nan
    table = cells.table
    share_of = {id(column): _as_share(column, part) for column, part in zip(cells.columns, shares, strict=True)}
    columns = tuple(share_of.get(id(column), column) for column in table.columns)
    return replace(table, columns=columns, provenance=replace(table.provenance, base=_base_sentence(cells)))


def _as_share(column: Column, shares: "np.ndarray[tuple[int], np.dtype[np.float64]]") -> Column:
    nothing = np.full(len(shares), np.nan)
    return replace(
        column,
        figure=replace(column.figure, statistic=STATISTICS["share"], per=None),
        estimate=shares,
        low=nothing,
        high=nothing,
        standard_error=nothing,
        interval="",
        per=None,
    )


def _base_sentence(cells: ChartCells) -> str:
    table = cells.table
    dimensions = [*([table.panel] if table.panel else []), *(table.categories if cells.slots[0].codes else ())]
    names = [one.variable.in_sentence for one in dimensions if one.variable.name != EVERYTHING]
    return f"Each {' × '.join(names)} adds to 100 %" if names else "All shares together add to 100 %"
