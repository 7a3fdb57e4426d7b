"""Bars: simple, stacked, grouped, percent and diverging."""

from typing import TYPE_CHECKING

from grainstack.chart.bars.request import BarRequest, SecondRequest, check_axes_apart, settled_bars, single_bar
from grainstack.chart.colors_request import CategoryColorsRequest, FillsRequest
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.request import (
    AxisRequest,
    AxisTitlesRequest,
    LegendRequest,
    NumbersRequest,
    RecordDotsRequest,
    WordsRequest,
)
from grainstack.making.kind import Kind, Later, Product
from grainstack.records.request import RecordsRequest
from grainstack.requests import Requests
from grainstack.summary.options import (
    ComparisonRequest,
    DesignRequest,
    LanguageRequest,
    RoundingRequest,
    SmallBaseRequest,
    SpreadRequest,
)
from grainstack.summary.order import OrderRequest
from grainstack.summary.request import SummaryRequest

if TYPE_CHECKING:
    from grainstack.chart.bars.arrangement import BarArrangement
    from grainstack.summary.table import SummaryTable


def _arranged(table: "SummaryTable", requests: Requests) -> "BarArrangement":
    from grainstack.chart.bars.arrangement import arranged_bars  # noqa: PLC0415 - a help page needs none of it

    bars = requests[BarRequest]
    arrangement = arranged_bars(table, bars, single=single_bar(requests[SummaryRequest], bars))
    if arrangement.beside:
        check_axes_apart(requests)
    return arrangement


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
        *(
            BarRequest,
            RecordDotsRequest,
            SecondRequest,
            AxisRequest,
            NumbersRequest,
            RoundingRequest,
            CategoryColorsRequest,
            FillsRequest,
            WordsRequest,
        ),
        *(AxisTitlesRequest, LegendRequest, PictureRequest, LanguageRequest),
    ),
    settle=settled_bars,
    arrange=_arranged,
    picture=Later("chart.bars.picture", "bar_scene"),
    rows=Later("chart.bars.rows", "bar_rows"),
    advise=Later("chart.bars.advice", "advice_on_bars"),
)
