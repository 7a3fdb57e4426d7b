"""Advice on pies: whether bars would show the parts better."""

from grainstack.advice import Advice
from grainstack.chart.pies.arrangement import Pies, nearly_equal
from grainstack.language import phrase
from grainstack.requests import Requests
from grainstack.speech import command, option

MOST_SLICES = 7  # beyond that, slices are neither told apart nor compared


def advice_on_pies(pies: Pies, request: Requests) -> list[Advice]:  # noqa: ARG001 - as every kind
    """Too many slices, or slices too alike."""
    bars = f"{command('bar')} {option('by', pies.cells.table.categories[0].variable.name)}"
    advice = []
    for slices in pies.slices:
        if len(slices) > MOST_SLICES:
            text = phrase(
                "{count} slices are more than a pie can show. Use {fewer}, or {bars}.",
                count=len(slices),
                fewer=option("keep_top", "6"),
                bars=bars,
            )
            advice.append(Advice("too-many", text))
        if nearly_equal(slices):
            text = phrase("slices are nearly equal, which bars show better: {bars}.", bars=bars)
            advice.append(Advice("area-limits", text))
    return advice
