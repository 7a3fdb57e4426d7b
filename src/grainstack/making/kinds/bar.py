"""Bars: simple, stacked, grouped, percent and diverging."""

from typing import TYPE_CHECKING

from grainstack.chart.bars.request import BarRequest, SecondRequest, settled_bars, single_bar
from grainstack.chart.request import (
    AxisRequest,
    AxisTitlesRequest,
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
    from grainstack.chart.bars.arrangement import BarArrangement
    from grainstack.chart.scene import Scene
    from grainstack.chart.screen import Screen
    from grainstack.summary.table import SummaryTable


def _arranged(table: "SummaryTable", requests: Requests) -> "BarArrangement":
    from grainstack.chart.bars.arrangement import arranged_bars  # noqa: PLC0415 - a help page needs none of it

    bars = requests[BarRequest]
    return arranged_bars(table, bars, single=single_bar(requests[SummaryRequest], bars))


def _picture(arrangement: "BarArrangement", requests: Requests) -> "Scene":
    from grainstack.chart.bars.picture import bar_scene  # noqa: PLC0415 - a terminal needs no fonts

    return bar_scene(arrangement, requests)


def _rows(arrangement: "BarArrangement", requests: Requests, columns: int) -> "Screen":
    from grainstack.chart.bars.rows import bar_rows  # noqa: PLC0415 - a picture needs none of it

    return bar_rows(arrangement, requests, columns)


def _advice(arrangement: "BarArrangement", requests: Requests) -> "list[Advice]":
    from grainstack.chart.bars.advice import advice_on_bars  # noqa: PLC0415 - a help page needs none of it

    return advice_on_bars(arrangement, requests)


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
        *(BarRequest, SecondRequest, AxisRequest, NumbersRequest, RoundingRequest, FillsRequest, WordsRequest),
        *(AxisTitlesRequest, LegendRequest, PictureRequest),
    ),
    settle=settled_bars,
    arrange=_arranged,
    picture=_picture,
    rows=_rows,
    advise=_advice,
)
