"""Advice on bars: where another drawing would say more, or less that is not so."""

from grainstack.advice import Advice
from grainstack.chart.bars.bar_arrangement import BarArrangement
from grainstack.chart.bars.bar_request import BarRequest
from grainstack.chart.cells import ChartCells
from grainstack.chart.chart_requests import AxisRequest
from grainstack.chart.colored_column import colored_column
from grainstack.chart.distributions.distribution_arrangement import Distribution
from grainstack.chart.look.coloring import MOST_COLORS
from grainstack.chart.pies.pie_arrangement import Pies, nearly_equal
from grainstack.chart.treemaps.tile_tree import Tree
from grainstack.language import phrase, with_signs
from grainstack.option_names import command, option
from grainstack.records.variable import LevelOrder, LevelRole
from grainstack.requests import Requests
from grainstack.summary.order import OrderRequest
from grainstack.summary.summary_request import Purpose

_UNEQUAL = 2.0  # from this ratio of the largest to the smallest group on, shares cannot be read off counts


def advice_on_bars(arrangement: BarArrangement, request: Requests) -> list[Advice]:
    """Too many bars or colours, counts of unequal groups, a second axis, an axis that does not start at zero."""
    return list(dict.fromkeys(advice for one in arrangement.every for advice in _advice_on_one(one, request)))


def _advice_on_one(arrangement: BarArrangement, request: Requests) -> list[Advice]:
    cells = arrangement.cells
    found = advice_on_series(cells, request)
    if cells.table.column_for(Purpose.SECOND) is not None:
        dots = (
            ""
            if cells.table.categories[-1].variable.is_ordered
            else phrase(" Dots are not joined: the categories have no order.")
        )
        text = phrase("where bars and dots meet is an accident of two scales: compare their shapes, not their heights.")
        found.append(Advice("second-axis", f"{text}{dots}"))
    limits = request.usual(AxisRequest).limits
    if limits is not None and limits[0] > 0 and not arrangement.stacked:
        text = phrase(
            "bars that do not start at zero exaggerate differences. Use {dots}, or start at 0.", dots=command("dot")
        )
        found.append(Advice("axis-start", text))
    if arrangement.layout == "percent" and cells.count > 2 and any(bar.whisker for bar in arrangement.bars):
        dots = command("dot")
        text = (
            phrase(
                "limits of {count} segments are easier to compare side by side: {grouped}, or {dots}.",
                count=cells.count,
                grouped=option("layout", "grouped"),
                dots=dots,
            )
            if cells.table.series
            else phrase(
                "limits of {count} segments are easier to compare side by side: {dots}.", count=cells.count, dots=dots
            )
        )
        found.append(Advice("limits-in-stack", text))
    if (dimension := cells.dimension) is not None and _of_unknown_ends(arrangement, request):
        text = phrase(
            "nobody says which end of {column} is good: its last level, {level}, is drawn as the good one. Say "
            'good = "first" or "last" in the codebook, or name the other side with {opposite}.',
            column=dimension.variable.label,
            level=cells.series[max(place for place, way in enumerate(arrangement.sides.ways) if way > 0)]
            if arrangement.sides
            else "",
            opposite=option("opposite"),
        )
        found.append(Advice("good-end", text))
    return [*found, *_unequal_groups(arrangement)]


def _of_unknown_ends(arrangement: BarArrangement, request: Requests) -> bool:
    """Whether a scale with two sides is drawn of which nobody knows the good end."""
    dimension, sides = arrangement.cells.dimension, arrangement.sides
    if dimension is None or sides is None or request[BarRequest].opposite or sides.ways.count(1) < 2:
        return False
    return not dimension.variable.good_end


def _unequal_groups(arrangement: BarArrangement) -> list[Advice]:
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
    text = phrase(
        "the largest bar stands for {ratio} times as many as the smallest: compare shares with {percent}.",
        ratio=with_signs(f"{ratio:.1f}"),
        percent=option("layout", "percent"),
    )
    return [Advice("unequal-groups", text)]


MOST_PATTERNED = 15  # eight colours, and each of the seven patterns once
MOST_BARS = 40  # an eye does not follow more


