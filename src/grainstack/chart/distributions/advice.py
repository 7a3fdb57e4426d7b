"""Advice on distributions."""

from grainstack.advice import Advice
from grainstack.chart.distributions.arrangement import Distribution
from grainstack.chart.dots.advice import advice_on_series
from grainstack.requests import Requests


def advice_on_distribution(distribution: Distribution, request: Requests) -> list[Advice]:  # noqa: ARG001 - as every kind
    """More categories or series than an eye can follow."""
    return advice_on_series(distribution.cells)
