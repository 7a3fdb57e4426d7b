"""Treemaps."""

from typing import TYPE_CHECKING

from grainstack.chart.request import (
    FillsRequest,
    NumbersRequest,
    PictureRequest,
    WordsRequest,
)
from grainstack.chart.treemaps.request import TreemapRequest, settled_treemap
from grainstack.making.kind import Kind, Product
from grainstack.records.request import RecordsRequest
from grainstack.requests import Requests
from grainstack.summary.options import (
    RoundingRequest,
    SmallBaseRequest,
    WeightRequest,
)
from grainstack.summary.order import KeepRequest
from grainstack.summary.request import SummaryRequest

if TYPE_CHECKING:
    from grainstack.advice import Advice
    from grainstack.chart.scene import Scene
    from grainstack.chart.screen import Screen
    from grainstack.chart.treemaps.arrangement import Tree
    from grainstack.summary.table import SummaryTable


def _arranged(table: "SummaryTable", requests: Requests) -> "Tree":  # noqa: ARG001 - as every kind
    from grainstack.chart.treemaps.arrangement import arranged_tree  # noqa: PLC0415 - a help page needs none of it

    return arranged_tree(table)


def _picture(arrangement: "Tree", requests: Requests) -> "Scene":
    from grainstack.chart.treemaps.picture import treemap_scene  # noqa: PLC0415 - a terminal needs no fonts

    return treemap_scene(arrangement, requests)


def _rows(arrangement: "Tree", requests: Requests, columns: int) -> "Screen":
    from grainstack.chart.treemaps.rows import tree_rows  # noqa: PLC0415 - a picture needs none of it

    return tree_rows(arrangement, requests, columns)


def _advice(arrangement: "Tree", requests: Requests) -> "list[Advice]":
    from grainstack.chart.treemaps.advice import advice_on_tree  # noqa: PLC0415 - a help page needs none of it

    return advice_on_tree(arrangement, requests)


KIND = Kind(
    name="treemap",
    summary="Nested tiles.",
    product=Product.CHART,
    models=(
        *(RecordsRequest, SummaryRequest, WeightRequest, SmallBaseRequest, KeepRequest),
        *(TreemapRequest, NumbersRequest, RoundingRequest, FillsRequest, WordsRequest, PictureRequest),
    ),
    settle=settled_treemap,
    arrange=_arranged,
    picture=_picture,
    rows=_rows,
    advise=_advice,
)
