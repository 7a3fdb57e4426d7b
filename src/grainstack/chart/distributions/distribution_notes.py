"""What the footnote of a distribution says of its marks."""

from typing import TYPE_CHECKING

from grainstack.chart.chart_requests import AxisRequest
from grainstack.chart.distributions.distribution_arrangement import Distribution, rounded_extent
from grainstack.chart.distributions.distribution_request import DistributionRequest
from grainstack.chart.frame.record_dots import RecordDots
from grainstack.chart.writing.numbers import PERCENT, NumberStyle
from grainstack.language import in_words, phrase, phrases, with_signs
from grainstack.requests import Requests

if TYPE_CHECKING:
    from grainstack.chart.distributions.bands import Bands


def distribution_notes(distribution: Distribution, request: Requests, dots: RecordDots | None) -> list[str]:
    """Sentences for the footnote of a distribution.

    Args:
        distribution: The values.
        request: Its form and axis.
        dots: Its records as dots; None where it has none.
    """
    form = request[DistributionRequest].form
    notes = []
    if form == "box":
        notes.append(
            phrase(
                "Boxes reach from the lower to the upper quartile with the median as a line, whiskers to the last "
                "value within 1.5 times that range; dots are values beyond, white rings means."
            )
        )
    if dots is not None:
        notes += [dots.note, means_note(request)]
    low, _ = request[AxisRequest].limits or rounded_extent(distribution)
    return [*notes, phrase("The value axis does not start at zero.")] if low > 0 else notes


def histogram_notes(bands: "Bands", style: NumberStyle, *, lines: bool) -> list[str]:
    """Sentences for the footnote of histograms.

    Args:
        bands: Their bands.
        style: How the measure is written.
        lines: Whether it has to be said here what its lines are.
    """
    notes = [phrase("Thick lines are means, thin ones medians.")] if lines else []
    (low, high), write = bands.closed, bands.written(style)
    if bands.under:
        notes.append(phrase("The first band holds all values below {edge}.", edge=write(low)))
    if bands.over:
        notes.append(phrase("The last band holds all values of {edge} and over.", edge=write(high)))
    if not bands.even:
        notes.append(phrase("Bands differ in width: areas, not heights, are shares."))
    if bands.outside:
        notes.append(
            phrase("{percent} % of the values lie beyond the axis.", percent=NumberStyle(PERCENT)(bands.outside))
        )
    return notes


def means_note(request: Requests) -> str:
    """That lines are means, but for those at reference values."""
    values = [with_signs(f"{value:g}") for value, _ in request[AxisRequest].references]
    if not values:
        return phrase("Lines are means.")
    return phrases(
        "Lines are means, but for that at {values}.",
        "Lines are means, but for those at {values}.",
        len(values),
        values=in_words(values),
    )
