"""Pies for a terminal: one bar over the whole width, and a row per slice."""

from grainstack.chart.frame.rows import Rows
from grainstack.chart.look.house import look_of
from grainstack.chart.look.inks import Inks
from grainstack.chart.pies.arrangement import NOTHING, Pies
from grainstack.chart.pies.picture import slice_figure
from grainstack.chart.pies.request import PieRequest
from grainstack.chart.scene import MarkRole
from grainstack.chart.screen import Bar, Screen
from grainstack.chart.writing.columns import columns_wide, fitted
from grainstack.chart.writing.figures_at import FiguresAt
from grainstack.chart.writing.wording import Place, words_for
from grainstack.language import phrase
from grainstack.requests import Requests

_FIGURE_ROOM = 9  # columns kept for the figure at the right end, `100 %` with its marks and a gap


def pie_rows(pies: Pies, request: Requests, columns: int) -> Screen:
    """Each pie as one bar over the whole width, and under it a row per slice with its colour, name and figure.

    Args:
        pies: The slices.
        request: Labels, words and colours.
        columns: The width of the terminal.
    """
    cells = pies.cells
    figures = FiguresAt(cells, request, request[PieRequest].labels)
    inks = Inks(cells, request, look_of(request))
    rows = Rows(
        words_for(cells.table, request, [note for note in (figures.note(),) if note], figures_at=Place.SUBTITLE),
        columns,
    )
    rows.head()
    for title, slices in zip(cells.panels, pies.slices, strict=True):
        rows.panel_title(title)
        if not slices:
            rows.text(0, phrase(NOTHING), MarkRole.BASE)
            rows.skip(2)
            continue
        x = 0.0
        for one in slices:
            wide = one.share * (columns - 1)
            fill = inks.of(one.cell).fill
            rows.add(Bar(x, wide, rows.row, fill, MarkRole.SLICE, one.cell.series, cells.key(one.cell)))
            x += wide
        rows.skip(2)
        room = max((columns_wide(cells.series[one.cell.series]) for one in slices), default=0)
        for one in slices:
            place = one.cell.series
            rows.add(Bar(0, 2, rows.row, inks.of(one.cell).fill, MarkRole.LEGEND_SWATCH, place))
            rows.text(3, fitted(cells.series[place], columns - _FIGURE_ROOM - 3), MarkRole.SLICE_LABEL)
            rows.text(min(room + 5, columns - _FIGURE_ROOM), slice_figure(figures, one.cell), MarkRole.VALUE)
            rows.skip()
        rows.skip()
    return rows.finished(phrase("Pie chart. {title}.", title=rows.words.title))
