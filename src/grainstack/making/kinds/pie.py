"""Pies and rings."""

from typing import TYPE_CHECKING

from grainstack.chart.pies.request import PieRequest, settled_pie
from grainstack.chart.request import (
    FillsRequest,
    LegendRequest,
    NumbersRequest,
    PictureRequest,
    WordsRequest,
)
from grainstack.making.kind import Kind, Product
from grainstack.records.request import RecordsRequest
from grainstack.requests import Requests
from grainstack.summary.options import (
    RoundingRequest,
    SmallBaseRequest,
    WeightRequest,
)
from grainstack.summary.order import OrderRequest
from grainstack.summary.request import SummaryRequest

if TYPE_CHECKING:
    from grainstack.advice import Advice
    from grainstack.chart.pies.arrangement import Pies
    from grainstack.chart.scene import Scene
    from grainstack.chart.screen import Screen
    from grainstack.summary.table import SummaryTable


def _arranged(table: "SummaryTable", requests: Requests) -> "Pies":
    from grainstack.chart.pies.arrangement import arranged_pies  # noqa: PLC0415 - a help page needs none of it

    return arranged_pies(table, requests[PieRequest])


def _picture(arrangement: "Pies", requests: Requests) -> "Scene":
    from grainstack.chart.pies.picture import pie_scene  # noqa: PLC0415 - a terminal needs no fonts

    return pie_scene(arrangement, requests)


def _rows(arrangement: "Pies", requests: Requests, columns: int) -> "Screen":
    from grainstack.chart.pies.rows import pie_rows  # noqa: PLC0415 - a picture needs none of it

    return pie_rows(arrangement, requests, columns)


def _advice(arrangement: "Pies", requests: Requests) -> "list[Advice]":
    from grainstack.chart.pies.advice import advice_on_pies  # noqa: PLC0415 - a help page needs none of it

    return advice_on_pies(arrangement, requests)


KIND = Kind(
    name="pie",
    summary="Pie or ring.",
    product=Product.CHART,
    models=(
        *(RecordsRequest, SummaryRequest, WeightRequest, SmallBaseRequest, OrderRequest),
        *(PieRequest, NumbersRequest, RoundingRequest, FillsRequest, WordsRequest, LegendRequest, PictureRequest),
    ),
    settle=settled_pie,
    arrange=_arranged,
    picture=_picture,
    rows=_rows,
    advise=_advice,
)
