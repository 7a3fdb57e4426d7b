"""Whiskers: thin strokes with small caps, in ink, fainter where they lie on a dark bar."""

from grainstack.chart.frame.plane import Stand
from grainstack.chart.look.color import INK, text_on
from grainstack.chart.look.measures import FAINT
from grainstack.chart.look.style import Style
from grainstack.chart.scene import Line, MarkRole


def whisker_marks(stand: Stand, span: tuple[float, float], style: Style) -> list[Line]:
    """A whisker on plain ground.

    Args:
        stand: Where it stands.
        span: From which value to which it reaches.
        style: Strokes.
    """
    low, high = span
    middle, cap = stand.middle, _cap(stand, style)
    strokes = [(middle, low, middle, high), *((middle - cap, end, middle + cap, end) for end in span)]
    return [_line(stand, stroke, INK, style.whisker) for stroke in strokes]


def bar_whisker(stand: Stand, span: tuple[float, float], end: float, fill: str, style: Style) -> list[Line]:
    """A whisker at the end of a bar: as strong as ever beyond it, fainter and readable inside.

    Args:
        stand: Where the bar stands.
        span: From which value to which the whisker reaches.
        end: The value at which the bar ends.
        fill: The colour of the bar.
        style: Strokes.
    """
    low, high = span
    middle, cap = stand.middle, _cap(stand, style)
    tip = min(max(end, low), high)
    inner, outer = (low, high) if end >= 0 else (high, low)
    marks = [
        _line(stand, (middle, tip, middle, outer), INK, style.whisker),
        _line(stand, (middle - cap, outer, middle + cap, outer), INK, style.whisker),
    ]
    if tip != inner:
        color, thin = text_on(fill), style.whisker * FAINT
        beyond = inner * end < 0 or (end == 0 and inner != 0)  # past the foot of the bar, on plain ground again
        foot = 0.0 if beyond else inner
        marks.append(_line(stand, (middle, foot, middle, tip), color, thin))
        if beyond:
            marks.append(_line(stand, (middle, inner, middle, foot), INK, style.whisker))
        cap_color, strength = (INK, style.whisker) if beyond else (color, thin)
        marks.append(_line(stand, (middle - cap, inner, middle + cap, inner), cap_color, strength))
    return marks


def _cap(stand: Stand, style: Style) -> float:
    return min(style.cap, stand.thickness * 0.3)


def _line(stand: Stand, stroke: tuple[float, float, float, float], color: str, thickness: float) -> Line:
    first, start, second, end = stroke
    ends = *stand.plane.point(first, start), *stand.plane.point(second, end)
    return Line(*ends, color, thickness, MarkRole.WHISKER, stand.key)
