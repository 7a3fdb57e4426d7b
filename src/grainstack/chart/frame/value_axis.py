"""The value axis: grid lines, round ticks, and its title."""

import math
import re
from math import ceil, floor, isnan, nan

from msgspec import Struct, field
from msgspec.structs import replace

from grainstack.chart.chart_requests import AxisRequest
from grainstack.chart.frame.plane import Plane
from grainstack.chart.frame.ticks import Ticks, ticks_for, ticks_within
from grainstack.chart.frame.value_labels import grounds
from grainstack.chart.look.measures import LOOSE_LINE, ROUNDING
from grainstack.chart.look.palette import GRID, MUTED
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Anchor, Line, Mark, MarkRole, Text
from grainstack.chart.writing.numbers import NumberStyle
from grainstack.chart.writing.text import shortened, width

_TINY = 1e-12  # of what is shown: ends of an axis that differ by no more are one
_TOP = -1e9  # points: above anything that has been written
_TO_TICKS = 1.5  # gaps: between numbers and the axis they stand at
_MOST_DECIMALS = 2  # of ticks that a typed range puts at those of the first axis, round or not
_NUMBER_MIDDLE = 0.33  # of the type size: half of a number's height
_BETWEEN_NUMBERS = 0.3  # of the type size: what keeps two numbers of an axis apart
_TITLE_BELOW = 2.5  # type sizes: the title under the numbers of an axis
_OVER_LINE = 0.26  # type sizes: the name of a line stands over its end, letters that hang below theirs too
_REFERENCE = 1.1  # whiskers: a reference line is a little stronger
_MOST_NAME = 0.6  # of the width: the name of a reference line
_NAME_ROW = 1.2  # type sizes: names of lines nearer than that would touch
_BESIDE_LINE = (-0.45, 1.1)  # type sizes: a name over its line, and one under it where the next line is near
_MOST_OF_TWO_SIDES = 20  # intervals: beyond it, an axis is one-sided
_STEPS = (1, 2, 2.5, 5)  # times powers of ten: what people count in


class AxisNeeds(Struct, frozen=True):
    """What a value axis has to show.

    Attributes:
        low: The lowest value drawn.
        high: The highest.
        share: Whether values are shares, which are written in percent.
        percent: Whether the first and last tick carry a percent sign.
        whole: Whether only whole numbers make sense, as for counts.
        write: How figures are written.
        request: A range and ticks asked for.
        references: The values of reference lines, with their labels, which may be empty.
        absolute: Whether values are written without their sign, as on a chart with two sides.
        continues_to: How far the axis goes on without ticks, for figures that stand apart; NaN where it does not.
    """

    low: float
    high: float
    share: bool
    percent: bool
    whole: bool
    write: NumberStyle
    request: AxisRequest = field(default_factory=AxisRequest)
    references: tuple[tuple[float, str], ...] = ()
    absolute: bool = False
    continues_to: float = nan

    @property
    def scale(self) -> float:
        """What a value is multiplied by before it is written."""
        return 100.0 if self.share else self.write.scale


class ValueAxis(Struct, frozen=True):
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
        return max((width(label, style.tick) for label in self.labels), default=0.0)


def value_axis(needs: AxisNeeds, most: int) -> ValueAxis:
    """Round ticks from at or below the lowest to at or above the highest value, unless a range was asked for.

    Args:
        needs: What it has to show.
        most: The largest number of intervals.
    """
    scale, request = needs.scale, needs.request
    low, high = min(needs.low, *_marked(needs)), max(needs.high, *_marked(needs))
    listed = request.tick_values if len(request.tick_values) > 1 else ()
    if len(request.tick_values) == 1:
        most = max(int(request.tick_values[0]), 1)
    if request.limits is not None:
        low, high = (limit / scale for limit in request.limits)
        ticks = ticks_within(low * scale, high * scale, most)
    elif needs.absolute and low < 0 < high:  # as long as its bars: ticks within tell both sides
        ticks = _ticks_of_two_sides(low * scale, high * scale, most)
    else:
        ticks = ticks_for(low * scale, high * scale, most)
    if needs.whole and ticks.decimals and not needs.write.pattern and needs.write.scale == 1:
        lowest = floor(ticks.values[0])
        ticks = Ticks(tuple(float(n) for n in range(lowest, max(ceil(high), lowest + 1) + 1)), 0)
    if listed:
        ticks = Ticks(listed, max(_decimals(value) for value in listed))
    if not isnan(needs.continues_to):
        ticks = Ticks(tuple(value for value in ticks.values if value <= high * scale), ticks.decimals, ticks.power)
    values = tuple(value / scale for value in ticks.values)
    first, last = (low, high) if request.limits is not None else (min(low, values[0]), max(high, values[-1]))
    inside = [place for place, value in enumerate(values) if first - _TINY <= value <= last * (1 + _TINY) + _TINY]
    labels = _labels(needs, ticks)
    last = last if isnan(needs.continues_to) else max(last, needs.continues_to)
    return ValueAxis(first, last, tuple(values[place] for place in inside), tuple(labels[place] for place in inside))


