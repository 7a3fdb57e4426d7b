"""Tables."""

from typing import TYPE_CHECKING

from grainstack.making.kind import Kind, Product
from grainstack.quick import dataclass
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
from grainstack.words import Request, switch

if TYPE_CHECKING:
    from grainstack.advice import Advice
    from grainstack.chart.scene import Scene
    from grainstack.chart.screen import Screen
    from grainstack.summary.table import SummaryTable


@dataclass(frozen=True, slots=True)
class TableRequest(Request):
    """What a table shows besides its figures."""

    design_figures: bool = switch(
        "Give standard errors, effective bases, design and weighting effects, and explain them.", group="Survey design"
    )


def _settled(requests: Requests) -> Requests:
    return requests


def _arranged(table: "SummaryTable", requests: Requests) -> "SummaryTable":  # noqa: ARG001 - as every kind
    return table


def _picture(table: "SummaryTable", requests: Requests) -> "Scene":
    raise NotImplementedError("a table is written, not drawn")


def _rows(table: "SummaryTable", requests: Requests, columns: int) -> "Screen":
    raise NotImplementedError("a table is written, not drawn")


def _advice(table: "SummaryTable", requests: Requests) -> "list[Advice]":  # noqa: ARG001 - as every kind
    return []


KIND = Kind(
    name="table",
    summary="Figures as a table, with limits and bases.",
    product=Product.TABLE,
    models=(
        *(RecordsRequest, SummaryRequest, DesignRequest, SpreadRequest, ComparisonRequest, SmallBaseRequest),
        *(RoundingRequest, OrderRequest, TableRequest),
    ),
    settle=_settled,
    arrange=_arranged,
    picture=_picture,
    rows=_rows,
    advise=_advice,
)
