"""A second measure: dots in one strong colour on an axis of their own, joined where categories have an order."""

from collections.abc import Collection

from grainstack.chart.cells import ChartCells
from grainstack.chart.frame.plots import Plots
from grainstack.chart.frame.value_axis import AxisNeeds
from grainstack.chart.look.color import INK, PAPER
from grainstack.chart.look.style import Style
from grainstack.chart.scene import Dot, Line, Mark, MarkRole
from grainstack.chart.writing.figures import figures_of
from grainstack.summary.request import Purpose

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
    for panel, slot, value, unsure in _points(cells):
        plane = plots.second_planes[panel]
        x, y = plane.point(plane.middle(slot), value)
        key = cells.slot_key(panel, slot, ("*second",))
        fill, rim = (PAPER, color) if unsure else (color, PAPER)  # hollow where it rests on few records
        dots.append(Dot(x, y, style.dot, fill, MarkRole.SECOND_DOT, key, write(value), outline=rim))
        same = before is not None and before[0] == panel and cells.slots[before[1]].group == cells.slots[slot].group
        if before is not None and same and before[1] == slot - 1 and joined(cells):
            marks.append(Line(before[2], before[3], x, y, PAPER, style.line * 2.4, MarkRole.HALO))
            marks.append(Line(before[2], before[3], x, y, color, style.line, MarkRole.SECOND, key))
        before = (panel, slot, x, y)
    return [*marks, *dots]


def _points(cells: ChartCells) -> list[tuple[int, int, float, bool]]:
    """Panel, slot and value of every dot, and whether it rests on few records."""
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
                found.append((panel, slot, value, bool(column.flags[row])))
    return found
