"""Legends that stand among the bars: in a free corner of the plot, or as names at the segments of the first bar."""

from collections.abc import Sequence

from grainstack.chart.frame.legend import Legend, column_marks
from grainstack.chart.frame.plane import Box
from grainstack.chart.frame.plots import Plots
from grainstack.chart.look.color import INK
from grainstack.chart.look.style import Style
from grainstack.chart.scene import Anchor, Dot, Key, Line, Mark, MarkRole, Rect, Text
from grainstack.chart.writing.text import width

_LEGEND_ROLES = (MarkRole.LEGEND, MarkRole.LEGEND_SWATCH)


def inside_legend(legend: Legend, plots: Plots, marks: Sequence[Mark], style: Style) -> list[Mark] | None:
    """The legend in a corner of the first plot that nothing else uses, or None when there is no such corner.

    Args:
        legend: What it names.
        plots: The plots in place.
        marks: What is drawn already.
        style: Sizes and strokes.
    """
    widest = max(width(name, style.legend) for name in legend.names)
    wide = style.legend + style.gap + widest
    tall = len(legend.names) * style.legend * 2.0
    frame = plots.planes[0].frame
    rim = style.gap
    taken = [box for mark in marks if (box := _box(mark)) is not None]
    for left in (frame.right - wide - rim, frame.left + rim):
        for top in (frame.top + rim, frame.bottom - tall - rim):
            room = Box(left, top, left + wide, top + tall)
            if frame.holds(room) and not any(room.meets(box) for box in taken):
                return column_marks(legend, style, Box(left, top, left + wide + 1, top + tall))
    return None


def direct_names(legend: Legend, plots: Plots, marks: Sequence[Mark], style: Style, picture_width: float) -> list[Mark]:
    """The marks with the legend written over the segments of the first bar, where every name has its place there.

    Args:
        legend: What it names.
        plots: The plots in place.
        marks: What is drawn already.
        style: Sizes and strokes.
        picture_width: The width of the picture, in points.
    """
    kept = [mark for mark in marks if mark.role not in _LEGEND_ROLES]
    first = plots.planes[0]
    if not legend.names or not first.horizontal:
        return list(marks)
    bars = [mark for mark in marks if isinstance(mark, Rect) and mark.role == MarkRole.BAR]
    top = min((bar.y for bar in bars), default=0.0)
    y = first.frame.top - style.gap * 1.2
    free = 0.0
    found: list[Mark] = []
    segments = {_series(bar.key): bar for bar in bars if abs(bar.y - top) < 0.01}
    named = sorted(
        legend.entries, key=lambda entry: segments[_series(entry[2])].x if _series(entry[2]) in segments else 0.0
    )
    for name, _, key in named:
        bar = segments.get(_series(key))
        wide = width(name, style.legend)
        if bar is None:
            return list(marks)
        x = bar.x + bar.width / 2
        x = min(max(x, wide / 2 + style.margin / 2), picture_width - wide / 2 - style.margin / 2)
        if x - wide / 2 < free or abs(x - bar.x - bar.width / 2) > max(bar.width, wide) / 2:
            return list(marks)
        free = x + wide / 2 + style.gap
        found.append(Text(x, y, name, style.legend, wide, INK, MarkRole.LEGEND, anchor=Anchor.MIDDLE, key=bar.key))
    return [*kept, *found]


def _series(key: Key) -> tuple[str, ...]:
    """What tells segments of one bar apart."""
    return key.series or key.category


def _box(mark: Mark) -> Box | None:
    if isinstance(mark, Text):
        return Box(*mark.box)
    if isinstance(mark, Rect):
        return Box(mark.x, mark.y, mark.x + mark.width, mark.y + mark.height)
    if isinstance(mark, Dot):
        return Box(mark.x - mark.radius, mark.y - mark.radius, mark.x + mark.radius, mark.y + mark.radius)
    if isinstance(mark, Line) and mark.role != MarkRole.GRID:
        xs, ys = sorted((mark.x1, mark.x2)), sorted((mark.y1, mark.y2))
        return Box(xs[0], ys[0], xs[1], ys[1])
    return None
