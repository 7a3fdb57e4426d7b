"""Whiskers: thin strokes with small caps, in ink, fainter where they lie on a dark bar."""

from grainstack.chart.frame.plane import CellPosition
from grainstack.chart.look.color import INK, text_on
from grainstack.chart.look.measures import FAINT
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Line, MarkRole


def whisker_marks(position: CellPosition, span: tuple[float, float], style: Style) -> list[Line]:
    """A whisker on plain ground.

    Args:
        position: Where it stands.
        span: From which value to which it reaches.
        style: Strokes.
    """
    low, high = span
    middle, cap = position.middle, _cap(position, style)
    strokes = [(middle, low, middle, high), *((middle - cap, end, middle + cap, end) for end in span)]
    return [_line(position, stroke, INK, style.whisker) for stroke in strokes]


def bar_whisker(position: CellPosition, span: tuple[float, float], end: float, fill: str, style: Style) -> list[Line]:
    """A whisker at the end of a bar: as strong as ever beyond it, fainter and readable inside.

    Args:
        position: Where the bar stands.
        span: From which value to which the whisker reaches.
        end: The value at which the bar ends.
        fill: The colour of the bar.
        style: Strokes.
    """
    low, high = span
    middle, cap = position.middle, _cap(position, style)
    tip = min(max(end, low), high)
    inner, outer = (low, high) if end >= 0 else (high, low)
    marks = [
        _line(position, (middle, tip, middle, outer), INK, style.whisker),
        _line(position, (middle - cap, outer, middle + cap, outer), INK, style.whisker),
    ]
    if tip != inner:
        color, thin = text_on(fill), style.whisker * FAINT
        past_foot = inner * end < 0 or (end == 0 and inner != 0)  # past the foot of the bar, on plain ground again
        foot = 0.0 if past_foot else inner
        marks.append(_line(position, (middle, foot, middle, tip), color, thin))
        if past_foot:
            marks.append(_line(position, (middle, inner, middle, foot), INK, style.whisker))
        cap_color, strength = (INK, style.whisker) if past_foot else (color, thin)
        marks.append(_line(position, (middle - cap, inner, middle + cap, inner), cap_color, strength))
    return marks


def _cap(position: CellPosition, style: Style) -> float:
    return min(style.cap, position.thickness * 0.3)


def _line(position: CellPosition, stroke: tuple[float, float, float, float], color: str, thickness: float) -> Line:
    first, start, second, end = stroke
    ends = *position.plane.point(first, start), *position.plane.point(second, end)
    return Line(*ends, color, thickness, MarkRole.WHISKER, position.key)
