"""Which levels of a column are shown, and in which order."""

from dataclasses import dataclass

import numpy as np

from grainstack.records.found import Found
from grainstack.records.variable import NO_BAND, LevelOrder, Variable
from grainstack.summary.accumulator import Totals
from grainstack.summary.exact import Floats, Integers
from grainstack.summary.order import OrderRequest, chosen, ordered_levels
from grainstack.summary.table import ALL, Dimension, Role


@dataclass(frozen=True, slots=True)
class ShownLevels:
    """A column of the request with the levels shown.

    Attributes:
        dimension: The column.
        places: For each level in natural order its place among those shown; -1 when it is not shown.
    """

    dimension: Dimension
    places: Integers


def levels_shown(totals: Totals, found: Found, order: OrderRequest, axis: int, inside: Integers) -> ShownLevels:
    """The levels of one column of the request.

    Args:
        totals: All sums.
        found: What is known of the columns.
        order: In which order levels are wanted.
        axis: Which column of the request.
        inside: The cells found that are in a band throughout.

    Raises:
        RequestError: The order names a level there is not.
    """
    request = totals.request
    name = request.dimensions[axis]
    variable = found.variables[name]
    natural = np.array(found.level_places(name))[totals.keys[:, axis]]
    role = Role.SERIES if name == request.split else Role.PANEL if name == request.panel else Role.CATEGORY
    rule = {Role.SERIES: order.split_order, Role.PANEL: order.panel_order}.get(role)
    if role is Role.CATEGORY and name == request.by[0]:
        rule = order.order
    sizes = _sizes(totals, natural, len(variable.levels), by_estimate=role is Role.CATEGORY).tolist()
    wanted, said = ordered_levels(variable, rule, sizes)
    shown = _shown(variable, wanted, set(natural[inside].tolist()), keep_empty=found.keep_empty)
    places = np.full(len(variable.levels), -1, dtype=np.int64)
    places[shown] = np.arange(len(shown))
    levels = chosen(variable.levels, shown)
    several = axis in totals.several
    with_total = request.totals and not several and role is not Role.PANEL
    if with_total and (role is Role.CATEGORY or request.series_totals):
        levels = (*levels, ALL)
    return ShownLevels(Dimension(role, variable.with_levels(levels, variable.order), said, several), places)


def _shown(variable: Variable, wanted: tuple[int, ...], occurring: set[int], *, keep_empty: bool) -> list[int]:
    """Levels that occur; of bands all from the lowest to the highest that does; everything when that is wanted."""
    if keep_empty:
        return [place for place in wanted if variable.levels[place] != NO_BAND]
    if variable.order is LevelOrder.BANDS:
        span = range(min(occurring), max(occurring) + 1)
        return [place for place in wanted if place in span]
    return [place for place in wanted if place in occurring]


def _sizes(totals: Totals, places: Integers, count: int, *, by_estimate: bool) -> Floats:
    """What largest first goes by: the first figure over each level's records, or their weight."""
    figure = totals.request.figures[0]
    if figure.measure is None or not by_estimate:
        return totals.counts.regrouped(places, count).weight
    sums = totals.measures[figure.measure].regrouped(places, count)
    return sums.sum if figure.statistic.additive else sums.mean
