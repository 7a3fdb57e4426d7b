"""Charts of several figures in one picture, each on an axis of its own, under one title and one legend."""

from collections import Counter
from collections.abc import Sequence

from msgspec.structs import replace

from grainstack.chart.annotation_request import AnnotationRequest
from grainstack.chart.chart_requests import LegendRequest
from grainstack.chart.frame.category_chart import CategoryChart
from grainstack.chart.frame.fallbacks import Draft, FallbackStep
from grainstack.chart.frame.frame import framed
from grainstack.chart.frame.left_out_advice import lacking
from grainstack.chart.frame.legend import legend_marks
from grainstack.chart.frame.plane import Box, grid_of_panels, panel_style
from grainstack.chart.frame.signs_drawn import explaining, explains
from grainstack.chart.marks import Mark, MarkRole
from grainstack.chart.writing.wording import Words, words_for
from grainstack.errors import RequestError
from grainstack.option_names import option
from grainstack.requests import Requests
from grainstack.summary.table import SummaryTable

_ROUNDS = 6  # of each chart: with signs at bases, at names, and without those that have no room
_NAMES = (MarkRole.CATEGORY,)


class SeveralCharts:
    """The charts side by side or under each other, as the picture has room.

    Args:
        charts: The charts; all have the same categories and series.
        table: The table of all figures, for title and notes.
        request: Words, size and style.
        alt: What the picture shows, in words.

    Raises:
        RequestError: A legend at a place that a single chart has.
    """

    def __init__(self, charts: Sequence[CategoryChart], table: SummaryTable, request: Requests, alt: str) -> None:
        self._charts, self._table, self._request, self._alt = charts, table, request, alt
        self._legend = request[LegendRequest].legend
        if request.usual(AnnotationRequest).annotations:
            raise RequestError(
                f"{option('annotation')} belongs to a single chart.", "Draw one figure, or leave it out."
            )
        if self._legend not in ("auto", "top", "none"):
            raise RequestError(
                f"{option('legend')} {self._legend} belongs to a single chart; here one is for all.",
                f"Use {option('legend', 'top')} or none.",
            )

    def draft(self, kept: FallbackStep) -> Draft:
        """The scene with as much around it as there is room for."""
        charts = self._charts
        notes = list(dict.fromkeys(note for chart in charts for note in chart.notes))
        words = words_for(self._table, self._request, notes)
        for _ in range(_ROUNDS):
            draft, marks = self._draft(words, kept)
            changed = [chart for chart in charts if chart.signs_changed(marks)]
            if not changed and explains(words, marks, _NAMES):
                break
            words = words if changed else explaining(words, marks, _NAMES)
        return draft

    def _draft(self, words: Words, kept: FallbackStep) -> tuple[Draft, list[Mark]]:
        charts = self._charts
        frame = framed(words, self._request, kept)
        marks: list[Mark] = []
        body, legend = frame.body, charts[0].legend("none" if self._legend == "none" or not kept.legend else "top")
        if legend.visible:
            entries, top = legend_marks(legend, frame.style, body)
            marks, body = [*entries], replace(body, top=top + frame.style.gap)
        columns, rows = grid_of_panels(len(charts), None, body)
        style = panel_style(frame.style, columns, rows)
        between, under = style.gap * 5, style.tick * 1.5
        wide = (body.width - (columns - 1) * between) / columns
        tall = (body.height - (rows - 1) * under) / rows
        shares, nameless = [], 0
        wanted: Counter[MarkRole] = Counter({MarkRole.LEGEND: len(legend.names) * (self._legend != "none")})
        for place, chart in enumerate(charts):
            row, column = divmod(place, columns)
            x, y = body.left + column * (wide + between), body.top + row * (tall + under)
            drawn, plots = chart.within(Box(x, y, x + wide, y + tall), style, kept)
            marks += drawn
            shares.append(min(plots.share(frame.size[1]) * rows, 1.0))
            nameless += dict(lacking(drawn, chart.wanted)).get(MarkRole.CATEGORY, 0)
        return Draft(lambda: frame.scene(marks, self._alt, wanted), min(shares), nameless), marks
