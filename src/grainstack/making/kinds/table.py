"""Tables."""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

from grainstack.errors import RequestError
from grainstack.making.kind import Kind, Product
from grainstack.option_fields import Medium, Request, names_in_pattern, switch, word
from grainstack.option_names import option
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

_BESIDE_BANNER = ("panel", "value", "items", "in_cell", "error_bars", "compare", "association", "relative_to", "wide")
BESIDES = ("base", "limits", "letters", "error")  # what a cell may hold besides its figures


class TableRequest(Request, frozen=True):
    """What a table shows besides its figures.

    Attributes:
        splits: Every column it is split by, side by side.
        bases: Everything its shares are shares of, side by side.
        questions: Of a banner table, the columns whose answers stand below each other.
        measures: Of a banner table, the columns whose means stand below them.
        of_measures: Of a banner table, the statistic of these.
        nets: Of a banner table, the nets of all its columns.
        levels: Of a banner table with capital and small letters, their confidence levels.

    Raises:
        RequestError: A banner beside what it has no place for.
    """

    banner: tuple[str, ...] = word(
        (),
        "Banner table: the answers of each question down, all records and the levels of these columns across, with "
        "letters.",
        group="Summary",
        metavar="COLUMN",
        decides=True,
    )
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
    questions: tuple[str, ...] = ()
    measures: tuple[str, ...] = ()
    of_measures: tuple[str, ...] = ()
    nets: tuple[str, ...] = ()
    levels: tuple[float, ...] = ()

    @classmethod
    def implied(cls, values: Mapping[str, Any]) -> Mapping[str, Any]:
        """A table may have several splits and bases, and shows the statistics its cells are to hold.

        Args:
            values: What was asked, by field name.
        """
        if values.get("banner"):
            return _of_banner(values)
        found: dict[str, Any] = {}
        level = values.get("confidence")
        if isinstance(level, list | tuple):
            if len(level) > 1:
                raise RequestError(
                    f"{option('confidence')} is given {len(level)} times; two are for the letters of a banner table.",
                    f"Name its columns with {option('banner')}, or give one.",
                )
            found["confidence"] = level[0]
        for one, all_of_them in (("split", "splits"), ("base", "bases")):
            given = values.get(one)
            if isinstance(given, list | tuple):
                found |= {one: given[0] if given else None, all_of_them: tuple(given)}
        if values.get("in_cell") and not values.get("stat"):
            found["stat"] = tuple(one for one in names_in_pattern(values["in_cell"]) if one not in BESIDES)
        return found

    def asked_for(self) -> Mapping[str, Any]:
        """What was asked for; several splits and bases as they were, and None for what a banner implies."""
        if self.banner:
            several = {"by": self.questions, "measure": self.measures, "stat": self.of_measures, "net": self.nets}
            implied = dict.fromkeys(("split", "base", "letters"))
            levels = {"confidence": self.levels} if self.levels else {}
            return {
                **Request.asked_for(self),
                **implied,
                **{name: one or None for name, one in several.items()},
                **levels,
            }
        several = {"split": self.splits, "base": self.bases}
        return {**Request.asked_for(self), **{name: found for name, found in several.items() if found}}

    def blocks(self, summary: SummaryRequest) -> list[tuple[str | None, str | None]]:
        """Each split and base of the tables side by side; one alone where neither is repeated.

        Args:
            summary: What the first of them shows.
        """
        splits, bases = self.splits or (summary.split,), self.bases or (summary.base,)
        return [(split, base) for split in splits for base in bases]


def _of_banner(values: Mapping[str, Any]) -> dict[str, Any]:
    """What a banner table is made of: shares of the first question in each level of its columns, with their letters.

    Args:
        values: What was asked, by field name.

    Raises:
        RequestError: A banner beside what it has no place for.
    """
    banner, questions = tuple(values["banner"]), tuple(values.get("by") or ())
    measures = tuple(values.get("measure") or ())
    stat = tuple(one for one in values.get("stat") or () if one != "share")
    if not questions and not measures:
        raise RequestError(
            f"{option('banner')} needs questions.",
            f"Name them with {option('by')}, or numbers with {option('measure')}.",
        )
    twice = next((one for one in (*banner, *questions) if (*banner, *questions).count(one) > 1), None)
    if twice:
        raise RequestError(f"`{twice}` stands twice in the table.", "Name it once.")
    if len(stat) > 1 or (stat and not measures):
        raise RequestError(
            f"{option('stat')} {', '.join(stat)}: answers of a banner table are shares, numbers have one statistic.",
            f"Name one, and numbers with {option('measure')}.",
        )
    others = {**values, "split": None if values.get("split") in (None, "", banner[0]) else values["split"]}
    idle = next((name for name in ("split", *_BESIDE_BANNER) if others.get(name)), None)
    if idle:
        raise RequestError(f"{option(idle)} has no place in a banner table.", "Leave it out.")
    levels = values.get("confidence") or 95.0
    both = sorted(levels if isinstance(levels, list | tuple) else (levels,), reverse=True)
    if len(both) > 2:
        raise RequestError(
            f"{option('confidence')} is given {len(both)} times: letters are capital or small.", "Give two."
        )
    of_answers = {"by": questions[:1], "measure": (), "stat": ("share",), "base": "series"}
    of_numbers = {"by": (), "measure": measures[:1], "stat": stat}
    return {
        **(of_answers if questions else of_numbers),
        "banner": banner,
        "split": banner[0],
        "questions": questions,
        "measures": measures,
        "of_measures": stat,
        "nets": tuple(values.get("net") or ()),
        "net": nets_of(values.get("net") or (), (*questions[:1], banner[0])),
        "letters": bool(questions) or is_tested(stat),
        "of_columns": True,
        "series_totals": True,
        "confidence": both[0],
        "levels": tuple(both) if len(both) > 1 else (),
        "looser_level": both[1] if len(both) > 1 else None,
    }


def is_tested(stat: Sequence[str]) -> bool:
    """Whether the numbers of a banner table have letters: means and rates do, which nothing said means too."""
    return not stat or stat[0] in ("mean", "rate")


def nets_of(nets: Sequence[str], columns: Sequence[str]) -> tuple[str, ...]:
    """Those nets that are of some columns.

    Args:
        nets: Nets as they are typed, each beginning with its column.
        columns: The columns.
    """
    return tuple(net for net in nets if net.partition(":")[0].strip() in columns)


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
    repeated=("split", "base", "confidence"),
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
        "table passengers.csv --by ticket --banner season --banner route --out banner.xlsx",
        "table passengers.csv --by route --measure wait --stat mean --stat median --out wait.csv",
    ),
)
