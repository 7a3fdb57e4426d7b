"""Bars: simple, stacked, grouped, percent and diverging."""

from grainstack.chart.annotation_request import AnnotationRequest, SpanRequest
from grainstack.chart.bars.bar_request import BarRequest, settled_bars
from grainstack.chart.chart_requests import (
    AxisRequest,
    AxisTitlesRequest,
    LegendRequest,
    NumbersRequest,
    PanelAxesRequest,
    RecordDotsRequest,
    WordsRequest,
)
from grainstack.chart.colors_request import CategoryColorsRequest, FillsRequest
from grainstack.chart.dots.dot_request import JoinedRequest
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.second_request import SecondRequest
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
    name="bar",
    summary="Bars, in the terminal or as a picture.",
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
            BarRequest,
            JoinedRequest,
            RecordDotsRequest,
            SecondRequest,
            AxisRequest,
            PanelAxesRequest,
            NumbersRequest,
            RoundingRequest,
            CategoryColorsRequest,
            FillsRequest,
            WordsRequest,
            AnnotationRequest,
            SpanRequest,
        ),
        *(AxisTitlesRequest, LegendRequest, TouchRequest, PictureRequest, LanguageRequest),
    ),
    settle=settled_bars,
    arrange=Later("chart.bars.bar_arrangement", "bars_of"),
    picture=Later("chart.bars.bar_picture", "bar_scene"),
    rows=Later("chart.terminal.terminal_bars", "bar_rows"),
    advise=Later("chart.chart_advice", "advice_on_bars"),
    most_used=(
        "by",
        "split",
        "measure",
        "stat",
        "layout",
        "error_bars",
        "order",
        "keep_top",
        "label",
        "legend",
        "color",
        "highlight",
        "reference",
        "title",
        "subtitle",
        "size",
        "out",
    ),
    examples=(
        "bar passengers.csv --by route --split ticket --layout percent",
        "bar passengers.csv --by route --measure wait --error-bars confidence --out wait.png",
        "bar passengers.csv --by route --order largest-first --highlight Dunmar",
        "bar passengers.csv --by route --split staff --layout diverging",
    ),
)
