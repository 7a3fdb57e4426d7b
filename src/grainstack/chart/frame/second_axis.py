"""A second measure: dots in one strong colour on an axis of their own, joined where categories have an order."""

from collections.abc import Collection, Sequence

from grainstack.chart.cells import ChartCells
from grainstack.chart.frame.plot_needs import Plots
from grainstack.chart.frame.value_axis import AxisNeeds
from grainstack.chart.frame.value_labels import grounds
from grainstack.chart.look.color import INK, PAPER
from grainstack.chart.look.measures import MIDLINE
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Anchor, Dot, Line, Mark, MarkRole, Text, Weight
from grainstack.chart.writing.figures import figures_of
from grainstack.chart.writing.text import width
from grainstack.chart.writing.wording import marks_of
from grainstack.summary.summary_request import Purpose
from grainstack.summary.table import Flag

_SMALLER = 0.9  # of the usual type: the figures of bars come first
_COLORS = ("#ac430e", "#7f2117", "#835cbe", INK)


def second_needs(cells: ChartCells) -> AxisNeeds | None:
    """What the second axis has to show; None without a second measure."""
    column = cells.table.column_for(Purpose.SECOND)
    if column is None:
        return None
    values = [value for _, _, value, _ in _points(cells)]
    if not values:
        return None
    whole = column.figure.statistic.name == "count"
    style = figures_of(column).style
    return AxisNeeds(min(values), max(values), column.is_share, column.unit == "%", whole, style)


def second_color(taken: Collection[str]) -> str:
    """A strong colour that no bar has."""
    return next((color for color in _COLORS if color not in taken), INK)


def joined(cells: ChartCells) -> bool:
    """Whether the dots are joined: categories follow one another by nature, so a line between them means something."""
    return cells.table.categories[-1].variable.is_ordered


def second_marks(cells: ChartCells, needs: AxisNeeds, plots: Plots, style: Style, color: str) -> list[Mark]:
    """The dots, and the line that joins those of neighbours in one group.

    Args:
        cells: The figures.
        needs: The second axis as asked for.
        plots: The plots in place.
        style: Sizes and strokes.
        color: The colour of the second measure.
    """
    write = needs.write
    marks: list[Mark] = []
    dots: list[Mark] = []
    before: tuple[int, int, float, float] | None = None
    for panel, slot, value, flags in _points(cells):
        plane = plots.second_planes[panel]
        x, y = plane.point(plane.middle(slot), value)
        key = cells.slot_key(panel, slot, ("*second",))
        fill, rim = (PAPER, color) if flags else (color, PAPER)  # hollow where it rests on few records
        tip = f"{write(value)}{marks_of(flags)}"
        dots.append(Dot(x, y, style.dot, fill, MarkRole.SECOND_DOT, key, tip, outline=rim))
        same = before is not None and before[0] == panel and cells.slots[before[1]].group == cells.slots[slot].group
        if before is not None and same and before[1] == slot - 1 and joined(cells):
            marks.append(Line(before[2], before[3], x, y, PAPER, style.line * 2.4, MarkRole.HALO))
            marks.append(Line(before[2], before[3], x, y, color, style.line, MarkRole.SECOND, key))
        before = (panel, slot, x, y)
    return [*marks, *dots]


def second_figures(marks: Sequence[Mark], style: Style, color: str, *, lying: bool) -> list[Mark]:
    """The figure of each dot: over it on upright bars, right of it beside lying ones.

    Args:
        marks: What `second_marks` gave.
        style: Sizes and strokes.
        color: The colour of the second measure.
        lying: Whether bars lie.
    """
    size = max(style.value * _SMALLER, style.least_type)
    away = style.dot + style.gap * 0.6
    texts: list[Mark] = []
    for dot in marks:
        if isinstance(dot, Dot):
            x, y, anchor = (
                (dot.x + away, dot.y + size * MIDLINE, Anchor.START) if lying else (dot.x, dot.y - away, Anchor.MIDDLE)
            )
            wide = width(dot.tip, size, Weight.SEMIBOLD)
            role = MarkRole.SECOND_VALUE
            texts.append(Text(x, y, dot.tip, size, wide, color, role, Weight.SEMIBOLD, anchor, key=dot.key))
    return [*grounds(texts, style), *texts]


def _points(cells: ChartCells) -> list[tuple[int, int, float, Flag]]:
    """Panel, slot and value of every dot, and what is to be said of it."""
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