def _ticks_of_two_sides(low: float, high: float, most: int) -> Ticks:
    """Round values within a range around zero, at least one on each side."""
    for intervals in range(most, _MOST_OF_TWO_SIDES):
        covering = ticks_for(low, high, intervals)
        inside = tuple(value for value in covering.values if low <= value <= high)
        if inside and min(inside) < 0 < max(inside):
            return Ticks(inside, covering.decimals, covering.power)
    return ticks_for(low, high, most)


def axis_span(needs: AxisNeeds) -> tuple[float, float]:
    """From where to where an axis runs before its ends are rounded to ticks: as asked, else over all that is drawn."""
    if needs.request.limits is not None:
        low, high = needs.request.limits
        return low / needs.scale, high / needs.scale
    return min(needs.low, *_marked(needs)), max(needs.high, *_marked(needs))


def matching_axis(needs: AxisNeeds, other: ValueAxis, *, from_zero: bool) -> ValueAxis:
    """A second axis whose ticks stand at those of the first, so that both share the grid.

    Args:
        needs: What it has to show.
        other: The first axis, with evenly spaced ticks.
        from_zero: Whether zero stands where it stands on the first axis; otherwise the range is fitted.
    """
    intervals = max(len(other.ticks) - 1, 1)
    if needs.request.limits is not None:
        first, last = needs.request.limits
        between = tuple(first + (last - first) * place / intervals for place in range(intervals + 1))
        ticks = Ticks(between, min(max(map(_decimals, between)), _MOST_DECIMALS))
        values = tuple(value / needs.scale for value in between)
        return ValueAxis(values[0], values[-1], values, tuple(_labels(needs, ticks)))
    below = sum(tick < 0 for tick in other.ticks) if from_zero else 0
    scale = needs.scale
    low, high = needs.low * scale, needs.high * scale
    if from_zero:
        low, high = min(low, 0.0), max(high, 0.0)
    rough = max((high - low) / intervals, abs(high) * ROUNDING, _TINY)
    for step, decimals in _round_steps(rough):
        start = -below * step if from_zero else step * ((low / step) // 1)
        if start <= low + step * ROUNDING and start + intervals * step >= high - step * ROUNDING:
            values = tuple(round(start + step * n, decimals + 2) for n in range(intervals + 1))
            ticks = Ticks(values, decimals)
            labels = tuple(_labels(needs, ticks))
            return ValueAxis(values[0] / scale, values[-1] / scale, tuple(v / scale for v in values), labels)
    return value_axis(needs, intervals)


def grid_marks(axis: ValueAxis, plane: Plane, style: Style) -> list[Line]:
    """Quiet lines across the plot; the one at zero is firmer when bars grow both ways.

    Args:
        axis: The settled axis.
        plane: Where the plot lies, in points.
        style: Sizes and strokes.
    """
    marks = []
    reach = style.gap
    for value in axis.ticks:
        place = plane.value(value)
        stroke = MUTED if value == 0 and axis.low < 0 else GRID
        if plane.horizontal:
            marks.append(
                Line(place, plane.box.top - reach, place, plane.box.bottom + reach, stroke, style.grid, MarkRole.GRID)
            )
        else:
            marks.append(Line(plane.box.left, place, plane.box.right, place, stroke, style.grid, MarkRole.GRID))
    return marks


def tick_marks(axis: ValueAxis, plane: Plane, style: Style) -> list[Mark]:
    """Tick labels under horizontal bars or left of vertical ones; those that would meet the one before are left out.

    Args:
        axis: The settled axis.
        plane: Where the plot lies, in points.
        style: Sizes and strokes.
    """
    marks: list[Mark] = []
    free = _TOP
    for value, label in zip(axis.ticks, axis.labels, strict=True):
        place = plane.value(value)
        wide = width(label, style.tick)
        if plane.horizontal:
            x, y, anchor = place, plane.box.bottom + style.gap + style.tick * 1.0, Anchor.MIDDLE
            start, end = place - wide / 2, place + wide / 2
        else:
            x, y, anchor = plane.frame.left - style.gap * _TO_TICKS, place + style.tick * _NUMBER_MIDDLE, Anchor.END
            start, end = -place - style.tick * 0.5, -place + style.tick * 0.5
        if start < free:
            continue
        free = end + style.tick * _BETWEEN_NUMBERS
        marks.append(Text(x, y, label, style.tick, wide, MUTED, MarkRole.TICK, anchor=anchor))
    return marks


def title_mark(title: str, plane: Plane, style: Style, ends: tuple[float, float]) -> list[Text]:
    """The axis title: under the ticks of horizontal bars, above the ticks of vertical ones; always level.

    Args:
        title: Its words; without any there is no mark.
        plane: The plot.
        style: Type sizes.
        ends: Where it starts above vertical bars, and how far it may reach, both an x in points.
    """
    if not title:
        return []
    if plane.horizontal:
        x, y = plane.box.left, plane.box.bottom + style.gap + style.tick * _TITLE_BELOW
    else:
        x, y = ends[0], plane.frame.top - style.tick * LOOSE_LINE
    content = shortened(title, style.tick, ends[1] - x)
    tip = "" if content == title else title
    return [Text(x, y, content, style.tick, width(content, style.tick), MUTED, MarkRole.VALUE_TITLE, tip=tip)]


def reference_marks(needs: AxisNeeds, plane: Plane, style: Style) -> list[Mark]:
    """Lines across the plot at reference values, each with its label at its far end, on a plate over what is there.

    Args:
        needs: The axis with its references.
        plane: Where the plot lies, in points.
        style: Sizes and strokes.
    """
    lines = [(plane.value(value), label) for value, label in needs.references if plane.low <= value <= plane.high]
    box, size = plane.box, style.tick
    marks: list[Mark] = []
    plates: list[Mark] = []
    labels: list[Mark] = []
    for place, label in lines:
        thick = style.whisker * _REFERENCE
        if plane.horizontal:
            marks.append(Line(place, box.top - style.gap, place, box.bottom, MUTED, thick, MarkRole.REFERENCE))
        else:
            marks.append(Line(box.left, place, box.right, place, MUTED, thick, MarkRole.REFERENCE))
        content = shortened(label, size, box.width * _MOST_NAME) if label else ""
        if not content:
            continue
        wide, tip = width(content, size), "" if content == label else label
        if plane.horizontal:
            x = min(max(place, plane.frame.left + wide / 2), plane.frame.right - wide / 2)
            y, anchor = box.top - style.gap - thick - size * _OVER_LINE, Anchor.MIDDLE
        else:  # over its line, or under it where another line runs just above
            crowded = any(0 < place - other < size * _NAME_ROW for other, _ in lines)
            x, y, anchor = box.right, place + size * _BESIDE_LINE[crowded], Anchor.END
        text = Text(x, y, content, size, wide, MUTED, MarkRole.REFERENCE_LABEL, anchor=anchor, tip=tip)
        plates += [] if plane.horizontal else grounds([text], style)
        labels.append(text)
    return [*plates, *marks, *labels]  # no plate lies on a line


def _labels(needs: AxisNeeds, ticks: Ticks) -> list[str]:
    locale = needs.write.locale or ("en" if needs.write.pattern else "")
    write = NumberStyle(1.0, ticks.decimals, ticks.power, locale=locale)
    values = [abs(value) if needs.absolute else value for value in ticks.values]
    labels = [write(value) for value in values]
    ends = {0, len(labels) - 1}
    if needs.write.carries_unit and not ticks.power:
        pattern = _with_decimals(needs.write.pattern, ticks.decimals)
        full = replace(needs.write, scale=0.01 if "%" in pattern else 1.0, pattern=pattern)
        return [full(value) for value in values]
    if needs.percent:
        return [f"{label}%" if place in ends else label for place, label in enumerate(labels)]
    return labels


def _with_decimals(pattern: str, count: int) -> str:
    """A number pattern with so many decimals: as many as ticks need, the same at all of them."""
    decimals = f".{'0' * count}" if count else ""
    if re.search(r"\.[0#]", pattern):
        return re.sub(r"\.[0#]+", decimals, pattern)
    return re.sub(r"(?<=[0#])(?=[^0#]*$)", decimals, pattern, count=1)


def _marked(needs: AxisNeeds) -> list[float]:
    """The values of reference lines, or the lowest where there are none."""
    return [value for value, _ in needs.references] or [needs.low]


def _decimals(value: float) -> int:
    text = f"{value:.6f}".rstrip("0")
    return len(text.partition(".")[2])


def _round_steps(rough: float) -> list[tuple[float, int]]:
    """Round steps at or above a size with the decimals they need, rising."""
    power = math.floor(math.log10(rough))
    found = []
    for exponent in (power, power + 1, power + 2):
        for factor in _STEPS:
            step = factor * 10.0**exponent
            if step >= rough * (1 - ROUNDING):
                found.append((step, max(0, (1 if factor == 2.5 else 0) - exponent)))
    return found
