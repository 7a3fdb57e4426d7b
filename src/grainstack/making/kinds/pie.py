"""Pies and rings."""

from grainstack.chart.colors_request import FillsRequest
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.pies.request import PieRequest, settled_pie
from grainstack.chart.request import LegendRequest, NumbersRequest, WordsRequest
from grainstack.later import Later
from grainstack.making.kind import Kind, Product
from grainstack.records.request import RecordsRequest
from grainstack.summary.options import (
    LanguageRequest,
    RoundingRequest,
    SmallBaseRequest,
    WeightRequest,
)
from grainstack.summary.order import OrderRequest
from grainstack.summary.request import SummaryRequest

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
            PictureRequest,
            LanguageRequest,
        ),
    ),
    settle=settled_pie,
    arrange=Later("chart.pies.arrangement", "pies_of"),
    picture=Later("chart.pies.picture", "pie_scene"),
    rows=Later("chart.pies.rows", "pie_rows"),
    advise=Later("chart.pies.advice", "advice_on_pies"),
)
