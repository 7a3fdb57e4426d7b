"""Tables."""

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from grainstack.making.kind import Kind, Product
from grainstack.option_fields import Medium, Request, names_in_pattern, switch, word
from grainstack.records.records_request import RecordsRequest, plain_csv
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
from grainstack.summary.summary_request import SummaryRequest

if TYPE_CHECKING:
    from grainstack.advice import Advice
    from grainstack.chart.scene import Scene
    from grainstack.chart.terminal.screen import Screen
    from grainstack.summary.table import SummaryTable

BESIDES = ("base", "limits", "letters", "error")  # what a cell may hold besides its figures


class TableRequest(Request, frozen=True):
    """What a table shows besides its figures.

    Attributes:
        splits: Every column it is split by, side by side.
        bases: Everything its shares are shares of, side by side.
    """

    design_figures: bool = switch(
        "Give standard errors, effective bases, design and weighting effects, and explain them.", group="Survey design"
    )
    in_cell: str = word(
        "",
        "What a cell holds: statistics, base, limits, letters or error, in any pattern: 'share (count)'.",
        group="Output",
        metavar="PATTERN",
    )
    wide: bool = switch("Write the crosstab to .csv as it is printed, unrounded.", group="Output", medium=Medium.CSV)
    plain_csv: bool = plain_csv()
    splits: tuple[str, ...] = ()
    bases: tuple[str, ...] = ()

    @classmethod
    def implied(cls, values: Mapping[str, Any]) -> Mapping[str, Any]:
        """A table may have several splits and bases, and shows the statistics its cells are to hold.

        Args:
            values: What was asked, by field name.
        """
        found: dict[str, Any] = {}
        for one, all_of_them in (("split", "splits"), ("base", "bases")):
            given = values.get(one)
            if isinstance(given, list | tuple):
                found |= {one: given[0] if given else None, all_of_them: tuple(given)}
        if values.get("in_cell") and not values.get("stat"):
            found["stat"] = tuple(one for one in names_in_pattern(values["in_cell"]) if one not in BESIDES)
        return found

    def asked_for(self) -> Mapping[str, Any]:
        """What was asked for; several splits and bases as they were."""
        several = {"split": self.splits, "base": self.bases}
        return {**Request.asked_for(self), **{name: found for name, found in several.items() if found}}

    def blocks(self, summary: SummaryRequest) -> list[tuple[str | None, str | None]]:
        """Each split and base of the tables side by side; one alone where neither is repeated.

        Args:
            summary: What the first of them shows.
        """
        splits, bases = self.splits or (summary.split,), self.bases or (summary.base,)
        return [(split, base) for split in splits for base in bases]


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
    repeated=("split", "base"),
    summary="Figures as a table, with limits and bases.",
    product=Product.TABLE,
    models=(
        *(RecordsRequest, SummaryRequest, DesignRequest, SpreadRequest, ComparisonRequest, SmallBaseRequest),
        *(RoundingRequest, OrderRequest, TableRequest, LanguageRequest),
    ),
    settle=_settled,
    arrange=_arranged,
    picture=_picture,
    rows=_rows,
    advise=_advice,
    most_used=(
        "by",
        "split",
        "measure",
        "stat",
        "base",
        "totals",
        "items",
        "net",
        "error_bars",
        "letters",
        "in_cell",
        "out",
    ),
    examples=(
        "table passengers.csv --by route --measure wait --letters",
        "table passengers.csv --by route --split ticket --split season --stat share",
    ),
)
