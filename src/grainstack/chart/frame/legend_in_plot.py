"""Legends that stand among the bars: in a free corner of the plot, or as names at the segments of the first bar."""

from collections.abc import Sequence

from grainstack.chart.frame.legend import Legend, column_marks
from grainstack.chart.frame.page import spaced
from grainstack.chart.frame.plane import Box
from grainstack.chart.frame.plot_needs import Plots
from grainstack.chart.look.color import INK
from grainstack.chart.look.measures import MIDLINE
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Anchor, Dot, Key, Line, Mark, MarkRole, Rect, Text
from grainstack.chart.writing.text import width

_TALLER = 1.15  # of a bar: lines of type as tall as bars are still apart, for capitals are lower than their line
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


def direct_names(
    legend: Legend, plots: Plots, marks: Sequence[Mark], style: Style, picture_width: float
) -> list[Mark] | None:
    """The marks with the legend written at the marks of one category, or None where not every name has its place there.

    Over the segments or dots of the first row; beside upright stacks right of the last one.

    Args:
        legend: What it names.
        plots: The plots in place.
        marks: What is drawn already.
        style: Sizes and strokes.
        picture_width: The width of the picture, in points.
    """
    kept = [mark for mark in marks if mark.role not in _LEGEND_ROLES]
    shapes = [box for mark in marks if (box := _shape(mark)) is not None]
    if not shapes:
        return None
    room = picture_width - style.margin / 2
    if not plots.horizontal:
        found = _beside_last(legend, shapes, style, room)
    else:
        found = _over_first_row(legend, plots, shapes, style, room) or _after_first_bars(
            legend, plots, kept, style, room
        )
    return [*kept, *found] if found else None


def _over_first_row(
    legend: Legend, plots: Plots, shapes: Sequence[tuple[Key, Box]], style: Style, right: float
) -> list[Mark]:
    """The names in a line over the first row, in the order of its marks; none where they would not all fit."""
    middle = plots.planes[0].middle(0)
    row = {
        _series(key): box for key, box in shapes if abs((box.top + box.bottom) / 2 - middle) < plots.planes[0].slot / 2
    }
    y = plots.planes[0].frame.top - style.gap * 1.2
    free = 0.0
    found: list[Mark] = []
    entries = [entry for entry in legend.entries if _series(entry[2]) in row]
    for name, _, key in sorted(entries, key=lambda entry: row[_series(entry[2])].left):
        box = row[_series(key)]
        wide, at = width(name, style.legend), (box.left + box.right) / 2
        x = max(min(max(at, wide / 2 + style.margin / 2), right - wide / 2), free + wide / 2)
        if x + wide / 2 > right or abs(x - at) > max(box.width, wide) / 2:
            return []
        free = x + wide / 2 + style.gap
        found.append(Text(x, y, name, style.legend, wide, INK, MarkRole.LEGEND, anchor=Anchor.MIDDLE, key=key))
    return found if len(entries) == len(legend.names) else []


def _after_first_bars(legend: Legend, plots: Plots, marks: Sequence[Mark], style: Style, right: float) -> list[Mark]:
    """The names after the bars of the first category and their figures; none where they would not all fit."""
    plane = plots.planes[0]
    bars = [mark for mark in marks if isinstance(mark, Rect) and mark.role == MarkRole.BAR]
    row = {_series(bar.key): bar for bar in bars if abs(bar.y + bar.height / 2 - plane.middle(0)) < plane.slot / 2}
    if len({bar.y for bar in row.values()}) < len(legend.names):
        return []  # segments of one bar have no end of their own
    found: list[Mark] = []
    for name, _, key in legend.entries:
        bar = row[_series(key)]
        size = min(style.legend, bar.height * _TALLER)
        ends = [Box(*mark.box).right for mark in marks if isinstance(mark, Text) and mark.key == bar.key]
        x, wide = max([bar.x + bar.width, *ends]) + style.gap, width(name, size)
        if size < style.least_type or x + wide > right:
            return []
        y = bar.y + bar.height / 2 + size * MIDLINE
        found.append(Text(x, y, name, size, wide, INK, MarkRole.LEGEND, key=key))
    return found


def _beside_last(legend: Legend, shapes: Sequence[tuple[Key, Box]], style: Style, right: float) -> list[Mark]:
    """The names right of the last stack, each at the height of its segment; none where they would not all fit."""
    start = max(box.left for _, box in shapes)
    last = {_series(key): box for key, box in shapes if abs(box.left - start) < 0.01}
    entries = [entry for entry in legend.entries if _series(entry[2]) in last]
    x = max(box.right for box in last.values()) + style.gap
    if len(entries) < len(legend.names) or any(x + width(name, style.legend) > right for name, _, _ in entries):
        return []
    entries.sort(key=lambda entry: last[_series(entry[2])].top)
    boxes = [last[_series(key)] for _, _, key in entries]
    wanted = [(box.top + box.bottom) / 2 for box in boxes]
    places = spaced(wanted, style.legend * 1.1, min(box.top for box in boxes), max(box.bottom for box in boxes))
    if any(abs(one - other) > style.legend * 1.1 for one, other in zip(wanted, places, strict=True)):
        return []  # a name far from its segment would be read as another's
    return [
        Text(
            x, y + style.legend * MIDLINE, name, style.legend, width(name, style.legend), INK, MarkRole.LEGEND, key=key
        )
        for (name, _, key), y in zip(entries, places, strict=True)
    ]


def _shape(mark: Mark) -> tuple[Key, Box] | None:
    """A bar or dot with its cell."""
    if mark.role not in (MarkRole.BAR, MarkRole.DOT) or isinstance(mark, Text):
        return None
    box = _box(mark)
    return (mark.key, box) if box else None


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
