"""The value axis: grid lines, round ticks, and its title."""

from dataclasses import dataclass

from grainstack.chart.compose.geometry import Plane
from grainstack.chart.numbers import NumberStyle
from grainstack.chart.palette import GRID, MUTED
from grainstack.chart.scene import Anchor, Line, Text
from grainstack.chart.style import Style
from grainstack.chart.text import shortened, width
from grainstack.chart.ticks import Ticks, ticks_for


@dataclass(frozen=True, slots=True)
class ValueAxis:
    """A value axis before it has a place.

    Attributes:
        low: The value at its start.
        high: The value at its end.
        ticks: The values marked.
        labels: What is written at each.
    """

    low: float
    high: float
    ticks: tuple[float, ...]
    labels: tuple[str, ...]

    def widest(self, style: Style) -> float:
        """The width of the widest tick label in points."""
        return max(width(label, style.tick) for label in self.labels)


def value_axis(low: float, high: float, most: int, unit: str, *, whole: bool) -> ValueAxis:
    """Round ticks from at or below `low` to at or above `high`.

    Args:
        low: The lowest value drawn.
        high: The highest.
        most: The largest number of intervals.
        unit: `%` for shares, which are written in percent with the sign on the first and last tick.
        whole: Whether only whole numbers make sense, as for counts.
    """
    scale = 100.0 if unit == "%" else 1.0
    ticks = ticks_for(low * scale, high * scale, most)
    if whole and ticks.decimals:
        ticks = Ticks(tuple(float(n) for n in range(int(ticks.values[0]), int(-(-high // 1)) + 1)), 0)
    write = NumberStyle(1.0, ticks.decimals, ticks.power)
    labels = [write(value) for value in ticks.values]
    if unit == "%":
        labels = [f"{label}%" if place in (0, len(labels) - 1) else label for place, label in enumerate(labels)]
    values = tuple(value / scale for value in ticks.values)
    return ValueAxis(values[0], values[-1], values, tuple(labels))


def grid_marks(axis: ValueAxis, plane: Plane, style: Style) -> list[Line]:
    """Quiet lines across the plot; the one at zero is firmer when bars grow both ways."""
    marks = []
    reach = style.gap
    for value in axis.ticks:
        place = plane.value(value)
        stroke = MUTED if value == 0 and axis.low < 0 else GRID
        if plane.horizontal:
            marks.append(
                Line(place, plane.box.top - reach, place, plane.box.bottom + reach, stroke, style.grid, "grid")
            )
        else:
            marks.append(Line(plane.box.left, place, plane.box.right, place, stroke, style.grid, "grid"))
    return marks


def tick_marks(axis: ValueAxis, plane: Plane, style: Style) -> list[Text]:
    """Tick labels under horizontal bars or left of vertical ones."""
    marks = []
    for value, label in zip(axis.ticks, axis.labels, strict=True):
        place = plane.value(value)
        if plane.horizontal:
            x, y, anchor = place, plane.box.bottom + style.gap + style.tick * 1.0, Anchor.MIDDLE
        else:
            x, y, anchor = plane.box.left - style.gap * 1.5, place + style.tick * 0.33, Anchor.END
        marks.append(Text(x, y, label, style.tick, width(label, style.tick), MUTED, "tick", anchor=anchor))
    return marks


def title_mark(title: str, plane: Plane, style: Style, right: float) -> list[Text]:
    """The axis title: under the ticks of horizontal bars, above the ticks of vertical ones; always level.

    Args:
        title: Its words; without any there is no mark.
        plane: The plot.
        style: Type sizes.
        right: How far it may reach, an x in points.
    """
    if not title:
        return []
    if plane.horizontal:
        x, y = plane.box.left, plane.box.bottom + style.gap + style.tick * 2.5
    else:
        x, y = style.margin, plane.frame.top - style.tick * 1.35
    content = shortened(title, style.tick, right - x)
    tip = "" if content == title else title
    return [Text(x, y, content, style.tick, width(content, style.tick), MUTED, "value-title", tip=tip)]
