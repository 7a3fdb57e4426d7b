"""Treemaps."""

from grainstack.chart.chart_requests import NumbersRequest, WordsRequest
from grainstack.chart.colors_request import FillsRequest
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.touch_request import TouchRequest
from grainstack.chart.treemaps.treemap_request import TreemapRequest, settled_treemap
from grainstack.later import Later
from grainstack.making.kind import Kind, Product
from grainstack.records.records_request import RecordsRequest
from grainstack.summary.options import (
    LanguageRequest,
    RoundingRequest,
    SmallBaseRequest,
    WeightRequest,
)
from grainstack.summary.order import KeepRequest
from grainstack.summary.summary_request import SummaryRequest

KIND = Kind(
    name="treemap",
    summary="Nested tiles.",
    product=Product.CHART,
    models=(
        *(RecordsRequest, SummaryRequest, WeightRequest, SmallBaseRequest, KeepRequest),
        *(
            TreemapRequest,
            NumbersRequest,
            RoundingRequest,
            FillsRequest,
            WordsRequest,
            TouchRequest,
            PictureRequest,
            LanguageRequest,
        ),
    ),
    settle=settled_treemap,
    arrange=Later("chart.treemaps.tile_tree", "tree_of"),
    picture=Later("chart.treemaps.treemap_picture", "treemap_scene"),
    rows=Later("chart.terminal.terminal_parts", "tree_rows"),
    advise=Later("chart.chart_advice", "advice_on_tree"),
    most_used=(
        "by",
        "measure",
        "color_by",
        "root_label",
        "keep_top",
        "label",
        "palette",
        "title",
        "subtitle",
        "size",
        "out",
    ),
    examples=(
        "treemap costs.csv --by department --by item --measure amount",
        "treemap costs.csv --by department --by item --measure amount --color-by change --out costs.png",
        "treemap costs.csv --by department --measure amount --keep-top 5",
        "treemap costs.csv --by department --by item --measure amount --palette kiln --size 160x100mm --out kiln.svg",
    ),
)
