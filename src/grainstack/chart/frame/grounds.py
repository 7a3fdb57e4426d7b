"""Plain patches behind texts that stand on lines, dots or a pattern, so that they can be read."""

from collections.abc import Sequence

from grainstack.chart.look.color import PAPER
from grainstack.chart.look.style import Style
from grainstack.chart.scene import Mark, MarkRole, Rect, Text

_RIM = 0.4  # of the gap between a mark and its text: the patch is seen to belong to the text


def grounds(marks: Sequence[Mark], style: Style) -> list[Rect]:
    """A patch of paper behind each text on paper; texts in a colour of their own stand on that already.

    Args:
        marks: The texts in place.
        style: Sizes and strokes.
    """
    rim = style.gap * _RIM
    patches = []
    for mark in marks:
        if isinstance(mark, Text) and mark.ground == PAPER:
            left, top, right, bottom = mark.box
            size = right - left + 2 * rim, bottom - top + 2 * rim
            patches.append(Rect(left - rim, top - rim, *size, PAPER, MarkRole.GROUND, mark.key))
    return patches
