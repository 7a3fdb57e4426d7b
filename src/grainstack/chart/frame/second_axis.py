"""A second measure: dots in one strong colour on an axis of their own, joined where categories have an order."""

from collections.abc import Callable, Collection, Sequence

from grainstack.chart.cells import ChartCells
from grainstack.chart.frame.joining import in_order
from grainstack.chart.frame.plane import Box
from grainstack.chart.frame.plot_needs import Plots
from grainstack.chart.frame.value_axis import AxisNeeds
from grainstack.chart.frame.value_labels import grounds
from grainstack.chart.look.color import INK, PAPER
from grainstack.chart.look.measures import CAP_HEIGHT, MIDLINE
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Anchor, Dot, Line, Mark, MarkRole, Text, Weight
from grainstack.chart.second_request import SecondRequest
from grainstack.chart.writing.figures import figures_of
from grainstack.chart.writing.text import width
from grainstack.errors import RequestError
from grainstack.option_names import option
from grainstack.summary.summary_request import Purpose
from grainstack.summary.table import Flag

SECOND_CODE = ("*second",)  # in the place of a series, for what belongs to the second measure
_CLEAR = 0.5  # gaps: between a dot and a figure that is not its own
_SMALLER = 0.9  # of the usual type: the figures of bars come first
_COLORS = ("#ac430e", "#7f2117", "#835cbe", INK)


def second_needs(cells: ChartCells, request: SecondRequest) -> AxisNeeds | None:
    """What the second axis has to show; None without a second measure.

    Raises:
        RequestError: A range that leaves figures out.
    """
    column = cells.table.column_for(Purpose.SECOND)
    if column is None:
        return None
    values = [value for _, _, value, _ in second_points(cells)]
    if not values:
        return None
    whole = column.figure.statistic.name == "count"
    style = figures_of(column, numbers=request.numbers).style
    needs = AxisNeeds(min(values), max(values), column.is_share, column.unit == "%", whole, style, request.axis)
    if (limits := request.axis.limits) is not None:
        outside = next((one * needs.scale for one in values if not limits[0] <= one * needs.scale <= limits[1]), None)
        if outside is not None:
            raise RequestError(
                f"{option('second_range')} {request.second_range} leaves {outside:g} out.", "Widen it, or leave it out."
            )
    return needs


def second_color(taken: Collection[str]) -> str:
    """A strong colour that no bar has."""
    return next((color for color in _COLORS if color not in taken), INK)


def second_marks(
    cells: ChartCells, write: Callable[[float, Flag], str], plots: Plots, style: Style, color: str
) -> list[Mark]:
    """The dots, and the line that joins those of neighbours in one group.

    Args:
        cells: The figures.
        write: Writes a figure with its signs.
        plots: The plots in place.
        style: Sizes and strokes.
        color: The colour of the second measure.
    """
    marks: list[Mark] = []
    dots: list[Mark] = []
    joined = in_order(cells)  # or a line between neighbours would mean nothing
    before: tuple[int, int, float, float] | None = None
    for panel, slot, value, flags in second_points(cells):
        plane = plots.second_planes[panel]
        x, y = plane.point(plane.middle(slot), value)
        key = cells.slot_key(panel, slot, SECOND_CODE)
        dots.append(Dot(x, y, style.dot, color, MarkRole.SECOND_DOT, key, write(value, flags), outline=PAPER))
        same = before is not None and before[0] == panel and cells.slots[before[1]].group == cells.slots[slot].group
        if before is not None and same and before[1] == slot - 1 and joined:
            marks.append(Line(before[2], before[3], x, y, PAPER, style.line * 2.4, MarkRole.HALO))
            marks.append(Line(before[2], before[3], x, y, color, style.line, MarkRole.SECOND, key))
        before = (panel, slot, x, y)
    return [*marks, *dots]


def second_dots(cells: ChartCells, plots: Plots, style: Style) -> dict[tuple[int, int], Box]:
    """The room that each dot takes with the figure at it, by panel and slot; none without a second measure.

    Args:
        cells: The figures.
        plots: The plots in place.
        style: The size of dots.
    """
    away = style.dot + style.gap * _CLEAR
    found = {}
    for panel, slot, value, _ in second_points(cells):
        plane = plots.second_planes[panel]
        x, y = plane.point(plane.middle(slot), value)
        found[panel, slot] = Box(x - away, y - away, x + away, y + away)
    return found


def second_figures(
    marks: Sequence[Mark], taken: Sequence[Mark], style: Style, color: str, *, lying: bool
) -> list[Mark]:
    """The figure of each dot: over it on upright bars, right of it beside lying ones; elsewhere where a figure stands.

    Args:
        marks: What `second_marks` gave.
        taken: What stands in the plots already.
        style: Sizes and strokes.
        color: The colour of the second measure.
        lying: Whether bars lie.
    """
    size = max(style.value * _SMALLER, style.least_type)
    away = style.dot + style.gap * 0.6
    texts: list[Mark] = []
    boxes = [Box(*mark.box) for mark in taken if isinstance(mark, Text)]
    for dot in marks:
        if not isinstance(dot, Dot):
            continue
        wide = width(dot.tip, size, Weight.SEMIBOLD)
        middle = dot.y + size * MIDLINE
        right, left = (dot.x + away, middle, Anchor.START), (dot.x - away, middle, Anchor.END)
        over, under = (dot.x, dot.y - away, Anchor.MIDDLE), (dot.x, dot.y + away + size * CAP_HEIGHT, Anchor.MIDDLE)
        found = [
            Text(x, y, dot.tip, size, wide, color, MarkRole.SECOND_VALUE, Weight.SEMIBOLD, anchor, key=dot.key)
            for x, y, anchor in ((right, left, over, under) if lying else (over, under, right, left))
        ]
        clear = style.gap * _CLEAR  # the plate behind a figure reaches that far
        free = (text for text in found if not any(box.meets(Box(*text.box), -clear) for box in boxes))
        text = next(free, None)
        if text is None:
            continue  # a figure over another one is none
        boxes.append(Box(*text.box))
        texts.append(text)
    return [*grounds(texts, style), *texts]


def second_points(cells: ChartCells) -> list[tuple[int, int, float, Flag]]:
    """Panel, slot, value and flags of every dot of the second measure; none without one."""
    column = cells.table.column_for(Purpose.SECOND)
    if column is None:
        return []
    found = []
    for panel in range(len(cells.panels)):
        for slot in range(len(cells.slots)):
            total = cells.total(panel, slot)
            row = total.row if total else cells.stack(panel, slot)[0].row
            value = float(column.estimate[row])
            if value == value and not cells.slots[slot].total:  # noqa: PLR0124 - NaN is not itself
                found.append((panel, slot, value, Flag(int(column.flags[row]))))
    return found
