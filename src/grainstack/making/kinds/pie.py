"""Pies and rings."""

from typing import TYPE_CHECKING

from grainstack.chart.colors_request import FillsRequest
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.pies.request import PieRequest, settled_pie
from grainstack.chart.request import LegendRequest, NumbersRequest, WordsRequest
from grainstack.making.kind import Kind, Later, Product
from grainstack.records.request import RecordsRequest
from grainstack.requests import Requests
from grainstack.summary.options import (
    LanguageRequest,
    RoundingRequest,
    SmallBaseRequest,
    WeightRequest,
)
from grainstack.summary.order import OrderRequest
from grainstack.summary.request import SummaryRequest

if TYPE_CHECKING:
    from grainstack.chart.pies.arrangement import Pies
    from grainstack.summary.table import SummaryTable


def _arranged(table: "SummaryTable", requests: Requests) -> "Pies":
    from grainstack.chart.pies.arrangement import arranged_pies  # noqa: PLC0415 - a help page needs none of it

    return arranged_pies(table, requests[PieRequest])


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
    arrange=_arranged,
    picture=Later("chart.pies.picture", "pie_scene"),
    rows=Later("chart.pies.rows", "pie_rows"),
    advise=Later("chart.pies.advice", "advice_on_pies"),
)
