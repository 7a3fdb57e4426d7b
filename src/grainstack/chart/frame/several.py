"""Charts of several figures in one picture, each on an axis of its own, under one title and one legend."""

from collections.abc import Sequence
from dataclasses import replace

from grainstack.chart.frame.category_chart import CategoryChart
from grainstack.chart.frame.frame import framed
from grainstack.chart.frame.legend import legend_marks
from grainstack.chart.frame.plane import Box
from grainstack.chart.frame.plots import grid_of_panels, panel_style
from grainstack.chart.request import LegendRequest
from grainstack.chart.scene import Mark, Scene
from grainstack.errors import RequestError
from grainstack.requests import Requests
from grainstack.speech import option
from grainstack.summary.table import SummaryTable


def scene_of_several(charts: Sequence[CategoryChart], table: SummaryTable, request: Requests, alt: str) -> Scene:
    """The charts side by side or under each other, as the picture has room.

    Args:
        charts: The charts; all have the same categories and series.
        table: The table of all figures, for title and notes.
        request: Words, size and style.
        alt: What the picture shows, in words.

    Raises:
        RequestError: A legend at a place that a single chart has.
    """
    if request[LegendRequest].legend not in ("auto", "top", "none"):
        raise RequestError(
            f"{option('legend')} {request[LegendRequest].legend} belongs to a single chart; here one is for all.",
            f"Use {option('legend')} top or none.",
        )
    frame = framed(table, request, list(dict.fromkeys(note for chart in charts for note in chart.notes)))
    marks: list[Mark] = []
    body, legend = frame.body, charts[0].legend("none" if request[LegendRequest].legend == "none" else "top")
    if legend.visible:
        entries, top = legend_marks(legend, frame.style, body)
        marks, body = [*entries], replace(body, top=top + frame.style.gap)
    columns, rows = grid_of_panels(len(charts), None, body)
    style = panel_style(frame.style, columns, rows)
    between, under = style.gap * 5, style.tick * 1.5
    wide = (body.width - (columns - 1) * between) / columns
    tall = (body.height - (rows - 1) * under) / rows
    for place, chart in enumerate(charts):
        row, column = divmod(place, columns)
        x, y = body.left + column * (wide + between), body.top + row * (tall + under)
        marks += chart.within(Box(x, y, x + wide, y + tall), style)
    return frame.scene(marks, alt)
