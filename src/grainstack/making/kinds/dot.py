"""Dots on light stems."""

from grainstack.chart.annotation_request import AnnotationRequest, SpanRequest
from grainstack.chart.chart_requests import (
    AxisRequest,
    AxisTitlesRequest,
    LegendRequest,
    NumbersRequest,
    PanelAxesRequest,
    WordsRequest,
)
from grainstack.chart.colors_request import CategoryColorsRequest, ColorsRequest
from grainstack.chart.dots.dot_request import DotRequest, JoinedRequest, settled_dots
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.touch_request import TouchRequest
from grainstack.later import Later
from grainstack.making.kind import Kind, Product
from grainstack.records.records_request import RecordsRequest
from grainstack.summary.options import (
    ComparisonRequest,
    DesignRequest,
    LanguageRequest,
    RoundingRequest,
    SmallBaseRequest,
    SpreadRequest,
)
from grainstack.summary.order import OrderRequest
from grainstack.summary.summary_request import SummaryRequest

KIND = Kind(
    name="dot",
    summary="Dots in place of bars.",
    product=Product.CHART,
    models=(
        *(
            RecordsRequest,
            SummaryRequest,
            DesignRequest,
            SpreadRequest,
            ComparisonRequest,
            SmallBaseRequest,
            OrderRequest,
        ),
        *(
            DotRequest,
            JoinedRequest,
            AxisRequest,
            PanelAxesRequest,
            NumbersRequest,
            RoundingRequest,
            CategoryColorsRequest,
            ColorsRequest,
            WordsRequest,
            AnnotationRequest,
            SpanRequest,
            AxisTitlesRequest,
        ),
        *(LegendRequest, TouchRequest, PictureRequest, LanguageRequest),
    ),
    settle=settled_dots,
    arrange=Later("chart.dots.dot_arrangement", "dots_of"),
    picture=Later("chart.dots.dot_picture", "dot_scene"),
    rows=Later("chart.terminal.terminal_bars", "dot_rows"),
    advise=Later("chart.chart_advice", "advice_on_series"),
    most_used=(
        "by",
        "split",
        "measure",
        "stat",
        "error_bars",
        "order",
        "keep_top",
        "label",
        "legend",
        "color",
        "highlight",
        "title",
        "subtitle",
        "size",
        "out",
    ),
    examples=(
        "dot passengers.csv --by route --measure wait --stat mean --stat median",
        "dot passengers.csv --by ticket --measure age --error-bars confidence --out age.svg",
        "dot passengers.csv --by route --measure wait --order largest-first --highlight Dunmar",
        "dot passengers.csv --by season --measure wait --value-range 0,30 --size 160x90mm --out wait.png",
    ),
)
