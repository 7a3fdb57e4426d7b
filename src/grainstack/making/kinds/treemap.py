"""Treemaps."""

from typing import TYPE_CHECKING

from grainstack.chart.colors_request import FillsRequest
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.request import NumbersRequest, WordsRequest
from grainstack.chart.treemaps.request import TreemapRequest, settled_treemap
from grainstack.making.kind import Kind, Later, Product
from grainstack.records.request import RecordsRequest
from grainstack.requests import Requests
from grainstack.summary.options import (
    LanguageRequest,
    RoundingRequest,
    SmallBaseRequest,
    WeightRequest,
)
from grainstack.summary.order import KeepRequest
from grainstack.summary.request import SummaryRequest

if TYPE_CHECKING:
    from grainstack.chart.treemaps.arrangement import Tree
    from grainstack.summary.table import SummaryTable


def _arranged(table: "SummaryTable", requests: Requests) -> "Tree":  # noqa: ARG001 - as every kind
    from grainstack.chart.treemaps.arrangement import arranged_tree  # noqa: PLC0415 - a help page needs none of it

    return arranged_tree(table)


KIND = Kind(
    name="treemap",
    summary="Nested tiles.",
    product=Product.CHART,
    models=(
        *(RecordsRequest, SummaryRequest, WeightRequest, SmallBaseRequest, KeepRequest),
        *(TreemapRequest, NumbersRequest, RoundingRequest, FillsRequest, WordsRequest, PictureRequest, LanguageRequest),
    ),
    settle=settled_treemap,
    arrange=_arranged,
    picture=Later("chart.treemaps.picture", "treemap_scene"),
    rows=Later("chart.treemaps.rows", "tree_rows"),
    advise=Later("chart.treemaps.advice", "advice_on_tree"),
)