def advice_on_series(cells: ChartCells, request: Requests) -> list[Advice]:
    """More categories or series than an eye can follow."""
    advice = []
    if len(cells.slots) > MOST_BARS:
        text = phrase("{count} categories are more than a chart can show well.", count=len(cells.slots))
        last = cells.table.categories[-1].variable
        if last.order is LevelOrder.NUMBERS:
            fewer = phrase(
                "They are single numbers: cut them into bands ({bands}), or draw how they are spread ({spread}).",
                bands=option("band", f"{last.name}=auto"),
                spread=f"{command('distribution')} {option('measure', last.name)}",
            )
        elif keep := _keep_for(cells, MOST_BARS // 2):
            fewer = phrase("Use {fewer}.", fewer=option("keep_top", str(keep)))
        else:
            fewer = phrase("Keep some of them with {only}.", only=option("only"))
        advice.append(Advice("too-many", f"{text} {fewer}"))
    series = cells.table.series
    levels = series.levels if series else ()
    count = sum(not level.is_special for level in levels) if levels else len(cells.series)
    others = phrase(
        "Exchange them with the categories ({swap}), or draw panels ({panel}).",
        swap=option("swap"),
        panel=option("panel"),
    )
    chosen = request.usual(OrderRequest).split_keep_top is not None  # whoever chose so many was told
    if count > MOST_COLORS and not chosen:
        if colored_column(cells.table, request) is None:
            text = phrase("{count} series are more than an eye can follow.", count=count)
        else:
            text = phrase(
                "{count} series are more than eight colours can tell apart: the others are patterned.",
                count=count,
            )
        advice.append(Advice("too-many", f"{text} {others}"))
    rest = next((level.label for level in levels if level.role is LevelRole.REST), "")
    if rest and series and not chosen:
        text = phrase(
            "eight colours are all that can be told apart: smaller series are drawn together as {rest}.", rest=rest
        )
        if len(series.all_levels) <= MOST_PATTERNED:
            every = option("split_keep_top", str(len(series.all_levels)))
            text += " " + phrase("For all of them, the ninth and further in patterns, use {every}.", every=every)
        advice.append(Advice("too-many", f"{text} {others}"))
    return advice


def _keep_for(cells: ChartCells, most: int) -> int:
    """How many categories or slices to keep for so many, all those that tie among them; 0 where all would be kept."""
    alone = len(cells.table.categories) == 1 and len(cells.panels) == 1
    if not alone or (cells.series and len(cells.slots) > 1):
        return most
    special = [place for place, one in enumerate(cells.dimension.levels if cells.dimension else ()) if one.is_special]
    plain = [one for one in cells.cells if one.series not in special and not cells.slots[one.slot].rest]
    sizes = sorted((cell.estimate for cell in plain if cell.known), reverse=True)
    kept = [sum(size >= sizes[count - 1] for size in sizes) for count in range(1, min(most, len(sizes)) + 1)]
    return next((count for count, left in reversed(list(enumerate(kept, 1))) if left <= most), 0)


MOST_SLICES = 7  # beyond that, slices are neither told apart nor compared


def advice_on_pies(pies: Pies, request: Requests) -> list[Advice]:  # noqa: ARG001 - as every kind
    """Too many slices, or slices too alike."""
    bars = f"{command('bar')} {option('by', pies.cells.table.categories[0].variable.name)}"
    advice = []
    for slices in pies.slices:
        if len(slices) > MOST_SLICES:
            if keep := _keep_for(pies.cells, MOST_SLICES - 1):
                text = phrase(
                    "{count} slices are more than a pie can show. Use {fewer}, or {bars}.",
                    count=len(slices),
                    fewer=option("keep_top", str(keep)),
                    bars=bars,
                )
            else:
                text = phrase("{count} slices are more than a pie can show. Use {bars}.", count=len(slices), bars=bars)
            advice.append(Advice("too-many", text))
        if nearly_equal(slices):
            text = phrase("slices are nearly equal, which bars show better: {bars}.", bars=bars)
            advice.append(Advice("area-limits", text))
    return advice


def advice_on_tree(tree: Tree, request: Requests) -> list[Advice]:  # noqa: ARG001 - as every kind
    """Levels that each lie in one level of the column inside them."""
    advice = []
    table = tree.cells.table
    for place in range(tree.depth - 1):
        outer, inner = table.categories[place], table.categories[place + 1]
        pairs = {(slot.codes[place], slot.codes[place + 1]) for slot in tree.cells.slots}
        outers, inners = {pair[0] for pair in pairs}, {pair[1] for pair in pairs}
        if len(outers) == len(pairs) > len(inners) > 1:
            by = f"{option('by', inner.variable.name)} {option('by', outer.variable.name)}"
            names = outer.variable.in_sentence, inner.variable.in_sentence
            text = phrase(
                "each {outer} lies in one {inner}: nest them the other way, {by}.",
                outer=names[0],
                inner=names[1],
                by=by,
            )
            advice.append(Advice("nested-backwards", text))
    return advice


def advice_on_distribution(distribution: Distribution, request: Requests) -> list[Advice]:
    """More categories or series than an eye can follow."""
    return advice_on_series(distribution.cells, request)
