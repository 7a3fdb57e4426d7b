"""The legend: one line above the bars where it fits, in the order of the segments."""

from collections.abc import Sequence

from grainstack.chart.compose.geometry import Box
from grainstack.chart.palette import INK
from grainstack.chart.scene import ELLIPSIS, Key, Mark, Rect, Text
from grainstack.chart.style import Style
from grainstack.chart.text import shortened, width

_SWATCH = 0.98
_LINE = 2.0


def legend_marks(names: Sequence[str], colors: Sequence[str], style: Style, room: Box) -> tuple[list[Mark], float]:
    """Swatches with their names, in as many lines as they need.

    Args:
        names: The series, in the order of the segments.
        colors: Their colours.
        style: Type sizes.
        room: Where it stands; it starts at the left, where the bars start, and grows downwards.

    Returns:
        The marks, and the y under the last line.
    """
    size = style.legend
    swatch = size * _SWATCH
    marks: list[Mark] = []
    left, right = room.left, room.right
    x, y = left, room.top
    for name, color in zip(names, colors, strict=True):
        content = shortened(name, size, right - left - swatch - style.gap)
        taken = swatch + style.gap + width(content, size)
        if x > left and x + taken > right:
            x, y = left, y + size * _LINE
        key = Key(series=name)
        tip = name if content.endswith(ELLIPSIS) and content != name else ""
        marks.append(Rect(x, y, swatch, swatch, color, "legend-swatch", key))
        words_at = x + swatch + style.gap
        marks.append(
            Text(words_at, y + swatch * 0.85, content, size, width(content, size), INK, "legend", key=key, tip=tip)
        )
        x += taken + size * 2.2
    return marks, y + size * _LINE
