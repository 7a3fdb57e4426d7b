"""Advice on bars: where another drawing would say more, or less that is not so."""

from grainstack.advice import Advice
from grainstack.chart.bars.arrangement import BarArrangement
from grainstack.chart.dots.advice import advice_on_series
from grainstack.chart.request import AxisRequest
from grainstack.language import phrase, with_signs
from grainstack.requests import Requests
from grainstack.speech import command, option
from grainstack.summary.request import Purpose

_UNEQUAL = 2.0  # from this ratio of the largest to the smallest group on, shares cannot be read off counts


def advice_on_bars(arrangement: BarArrangement, request: Requests) -> list[Advice]:
    """Too many bars or colours, counts of unequal groups, a second axis, an axis that does not start at zero."""
    return list(dict.fromkeys(advice for one in arrangement.every for advice in _advice_on_one(one, request)))


def _advice_on_one(arrangement: BarArrangement, request: Requests) -> list[Advice]:
    cells = arrangement.cells
    found = advice_on_series(cells)
    if cells.table.column_for(Purpose.SECOND) is not None:
        dots = (
            ""
            if cells.table.categories[-1].variable.is_ordered
            else phrase(" Dots are not joined: the categories have no order.")
        )
        text = phrase("where bars and dots meet is an accident of two scales: compare their shapes, not their heights.")
        found.append(Advice("second-axis", f"{text}{dots}"))
    limits = request[AxisRequest].limits
    if limits is not None and limits[0] > 0 and not arrangement.stacked:
        text = phrase(
            "bars that do not start at zero exaggerate differences. Use {dots}, or start at 0.", dots=command("dot")
        )
        found.append(Advice("axis-start", text))
    if arrangement.layout == "percent" and cells.count > 2 and any(bar.whisker for bar in arrangement.bars):
        text = phrase(
            "limits of {count} segments are easier to compare side by side: {grouped}, or {dots}.",
            count=cells.count,
            grouped=option("layout", "grouped"),
            dots=command("dot"),
        )
        found.append(Advice("limits-in-stack", text))
    return [*found, *_unequal_groups(arrangement)]


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
