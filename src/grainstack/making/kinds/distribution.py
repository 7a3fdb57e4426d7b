"""Boxes, points and histograms."""

from typing import TYPE_CHECKING

from grainstack.chart.colors_request import CategoryColorsRequest, FillsRequest
from grainstack.chart.distributions.request import DistributionRequest, settled_distribution
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.request import (
    AxisRequest,
    AxisTitlesRequest,
    LegendRequest,
    NumbersRequest,
    RecordDotsRequest,
    WordsRequest,
)
from grainstack.making.kind import Kind, Later, Product
from grainstack.records.request import RecordsRequest
from grainstack.requests import Requests
from grainstack.summary.options import (
    LanguageRequest,
    SmallBaseRequest,
    WeightRequest,
)
from grainstack.summary.order import OrderRequest
from grainstack.summary.request import SummaryRequest

if TYPE_CHECKING:
    from grainstack.chart.distributions.arrangement import Distribution
    from grainstack.summary.table import SummaryTable


def _arranged(table: "SummaryTable", requests: Requests) -> "Distribution":  # noqa: ARG001 - as every kind
    from grainstack.chart.distributions.arrangement import distribution_of  # noqa: PLC0415 - help needs none of it

    return distribution_of(table)


KIND = Kind(
    name="distribution",
    summary="What lies behind a mean: box, points or histogram.",
    product=Product.CHART,
    models=(
        *(RecordsRequest, DistributionRequest, SummaryRequest, WeightRequest, SmallBaseRequest, OrderRequest),
        *(
            RecordDotsRequest,
            AxisRequest,
            NumbersRequest,
            CategoryColorsRequest,
            FillsRequest,
            WordsRequest,
            AxisTitlesRequest,
        ),
        *(LegendRequest, PictureRequest, LanguageRequest),
    ),
    settle=settled_distribution,
    arrange=_arranged,
    picture=Later("chart.distributions.picture", "distribution_scene"),
    rows=Later("chart.distributions.rows", "distribution_rows"),
    advise=Later("chart.distributions.advice", "advice_on_distribution"),
    quiet=("hidden-shape",),  # it is being shown
    shapes=6,  # a box with its whiskers, median and mean
)
