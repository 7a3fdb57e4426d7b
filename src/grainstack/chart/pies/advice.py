"""Advice on pies: whether bars would show the parts better."""

from grainstack.advice import Advice
from grainstack.chart.pies.arrangement import Pies, nearly_equal
from grainstack.requests import Requests
from grainstack.speech import command, option

MOST_SLICES = 7  # beyond that, slices are neither told apart nor compared


def advice_on_pies(pies: Pies, request: Requests) -> list[Advice]:  # noqa: ARG001 - as every kind
    """Too many slices, or slices too alike."""
    by = option("by", pies.cells.table.categories[0].variable.name)
    advice = []
    for slices in pies.slices:
        if len(slices) > MOST_SLICES:
            text = f"{len(slices)} slices are more than a pie can show. "
            advice.append(Advice("too-many", f"{text}Use {option('keep_top', '6')}, or {command('bar')} {by}."))
        if nearly_equal(slices):
            text = "slices are nearly equal, which bars show better"
            advice.append(Advice("area-limits", f"{text}: {command('bar')} {by}."))
    return advice
