"""Dots on light stems."""

from typing import TYPE_CHECKING

from grainstack.chart.dots.request import DotRequest, settled_dots
from grainstack.chart.request import (
    AxisRequest,
    AxisTitlesRequest,
    ColorsRequest,
    LegendRequest,
    NumbersRequest,
    PictureRequest,
    WordsRequest,
)
from grainstack.making.kind import Kind, Product
from grainstack.records.request import RecordsRequest
from grainstack.requests import Requests
from grainstack.summary.options import (
    ComparisonRequest,
    DesignRequest,
    RoundingRequest,
    SmallBaseRequest,
    SpreadRequest,
)
from grainstack.summary.order import OrderRequest
from grainstack.summary.request import SummaryRequest

if TYPE_CHECKING:
    from grainstack.advice import Advice
    from grainstack.chart.cells import ChartCells
    from grainstack.chart.scene import Scene
    from grainstack.chart.screen import Screen
    from grainstack.summary.table import SummaryTable


def _arranged(table: "SummaryTable", requests: Requests) -> "ChartCells":  # noqa: ARG001 - as every kind
    from grainstack.chart.dots.arrangement import arranged_dots  # noqa: PLC0415 - a help page needs none of it

    return arranged_dots(table)


def _picture(arrangement: "ChartCells", requests: Requests) -> "Scene":
    from grainstack.chart.dots.picture import dot_scene  # noqa: PLC0415 - a terminal needs no fonts

    return dot_scene(arrangement, requests)


def _rows(arrangement: "ChartCells", requests: Requests, columns: int) -> "Screen":
    from grainstack.chart.dots.rows import dot_rows  # noqa: PLC0415 - a picture needs none of it

    return dot_rows(arrangement, requests, columns)


def _advice(arrangement: "ChartCells", requests: Requests) -> "list[Advice]":
    from grainstack.chart.dots.advice import advice_on_dots  # noqa: PLC0415 - a help page needs none of it

    return advice_on_dots(arrangement, requests)


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
        *(DotRequest, AxisRequest, NumbersRequest, RoundingRequest, ColorsRequest, WordsRequest, AxisTitlesRequest),
        *(LegendRequest, PictureRequest),
    ),
    settle=settled_dots,
    arrange=_arranged,
    picture=_picture,
    rows=_rows,
    advise=_advice,
)
