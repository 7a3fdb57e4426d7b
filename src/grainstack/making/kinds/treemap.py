"""Treemaps."""

from grainstack.chart.colors_request import FillsRequest
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.request import NumbersRequest, WordsRequest
from grainstack.chart.treemaps.request import TreemapRequest, settled_treemap
from grainstack.later import Later
from grainstack.making.kind import Kind, Product
from grainstack.records.request import RecordsRequest
from grainstack.summary.options import (
    LanguageRequest,
    RoundingRequest,
    SmallBaseRequest,
    WeightRequest,
)
from grainstack.summary.order import KeepRequest
from grainstack.summary.request import SummaryRequest

KIND = Kind(
    name="treemap",
    summary="Nested tiles.",
    product=Product.CHART,
    models=(
        *(RecordsRequest, SummaryRequest, WeightRequest, SmallBaseRequest, KeepRequest),
        *(TreemapRequest, NumbersRequest, RoundingRequest, FillsRequest, WordsRequest, PictureRequest, LanguageRequest),
    ),
    settle=settled_treemap,
    arrange=Later("chart.treemaps.arrangement", "tree_of"),
    picture=Later("chart.treemaps.picture", "treemap_scene"),
    rows=Later("chart.treemaps.rows", "tree_rows"),
    advise=Later("chart.treemaps.advice", "advice_on_tree"),
)
