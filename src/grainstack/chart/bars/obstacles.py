"""What stands in the way of a figure beyond a bar: a dot of the second measure, or a reference line."""

from collections.abc import Mapping, Sequence

from msgspec.structs import replace

from grainstack.chart.cells import ChartCells
from grainstack.chart.frame.plane import Box
from grainstack.chart.frame.plot_needs import Plots
from grainstack.chart.frame.second_axis import second_dots
from grainstack.chart.frame.value_axis import AxisNeeds, reference_marks
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Line, Text

_CLEAR = 0.3  # gaps: between a figure and a line that is no figure


def obstacles_of(
    cells: ChartCells, plots: Plots, axis: AxisNeeds, style: Style
) -> Mapping[tuple[int, int], Sequence[Box]]:
    """The rooms that reference lines and the dots of the second measure take, for each panel and slot.

    Args:
        cells: The figures of the chart.
        plots: The plots in place.
        axis: The value axis, with its reference values.
        style: Sizes and strokes.
    """
    half = style.gap * _CLEAR
    found: dict[tuple[int, int], list[Box]] = {}
    for panel, plane in enumerate(plots.planes):
        lines = []
        for line in reference_marks(axis, plane, style) if axis.references else []:
            if isinstance(line, Line):
                (left, right), (top, bottom) = sorted((line.x1, line.x2)), sorted((line.y1, line.y2))
                lines.append(Box(left - half, top - half, right + half, bottom + half))
        found |= {(panel, slot): [*lines] for slot in range(len(cells.slots))}
    for at, dot in second_dots(cells, plots, style).items():
        found[at].append(dot)
    return found


def meet(obstacles: Sequence[Box], texts: Sequence[Text]) -> bool:
    """Whether a text stands where something else does."""
    return any(one.meets(Box(*text.box)) for one in obstacles for text in texts)


def before_obstacles(box: Box, end: str, obstacles: Sequence[Box]) -> Box:
    """What is left of a bar before whatever crosses it towards its end.

    Args:
        box: The bar in points.
        end: The edge where it ends.
        obstacles: What stands in the way.
    """
    for obstacle in (one for one in obstacles if one.meets(box)):
        free = {
            "left": max(box.left, obstacle.right),
            "right": min(box.right, obstacle.left),
            "top": max(box.top, obstacle.bottom),
            "bottom": min(box.bottom, obstacle.top),
        }
        box = replace(box, **{end: free[end]})
    return box
