"""Advice on charts: where another drawing would say more, or less that is not so."""

from typing import TYPE_CHECKING

from grainstack.report.advice import Advice
from grainstack.summary.request import Purpose

if TYPE_CHECKING:
    from grainstack.chart.arrange.bars import BarArrangement
    from grainstack.chart.arrange.cells import ChartCells
    from grainstack.chart.arrange.pie import Pies
    from grainstack.chart.arrange.treemap import Tree
    from grainstack.chart.request import ChartRequest

MOST_SLICES = 7
MOST_COLORS = 8
MOST_BARS = 40
_UNEQUAL = 2.0


def advice_on_bars(arrangement: "BarArrangement", request: "ChartRequest") -> list[Advice]:
    """Too many bars or colours, counts of unequal groups, a second axis, an axis that does not start at zero."""
    cells = arrangement.cells
    found = advice_on_series(cells)
    if cells.table.column_for(Purpose.SECOND) is not None:
        dots = (
            ""
            if cells.table.categories[-1].variable.is_ordered
            else " Dots are not joined: the categories have no order."
        )
        text = f"where bars and dots meet is an accident of two scales: compare their shapes, not their heights.{dots}"
        found.append(Advice("second-axis", text))
    limits = request.axis.limits
    if limits is not None and limits[0] > 0 and not arrangement.stacked:
        text = "bars that do not start at zero exaggerate differences. Use grainstack dot, or start at 0."
        found.append(Advice("axis-start", text))
    return [*found, *_unequal_groups(arrangement)]


def advice_on_series(cells: "ChartCells") -> list[Advice]:
    """More categories or series than an eye can follow."""
    found = []
    if len(cells.slots) > MOST_BARS:
        text = f"{len(cells.slots)} categories are more than a chart can show well. Use --keep-top {MOST_BARS // 2}."
        found.append(Advice("too-many", text))
    if len(cells.series) > MOST_COLORS:
        text = (
            f"{len(cells.series)} series are more than eight colours can tell apart: the others are patterned. "
            "Exchange them with the categories (--swap), or draw panels (--panel)."
        )
        found.append(Advice("too-many", text))
    return found


def advice_on_pies(pies: "Pies") -> list[Advice]:
    """Whether bars would show the parts better: too many slices, or slices too alike."""
    from grainstack.chart.arrange.pie import nearly_equal  # noqa: PLC0415 - bars need none of it

    found = []
    by = pies.cells.table.categories[0].variable.name
    for slices in pies.slices:
        if len(slices) > MOST_SLICES:
            text = f"{len(slices)} slices are more than a pie can show. Use --keep-top 6, or grainstack bar --by {by}."
            found.append(Advice("too-many", text))
        if nearly_equal(slices):
            text = f"slices are nearly equal, which bars show better: grainstack bar --by {by}."
            found.append(Advice("area-limits", text))
    return found


def advice_on_tree(tree: "Tree") -> list[Advice]:
    """Whether the nesting runs from the particular to the general, and whether tiles are too many to tell apart."""
    found = []
    table = tree.cells.table
    for place in range(tree.depth - 1):
        outer, inner = table.categories[place], table.categories[place + 1]
        pairs = {(slot.labels[place], slot.labels[place + 1]) for slot in tree.cells.slots}
        outers, inners = {pair[0] for pair in pairs}, {pair[1] for pair in pairs}
        if len(outers) == len(pairs) > len(inners) > 1:
            by = f"--by {inner.variable.name} --by {outer.variable.name}"
            names = outer.variable.in_sentence, inner.variable.in_sentence
            text = f"each {names[0]} lies in one {names[1]}: nest them the other way, {by}."
            found.append(Advice("nested-backwards", text))
    return found


def _unequal_groups(arrangement: "BarArrangement") -> list[Advice]:
    """Counts split by series, where groups differ so much in size that shares are hard to read off."""
    cells = arrangement.cells
    if cells.column.figure.statistic.name != "count" or cells.dimension is None or len(cells.slots) < 2:
        return []
    stacks = (cells.stack(panel, slot) for panel in range(len(cells.panels)) for slot in range(len(cells.slots)))
    sums = [sum(cell.estimate for cell in stack if cell.known) for stack in stacks]
    known = [value for value in sums if value > 0]
    if len(known) < 2 or max(known) < _UNEQUAL * min(known):
        return []
    ratio = max(known) / min(known)
    text = (
        f"the largest bar stands for {ratio:.1f} times as many as the smallest: compare shares with --layout percent."
    )
    return [Advice("unequal-groups", text)]
