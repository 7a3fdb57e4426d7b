"""What a reader of a chart has to know besides what the table says of its figures."""

from grainstack.chart.bars.bar_arrangement import BarArrangement
from grainstack.chart.cells import Cell
from grainstack.chart.chart_requests import AxisRequest
from grainstack.chart.frame.record_dots import RecordDots
from grainstack.chart.writing.figures_at import FiguresAt
from grainstack.language import in_words, phrase
from grainstack.requests import Requests
from grainstack.summary.options import RoundingRequest


def cut_short(arrangement: BarArrangement, request: Requests, scale: float) -> frozenset[Cell]:
    """The figures whose bars reach beyond the range that was asked for.

    Args:
        arrangement: The bars.
        request: The range of the value axis.
        scale: What figures are multiplied by on that axis.
    """
    limits = request[AxisRequest].limits
    if limits is None:
        return frozenset()
    low, high = min(limits[0], 0.0), limits[1]
    return frozenset(bar.cell for bar in arrangement.bars if bar.cell.known and not low <= bar.end * scale <= high)


def bar_notes(arrangement: BarArrangement, request: Requests, figures: FiguresAt, dots: RecordDots | None) -> list[str]:
    """Sentences for the footnote of bars."""
    notes = [figures.note(), dots.note if dots else ""]
    limits = request[AxisRequest].limits
    if limits is not None and limits[0] > 0:
        start = figures.first.number(limits[0] / figures.scale)
        notes.append(phrase("The value axis does not start at zero but at {value}.", value=start))
    if cut_short(arrangement, request, figures.scale):
        notes.append(phrase("Bars with a broken end reach beyond the axis."))
    if arrangement.layout == "percent" and any(bar.whisker for bar in arrangement.bars):
        notes.append(
            phrase("Whiskers are the limits of a segment, laid off from where it starts.")
            if len(arrangement.cells.series) == 1
            else phrase("Whiskers are the limits of a segment, laid off from where it starts; the last one has none.")
        )
    sides = arrangement.sides
    if sides and any(bar.whisker for bar in arrangement.bars) and len(sides.ways) > len({*sides.ways}):
        laid_off = phrase("Whiskers are the limits of a segment, laid off from where it starts.")
        but_middle = phrase("Whiskers are the limits of a segment, laid off from where it starts; the middle has none.")
        notes.append(but_middle if 0 in sides.ways else laid_off)
    if sides and 0 in sides.ways:
        between = [name for name, way in zip(arrangement.cells.series, sides.ways, strict=True) if way == 0]
        notes.append(phrase("Figures at the ends add up each side without {between}.", between=in_words(between)))
    if request[RoundingRequest].add_up:
        notes.append(phrase("Rounded so that shares add to 100 %."))
    return [note for note in notes if note]
