"""What the value axis of dots has to show, joined or not, and what is said of it."""

from grainstack.chart.cells import ChartCells
from grainstack.chart.chart_requests import AxisRequest, PanelAxesRequest
from grainstack.chart.frame.ticks import from_zero
from grainstack.chart.frame.value_axis import AxisNeeds
from grainstack.chart.reference_values import reference_values
from grainstack.chart.writing.figures_at import FiguresAt
from grainstack.language import phrase
from grainstack.requests import Requests


def extent(cells: ChartCells, panel: int | None = None) -> tuple[float, float]:
    """From where to where dots and whiskers reach, in a panel or all, from zero where they start near it."""
    known = [cell for cell in cells.cells if cell.known and panel in (None, cell.panel)]
    known = known or [cell for cell in cells.cells if cell.known]
    values = [value for cell in known for value in (cell.estimate, *((cell.low, cell.high) if cell.has_spread else ()))]
    return from_zero(min(values), max(values))


def axis_of(cells: ChartCells, request: Requests, figures: FiguresAt, panel: int | None = None) -> AxisNeeds:
    """What the value axis of dots has to show, of one panel or all, in a picture as in a terminal."""
    column = cells.column
    low, high = extent(cells, panel)
    return AxisNeeds(
        low=low,
        high=high,
        share=column.is_share,
        percent=column.unit == "%",
        whole=False,
        write=figures.first.style,
        request=request[AxisRequest],
        references=reference_values(request[AxisRequest], cells, figures.first, figures.scale),
    )


def dot_notes(cells: ChartCells, request: Requests) -> list[str]:
    """Sentences for the footnote of dots."""
    free = request.usual(PanelAxesRequest).panel_axes == "free"
    panels = range(len(cells.panels)) if free else (None,)
    ends = [request[AxisRequest].limits or extent(cells, panel) for panel in panels]
    cut = any(low > 0 or high < 0 for low, high in ends)
    words = (
        phrase("Value axes do not all start at zero.")
        if len(ends) > 1
        else phrase("The value axis does not start at zero.")
    )
    notes = [words] if cut else []
    low, high = ends[0]
    scale = FiguresAt(cells, request, ()).scale
    known = [cell.estimate * scale for cell in cells.cells if cell.known]
    if request[AxisRequest].limits and any(not low <= value <= high for value in known):
        notes.append(phrase("Dots at the edge stand for figures beyond the axis."))
    return notes
