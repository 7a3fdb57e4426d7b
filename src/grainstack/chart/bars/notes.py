"""What a reader of a chart has to know besides what the table says of its figures."""

from grainstack.chart.bars.arrangement import Bar, BarArrangement
from grainstack.chart.frame.record_dots import RecordDots
from grainstack.chart.request import AxisRequest
from grainstack.chart.writing.figures_at import FiguresAt
from grainstack.language import in_words, phrase
from grainstack.requests import Requests
from grainstack.summary.figures.small import SMALL_BASE
from grainstack.summary.options import RoundingRequest, SmallBaseRequest
from grainstack.summary.request import Purpose


def cut_short(bar: Bar, request: Requests, figures: FiguresAt) -> bool:
    """Whether a bar reaches beyond the range that was asked for."""
    limits = request[AxisRequest].limits
    if limits is None or not bar.cell.known:
        return False
    end = bar.end * figures.scale
    return end > limits[1] or end < min(limits[0], 0.0)


def bar_notes(arrangement: BarArrangement, request: Requests, figures: FiguresAt, dots: RecordDots | None) -> list[str]:
    """Sentences for the footnote of bars."""
    notes = [figures.note(), dots.note if dots else ""]
    second = arrangement.cells.table.column_for(Purpose.SECOND)
    if second is not None and second.flags.any():
        least = request[SmallBaseRequest].min_base or SMALL_BASE
        notes.append(phrase("Hollow dots, starred, rest on fewer than {least} records.", least=least))
    limits = request[AxisRequest].limits
    if limits is not None and limits[0] > 0:
        notes.append(phrase("The value axis does not start at zero but at {value}.", value=limits[0]))
    if any(cut_short(bar, request, figures) for bar in arrangement.bars):
        notes.append(phrase("Bars with a broken end reach beyond the axis."))
    if arrangement.layout == "percent" and any(bar.whisker for bar in arrangement.bars):
        notes.append(
            phrase("Whiskers are the limits of a segment, laid off from where it starts.")
            if len(arrangement.cells.series) == 1
            else phrase("Whiskers are the limits of a segment, laid off from where it starts; the last one has none.")
        )
    sides = arrangement.sides
    if sides and 0 in sides.ways:
        between = [name for name, way in zip(arrangement.cells.series, sides.ways, strict=True) if way == 0]
        notes.append(phrase("Figures at the ends add up each side without {between}.", between=in_words(between)))
    if request[RoundingRequest].add_up:
        notes.append(phrase("Rounded so that shares add to 100 %."))
    return [note for note in notes if note]
