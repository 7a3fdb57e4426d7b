"""Strokes on bars in the colour of the paper: where one is broken, and where two meet."""

from collections.abc import Sequence

from grainstack.chart.frame.plane import Box, Plane
from grainstack.chart.look.color import PAPER
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Line, Mark, MarkRole, Rect

_BREAK = (1.2, 2.0)  # steps from zero: the two strokes that show that a bar is cut
_BREAK_SLANT = 0.35  # of a step: how far they lean
_BREAK_STROKE = 1.2  # partings: they are seen in the thinnest bar
_LEAST_PARTED = 1.5  # partings: thinner segments would be more line than bar


def break_strokes(plane: Plane, box: Box, style: Style, *, at_end: bool = False) -> list[Line]:
    """Two slanted strokes across the foot of a bar that does not start at zero, or the end of one cut short.

    Args:
        plane: The plot.
        box: The bar.
        style: The gap that the strokes are placed by.
        at_end: Whether they stand at the end of the bar.
    """
    marks = []
    length = box.width if plane.horizontal else box.height
    step = min(style.gap, length / 4)
    for place in _BREAK:
        slant = step * _BREAK_SLANT
        if plane.horizontal:
            x = box.right - place * step if at_end else box.left + place * step
            ends = (x - slant, box.bottom + 1, x + slant, box.top - 1)
        else:
            y = box.top + place * step if at_end else box.bottom - place * step
            ends = (box.left - 1, y + slant, box.right + 1, y - slant)
        marks.append(Line(*ends, PAPER, style.part * _BREAK_STROKE, MarkRole.BREAK))
    return marks


def parting_lines(bars: Sequence[Mark], style: Style, *, along_x: bool) -> list[Line]:
    """Thin white lines where segments or neighbours meet.

    Args:
        bars: The bars.
        style: How thick the lines are.
        along_x: Whether bars meet from left to right; otherwise from top to bottom.
    """
    lines = []
    part = style.part
    for mark in bars:
        if not isinstance(mark, Rect) or min(mark.width, mark.height) < part * _LEAST_PARTED:
            continue
        right, bottom = mark.x + mark.width, mark.y + mark.height
        if along_x:
            lines.append(Line(right, mark.y, right, bottom, PAPER, part, MarkRole.PART, mark.key))
        else:
            lines.append(Line(mark.x, mark.y, right, mark.y, PAPER, part, MarkRole.PART, mark.key))
    return lines
