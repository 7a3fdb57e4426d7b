"""Boxes, points and histograms."""

from typing import TYPE_CHECKING

from grainstack.chart.distributions.request import DistributionRequest, settled_distribution
from grainstack.chart.request import (
    AxisRequest,
    AxisTitlesRequest,
    FillsRequest,
    LegendRequest,
    NumbersRequest,
    PictureRequest,
    WordsRequest,
)
from grainstack.making.kind import Kind, Product
from grainstack.records.request import RecordsRequest
from grainstack.requests import Requests
from grainstack.summary.options import (
    SmallBaseRequest,
    WeightRequest,
)
from grainstack.summary.order import OrderRequest
from grainstack.summary.request import SummaryRequest

if TYPE_CHECKING:
    from grainstack.advice import Advice
    from grainstack.chart.distributions.arrangement import Distribution
    from grainstack.chart.scene import Scene
    from grainstack.chart.screen import Screen
    from grainstack.summary.table import SummaryTable


def _arranged(table: "SummaryTable", requests: Requests) -> "Distribution":  # noqa: ARG001 - as every kind
    from grainstack.chart.distributions.arrangement import distribution_of  # noqa: PLC0415 - help needs none of it

    return distribution_of(table)


def _picture(arrangement: "Distribution", requests: Requests) -> "Scene":
    if requests[DistributionRequest].form == "histogram":
        from grainstack.chart.distributions.histogram import histogram_scene  # noqa: PLC0415 - a terminal needs no fonts

        return histogram_scene(arrangement, requests)
    from grainstack.chart.distributions.picture import distribution_scene  # noqa: PLC0415 - the same

    return distribution_scene(arrangement, requests)


def _rows(arrangement: "Distribution", requests: Requests, columns: int) -> "Screen":
    from grainstack.chart.distributions.rows import distribution_rows  # noqa: PLC0415 - a picture needs none of it

    return distribution_rows(arrangement, requests, columns)


def _advice(arrangement: "Distribution", requests: Requests) -> "list[Advice]":
    from grainstack.chart.distributions.advice import advice_on_distribution  # noqa: PLC0415 - a help page needs none of it

    return advice_on_distribution(arrangement, requests)


KIND = Kind(
    name="distribution",
    summary="What lies behind a mean: box, points or histogram.",
    product=Product.CHART,
    models=(
        *(RecordsRequest, DistributionRequest, SummaryRequest, WeightRequest, SmallBaseRequest, OrderRequest),
        *(AxisRequest, NumbersRequest, FillsRequest, WordsRequest, AxisTitlesRequest, LegendRequest, PictureRequest),
    ),
    settle=settled_distribution,
    arrange=_arranged,
    picture=_picture,
    rows=_rows,
    advise=_advice,
    quiet=("hidden-shape",),  # it is being shown
)
