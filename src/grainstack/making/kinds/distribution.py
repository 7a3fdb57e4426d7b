"""Boxes, points and histograms."""

from grainstack.chart.annotation_request import AnnotationRequest
from grainstack.chart.chart_requests import (
    AxisRequest,
    AxisTitlesRequest,
    LegendRequest,
    NumbersRequest,
    RecordDotsRequest,
    WordsRequest,
)
from grainstack.chart.colors_request import CategoryColorsRequest, FillsRequest
from grainstack.chart.distributions.distribution_request import DistributionRequest, settled_distribution
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.touch_request import TouchRequest
from grainstack.later import Later
from grainstack.making.kind import Kind, Product
from grainstack.records.records_request import RecordsRequest
from grainstack.summary.options import (
    LanguageRequest,
    SmallBaseRequest,
    WeightRequest,
)
from grainstack.summary.order import OrderRequest
from grainstack.summary.summary_request import SummaryRequest

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
            AnnotationRequest,
            AxisTitlesRequest,
        ),
        *(LegendRequest, TouchRequest, PictureRequest, LanguageRequest),
    ),
    settle=settled_distribution,
    arrange=Later("chart.distributions.distribution_arrangement", "arrange_distribution"),
    picture=Later("chart.distributions.box_picture", "distribution_scene"),
    rows=Later("chart.terminal.terminal_distributions", "distribution_rows"),
    advise=Later("chart.chart_advice", "advice_on_distribution"),
    behind=Later("chart.distributions.spread_rows", "spread_rows"),
    quiet=("hidden-shape",),  # it is being shown
    shapes=6,  # a box with its whiskers, median and mean
    most_used=("measure", "by", "form", "value_range", "reference", "color", "title", "subtitle", "size", "out"),
    examples=(
        "distribution passengers.csv --measure wait --by route",
        "distribution passengers.csv --measure wait --by route --form histogram --out wait.png",
        "distribution passengers.csv --measure age --by ticket --form points --out age.svg",
        "distribution passengers.csv --measure wait --by season --value-range 0,60 --size 160x90mm --out waits.png",
    ),
)
