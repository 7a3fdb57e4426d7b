"""What stands in the way of a figure beyond a bar: a dot of the second measure, or a reference line."""

from collections.abc import Sequence

from msgspec.structs import replace

from grainstack.chart.bars.bar_arrangement import Bar
from grainstack.chart.cells import ChartCells
from grainstack.chart.frame.plane import Box, Plane
from grainstack.chart.frame.plot_needs import Plots
from grainstack.chart.frame.second_axis import second_dot
from grainstack.chart.frame.value_axis import AxisNeeds, reference_marks
from grainstack.chart.frame.value_labels import ValueLabel, inside_mark
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Line, Mark, Text

_CLEAR = 0.3  # gaps: between a figure and a line that is no figure


def obstacles_at(bar: Bar, cells: ChartCells, plots: Plots, axis: AxisNeeds, style: Style) -> list[Box]:
    """The rooms that reference lines and the dot of the second measure take in the plot of a bar.

    Args:
        bar: The bar.
        cells: The figures of the chart.
        plots: The plots in place.
        axis: The value axis, with its reference values.
        style: Sizes and strokes.
    """
    half = style.gap * _CLEAR
    found = []
    for line in reference_marks(axis, plots.planes[bar.cell.panel], style) if axis.request.references else []:
        if isinstance(line, Line):
            (left, right), (top, bottom) = sorted((line.x1, line.x2)), sorted((line.y1, line.y2))
            found.append(Box(left - half, top - half, right + half, bottom + half))
    dot = second_dot(cells, plots, style, bar.cell) if plots.second_planes else None
    return [*found, *([dot] if dot else [])]


def meet(obstacles: Sequence[Box], texts: Sequence[Text]) -> bool:
    """Whether a text stands where something else does."""
    return any(one.meets(Box(*text.box)) for one in obstacles for text in texts)


def within_end(  # noqa: PLR0913, PLR0917 - a figure, its bar, and all that is in its way
    bar: Bar, plane: Plane, box: Box, label: ValueLabel, obstacles: Sequence[Box], style: Style
) -> list[Mark]:
    """The figure of a bar within its end, or before whatever crosses that; nothing where the bar cannot hold it.

    Args:
        bar: The bar.
        plane: The plot.
        box: The bar in points.
        label: Its figure.
        obstacles: What stands in the way.
        style: Sizes.
    """
    end = (("bottom", "top"), ("left", "right"))[plane.horizontal][not bar.down]
    for obstacle in (one for one in obstacles if one.meets(box)):
        free = {
            "left": max(box.left, obstacle.right),
            "right": min(box.right, obstacle.left),
            "top": max(box.top, obstacle.bottom),
            "bottom": min(box.bottom, obstacle.top),
        }
        box = replace(box, **{end: free[end]})
    mark = inside_mark(label, box, style, at_end=end)
    return [mark] if mark else []
