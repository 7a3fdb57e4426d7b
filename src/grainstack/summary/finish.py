"""From the sums of the cells found to the table that is shown: levels in order, a full grid, figures."""

from collections.abc import Sequence

import numpy as np

from grainstack.errors import RequestError, listed
from grainstack.records.found import Found
from grainstack.records.variable import Variable
from grainstack.summary.accumulator import Totals
from grainstack.summary.estimates import Sums, column
from grainstack.summary.moments import Floats, Integers
from grainstack.summary.order import OrderRequest, chosen, ordered_levels
from grainstack.summary.provenance import Origin, Provenance
from grainstack.summary.request import SummaryRequest
from grainstack.summary.table import Column, Dimension, Role, SummaryTable


def table_of(totals: Totals, found: Found, order: OrderRequest, origin: Origin) -> SummaryTable:
    """The table of everything an accumulator has seen.

    Args:
        totals: Its sums.
        found: What is known of the columns, and how the batches coded their levels.
        order: In which order levels stand.
        origin: Where the records came from.

    Raises:
        RequestError: No record is left, or the order names a level there is not.
    """
    if not len(totals.keys):
        raise RequestError(_why_empty(totals, origin), "Loosen the filters, or look at the columns: grainstack look.")
    request = totals.request
    keys = totals.keys.copy()
    dimensions = []
    for axis, name in enumerate(request.dimensions):
        natural = np.array(found.level_places(name))[keys[:, axis]]
        dimension, places = _dimension(found.variables[name], natural, totals, order)
        keys[:, axis] = places[natural]
        dimensions.append(dimension)
    grid, places = _grid(keys, dimensions)
    counts = totals.counts.regrouped(places, len(grid))
    groups = _base_groups(request, dimensions, grid)
    whole = counts.regrouped(groups, int(groups.max()) + 1).at(groups)
    columns = []
    for figure in request.figures:
        if figure.measure is None:
            sums = Sums(counts, whole, None)
        else:
            measured = totals.measures[figure.measure].regrouped(places, len(grid))
            sums = Sums(measured, whole, found.variables[figure.measure])
        columns.append(column(figure, sums, request))
    return SummaryTable(tuple(dimensions), grid, tuple(columns), _provenance(totals, origin, dimensions, columns))


def _dimension(variable: Variable, places: Integers, totals: Totals, order: OrderRequest) -> tuple[Dimension, Integers]:
    """A column of the request with the levels that occur, and for each level its place among those shown."""
    is_series = variable.name == totals.request.split
    count = len(variable.levels)
    sizes = _sizes(totals, places, count, by_estimate=not is_series).tolist()
    rule = order.split_order if is_series else order.order
    if is_series or variable.name == totals.request.by[0]:
        wanted, said = ordered_levels(variable, rule, sizes)
    else:
        wanted, said = ordered_levels(variable, None, sizes)
    occurring = set(places.tolist())
    shown = [place for place in wanted if place in occurring]
    renumbered = np.full(count, -1, dtype=np.int64)
    renumbered[shown] = np.arange(len(shown))
    role = Role.SERIES if is_series else Role.CATEGORY
    return Dimension(role, variable.with_levels(chosen(variable.levels, shown), variable.order), said), renumbered


def _sizes(totals: Totals, places: Integers, count: int, *, by_estimate: bool) -> Floats:
    """What largest first goes by: the first figure over each level's records, or their weight."""
    figure = totals.request.figures[0]
    if figure.measure is None or not by_estimate:
        return totals.counts.regrouped(places, count).weight
    sums = totals.measures[figure.measure].regrouped(places, count)
    if figure.statistic.name == "sum":
        return sums.sum
    return np.where(sums.records > 0, sums.mean, np.nan)


def _grid(keys: Integers, dimensions: Sequence[Dimension]) -> tuple[Integers, Integers]:
    """The cells shown, sorted: every combination of categories that occurs, with every series.

    Returns:
        Their keys, shape (cells, dimensions), and for each of `keys` its place among them.
    """
    series = len(dimensions[-1].levels) if dimensions[-1].role is Role.SERIES else 1
    outer = keys[:, :-1] if dimensions[-1].role is Role.SERIES else keys
    combinations, rows = np.unique(outer, axis=0, return_inverse=True)
    rows = rows.reshape(-1)
    if dimensions[-1].role is not Role.SERIES:
        return combinations, rows
    repeated = np.repeat(combinations, series, axis=0)
    grid = np.column_stack([repeated, np.tile(np.arange(series), len(combinations))])
    return grid, rows * series + keys[:, -1]


def _base_groups(request: SummaryRequest, dimensions: Sequence[Dimension], grid: Integers) -> Integers:
    """For each cell shown, the number of the base its share is taken of."""
    split = dimensions[-1].role is Role.SERIES
    if request.share_base == "category":
        parts = grid[:, :-1] if split else grid
    elif request.share_base == "series":
        parts = grid[:, -1:]
    else:
        return np.zeros(len(grid), dtype=np.int64)
    return np.unique(parts, axis=0, return_inverse=True)[1].reshape(-1)


def _provenance(
    totals: Totals, origin: Origin, dimensions: Sequence[Dimension], columns: Sequence[Column]
) -> Provenance:
    labels = {dimension.variable.name: dimension.variable.label for dimension in dimensions}
    labels |= {item.measure.name: item.measure.label for item in columns if item.measure}
    unanswered = tuple((labels.get(name, name), count) for name, count in totals.unanswered.items())
    bases = [item.base for item in columns if item.measure is not None]
    used = int(bases[0].sum()) if len(bases) == len(columns) == 1 else int(totals.counts.records.sum())
    base = ""
    if any(item.figure.statistic.name == "share" for item in columns):
        base = _base_sentence(totals.request, dimensions)
    intervals = tuple(dict.fromkeys(item.interval for item in columns if item.interval))
    return Provenance(origin, unanswered, used, base, intervals)


def _base_sentence(request: SummaryRequest, dimensions: Sequence[Dimension]) -> str:
    categories = " × ".join(d.variable.label for d in dimensions if d.role is Role.CATEGORY)
    if request.share_base == "category":
        return f"Each {categories} adds to 100 %"
    if request.share_base == "series":
        return f"Each {dimensions[-1].variable.label} adds to 100 %"
    return "All shares together add to 100 %"


def _why_empty(totals: Totals, origin: Origin) -> str:
    if not origin.read:
        return f"{origin.source} holds no records."
    if origin.filtered == origin.read:
        return f"No record is left: all {origin.read:,} of {origin.source} were filtered away."
    lacking = [f"`{name}`" for name, count in totals.unanswered.items() if count]
    return f"No record of {origin.source} has an answer in {listed(lacking)}."
