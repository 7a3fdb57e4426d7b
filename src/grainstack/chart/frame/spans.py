"""Stretches of the category axis that are shaded, under everything else, with a note where there is room."""

from collections.abc import Sequence

from msgspec.structs import replace

from grainstack.chart.annotation_request import Annotation
from grainstack.chart.cells import ChartCells
from grainstack.chart.frame.plane import Box, Plane
from grainstack.chart.look.palette import GRID
from grainstack.chart.marks import Mark, MarkRole, Rect
from grainstack.errors import RequestError, nearest
from grainstack.option_names import option

_SHADE = 0.5  # how solid: grid lines are still seen in it


def slots_of(one: Annotation, cells: ChartCells) -> tuple[int, int]:
    """The first and the last category of a span.

    Args:
        one: The span.
        cells: The figures of the chart.

    Raises:
        RequestError: A category that is not shown, or that stands before the first.
    """
    first, last = one.at
    places = []
    for name, way in ((first, 1), (last, -1)):
        fitting = [place for place, slot in enumerate(cells.slots) if name in slot.labels]
        if not fitting:
            every = [label for slot in cells.slots for label in slot.labels]
            raise RequestError(f"{option('span')}: no category `{name}` is shown.", nearest(name, every))
        places.append(fitting[0] if way > 0 else fitting[-1])
    if places[0] > places[1]:
        raise RequestError(
            f"{option('span')}: `{last}` stands before `{first}`.", "Name the one that comes first first."
        )
    return places[0], places[1]


def box_of_span(slots: tuple[int, int], plane: Plane) -> Box:
    """Where a span lies in a plot, in points.

    Args:
        slots: Its first and last category.
        plane: The plot.
    """
    half, frame = plane.slot / 2, plane.frame
    start, end = plane.middle(slots[0]) - half, plane.middle(slots[1]) + half
    if plane.horizontal:
        return Box(frame.left, start, frame.right, end)
    return Box(start, frame.top, end, frame.bottom)


def span_marks(spans: Sequence[Annotation], cells: ChartCells, plane: Plane) -> list[Mark]:
    """The shades of one plot.

    Args:
        spans: What is shaded.
        cells: The figures of the chart.
        plane: The plot.

    Raises:
        RequestError: As `slots_of`.
    """
    return [_shade(box_of_span(slots_of(one, cells), plane)) for one in spans]


def with_shaded_grounds(marks: Sequence[Mark]) -> list[Mark]:
    """The marks with the paper under texts shaded where it lies in a span, so that it is no patch there.

    Args:
        marks: All marks of the plots, spans among them.
    """
    spans = [mark for mark in marks if mark.role is MarkRole.SPAN and isinstance(mark, Rect)]
    found: list[Mark] = []
    for mark in marks:
        found.append(mark)
        if mark.role is not MarkRole.GROUND or not isinstance(mark, Rect):
            continue
        for span in spans:
            left, top = max(mark.x, span.x), max(mark.y, span.y)
            right = min(mark.x + mark.width, span.x + span.width)
            bottom = min(mark.y + mark.height, span.y + span.height)
            if right > left and bottom > top:
                found.append(replace(_shade(Box(left, top, right, bottom)), role=MarkRole.GROUND))
    return found


def _shade(box: Box) -> Rect:
    return Rect(box.left, box.top, box.width, box.height, GRID, MarkRole.SPAN, opacity=_SHADE)
