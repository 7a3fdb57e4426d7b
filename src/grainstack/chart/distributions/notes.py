"""What the footnote of a distribution says of its marks."""

from typing import TYPE_CHECKING

from grainstack.chart.distributions.arrangement import Distribution, rounded_extent
from grainstack.chart.distributions.request import DistributionRequest
from grainstack.chart.frame.record_dots import record_dots
from grainstack.chart.request import AxisRequest
from grainstack.chart.writing.numbers import PERCENT, NumberStyle
from grainstack.chart.writing.wording import in_words
from grainstack.requests import Requests

if TYPE_CHECKING:
    from grainstack.chart.distributions.bands import Bands

BOX_NOTE = (
    "Boxes reach from the lower to the upper quartile with the median as a line, whiskers to the last value within 1.5 "
    "times that range; dots are values beyond, white rings means."
)


def distribution_notes(distribution: Distribution, request: Requests) -> list[str]:
    """Sentences for the footnote of a distribution."""
    form = request[DistributionRequest].form
    notes = []
    if form == "box":
        notes.append(BOX_NOTE)
    if form == "points":
        notes += [record_dots(distribution.values).note, means_note(request)]
    low, _ = request[AxisRequest].limits or rounded_extent(distribution)
    return [*notes, "The value axis does not start at zero."] if low > 0 else notes


def histogram_notes(bands: "Bands", style: NumberStyle, *, lines: bool) -> list[str]:
    """Sentences for the footnote of histograms.

    Args:
        bands: Their bands.
        style: How the measure is written.
        lines: Whether it has to be said here what its lines are.
    """
    notes = ["Thick lines are means, thin ones medians."] if lines else []
    (low, high), write = bands.closed, bands.written(style)
    if bands.under:
        notes.append(f"The first band holds all values below {write(low)}.")
    if bands.over:
        notes.append(f"The last band holds all values of {write(high)} and over.")
    if not bands.even:
        notes.append("Bands differ in width: areas, not heights, are shares.")
    if bands.beyond:
        notes.append(f"{NumberStyle(PERCENT)(bands.beyond)} % of the values lie beyond the axis.")
    return notes


def means_note(request: Requests) -> str:
    """That lines are means, but for those at reference values."""
    values = [f"{value:g}" for value, _ in request[AxisRequest].references]
    if not values:
        return "Lines are means."
    return f"Lines are means, but for {'that' if len(values) == 1 else 'those'} at {in_words(values)}."
