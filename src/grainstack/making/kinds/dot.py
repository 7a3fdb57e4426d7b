"""Dots on light stems."""

from typing import TYPE_CHECKING

from grainstack.chart.colors_request import CategoryColorsRequest, ColorsRequest
from grainstack.chart.dots.request import DotRequest, settled_dots
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.request import AxisRequest, AxisTitlesRequest, LegendRequest, NumbersRequest, WordsRequest
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
    from grainstack.chart.cells import ChartCells
    from grainstack.summary.table import SummaryTable


def _arranged(table: "SummaryTable", requests: Requests) -> "ChartCells":
    from grainstack.chart.dots.arrangement import arranged_dots  # noqa: PLC0415 - a help page needs none of it

    return arranged_dots(table, swapped=requests[DotRequest].swap)


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
        *(
            DotRequest,
            AxisRequest,
            NumbersRequest,
            RoundingRequest,
            CategoryColorsRequest,
            ColorsRequest,
            WordsRequest,
            AxisTitlesRequest,
        ),
        *(LegendRequest, PictureRequest, LanguageRequest),
    ),
    settle=settled_dots,
    arrange=_arranged,
    picture=Later("chart.dots.picture", "dot_scene"),
    rows=Later("chart.dots.rows", "dot_rows"),
    advise=Later("chart.dots.advice", "advice_on_dots"),
)
