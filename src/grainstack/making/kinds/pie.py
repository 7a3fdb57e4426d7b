"""Pies and rings."""

from grainstack.chart.chart_requests import LegendRequest, NumbersRequest, WordsRequest
from grainstack.chart.colors_request import FillsRequest
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.pies.pie_request import PieRequest, settled_pie
from grainstack.chart.touch_request import TouchRequest
from grainstack.later import Later
from grainstack.making.kind import Kind, Product
from grainstack.records.records_request import RecordsRequest
from grainstack.summary.options import (
    LanguageRequest,
    RoundingRequest,
    SmallBaseRequest,
    WeightRequest,
)
from grainstack.summary.order import OrderRequest
from grainstack.summary.summary_request import SummaryRequest

KIND = Kind(
    name="pie",
    summary="Pie or ring.",
    product=Product.CHART,
    models=(
        *(RecordsRequest, SummaryRequest, WeightRequest, SmallBaseRequest, OrderRequest),
        *(
            PieRequest,
            NumbersRequest,
            RoundingRequest,
            FillsRequest,
            WordsRequest,
            LegendRequest,
            TouchRequest,
            PictureRequest,
            LanguageRequest,
        ),
    ),
    settle=settled_pie,
    arrange=Later("chart.pies.pie_arrangement", "pies_of"),
    picture=Later("chart.pies.pie_picture", "pie_scene"),
    rows=Later("chart.terminal.terminal_parts", "pie_rows"),
    advise=Later("chart.chart_advice", "advice_on_pies"),
    most_used=(
        "by",
        "measure",
        "ring",
        "set_apart",
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
        "pie passengers.csv --by ticket",
        "pie passengers.csv --by ticket --ring --out ticket.png",
        "pie passengers.csv --by purpose --keep-top 4 --label share",
        "pie passengers.csv --by ticket --set-apart App --size 120x90mm --out app.svg",
    ),
)
