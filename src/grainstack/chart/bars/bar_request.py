"""How bars are asked for, and which summary they are drawn from."""

from collections.abc import Mapping
from typing import Any

from msgspec.structs import replace

from grainstack.chart.chart_requests import AxisRequest, AxisTitlesRequest, PanelAxesRequest
from grainstack.chart.dots.dot_request import DotRequest, JoinedRequest, label_figures, swapped, upright, with_whiskers
from grainstack.chart.second_request import SecondRequest
from grainstack.errors import ChartError, IdleError, RequestError
from grainstack.option_fields import Medium, switch, word
from grainstack.option_names import command, option
from grainstack.records.records_request import ANSWER
from grainstack.requests import Requests
from grainstack.summary.options import SpreadRequest
from grainstack.summary.statistics import Linear, statistic_named
from grainstack.summary.summary_request import Figure, Purpose, SummaryRequest

_GROUP = "Layout and labels"
LAYOUTS = ("stacked", "grouped", "percent", "diverging")
LUMPED = ("stacked", "percent", "diverging")
FILLED = ("percent", "diverging")  # bars that show the shares of a whole, whatever stands beside them
PLACES = ("auto", "inside", "end", "outside")


class BarRequest(DotRequest, frozen=True):
    """How bars are laid out.

    Raises:
        RequestError: A width out of range, or sides without a diverging layout.
    """

    layout: str | None = word(
        None, "How the series of a category stand together.", group=_GROUP, metavar="LAYOUT", choices=LAYOUTS
    )
    opposite: str | None = word(
        None, "Series of a diverging chart that point to the other side.", group=_GROUP, metavar="LEVELS"
    )
    neutral: str | None = word(
        None,
        "Series that straddle the middle; `apart` sets them apart at the end, `none` has no middle.",
        group=_GROUP,
        metavar="LEVELS|apart|none",
    )
    label_place: str = word(
        "auto",
        "Where figures are written.",
        group=_GROUP,
        metavar="PLACE",
        choices=PLACES,
        medium=Medium.PICTURE,
    )
    show_records: bool = switch(
        "Draw the records as dots over the bar of their mean.", group=_GROUP, medium=Medium.PICTURE
    )
    bar_width: float | None = word(
        None,
        "Width of bars as a share of their room, 0.1 to 1.",
        group=_GROUP,
        metavar="N",
        within=(0.1, 1.0),
        medium=Medium.PICTURE,
    )
    gap: float | None = word(
        None,
        "Gap between neighbours as a share of a bar's width, 0 to 1.",
        group=_GROUP,
        metavar="N",
        within=(0.0, 1.0),
        medium=Medium.PICTURE,
    )

    bracket: tuple[str, ...] = word(
        (),
        "A bracket from one bar to another with their tested difference and its p-value; repeatable.",
        group="Comparison",
        metavar="'A, B'",
        medium=Medium.PICTURE,
    )

    @classmethod
    def implied(cls, values: Mapping[str, Any]) -> Mapping[str, Any]:
        """Bars that fill up to a whole show all answers to questions put together; a statistic of them stands beside.

        Args:
            values: What was asked, by field name, and what that implies for the records.
        """
        stat = values.get("stat") or ()
        of_answers = bool(values.get("items")) and tuple(values.get("measure") or ()) == (ANSWER,)
        if not of_answers or not stat or values.get("layout") not in FILLED or {"count", "share"}.intersection(stat):
            return {}
        return {"stat": ("share", *stat), "split": values.get("split") or ANSWER}

    def __post_init__(self) -> None:
        DotRequest.__post_init__(self)
        if self.layout != "diverging" and (self.opposite or self.neutral):
            raise IdleError(
                f"{option('opposite')} and {option('neutral')} belong to diverging bars.",
                f"Add {option('layout', 'diverging')}.",
            )


def settled_bars(requests: Requests) -> Requests:
    """The summary bars are drawn from.

    Percent and diverging bars show each category's shares unless another statistic was asked for. Whiskers are drawn
    only when they are wanted.

    Raises:
        RequestError: Options that contradict each other.
        ChartError: Figures that cannot be drawn together.
    """
    bars = requests[BarRequest]
    requests = swapped(requests) if bars.swap else requests
    if requests.usual(JoinedRequest).joined:
        requests = requests.having(_checked_areas(upright(bars), requests))
        bars = requests[BarRequest]
    summary = _as_layout(requests[SummaryRequest], bars)
    if bars.bracket:
        summary = _with_brackets(summary, bars)
    spread = with_whiskers(summary)
    if bars.layout in LUMPED:
        if bars.layout != "diverging":  # two series need not add up to stand on two sides
            summary.check_adds_up(f"{option('layout')} {bars.layout}")
        if summary.given_limits and bars.layout != "diverging":  # of one series on each side they are its own
            raise RequestError(
                f"{option(summary.given_limits[0])}: parts of a bar carry no ready-made limits.",
                f"Use {option('layout', 'grouped')}, or leave them out.",
            )
    if single_bar(summary, bars):
        summary.check_no_nets("A single bar", summary.by)
    _check_records(summary, bars)
    if requests.usual(PanelAxesRequest).panel_axes == "free" and requests.usual(SecondRequest).second_measure:
        raise RequestError(
            f"{option('panel_axes', 'free')}: a second measure has one axis for all panels.", "Leave one of them out."
        )
    also = (*label_figures(summary, bars.labels), *_second(requests.usual(SecondRequest)))
    totals = _whole_stacks(summary, bars, spread) or bool(
        requests.usual(SecondRequest).second_measure and summary.split
    )
    keep_values = summary.keep_values or bars.show_records
    return requests.having(replace(summary, spread=spread, also=also, series_totals=totals, keep_values=keep_values))


def _checked_areas(bars: BarRequest, requests: Requests) -> BarRequest:
    """The request of areas.

    Raises:
        RequestError: Bars that are not on each other, or whiskers, which areas have no place for.
    """
    if bars.layout not in ("stacked", "percent"):
        raise RequestError(
            f"{option('joined')} joins stacked or percent bars into areas.",
            f"Add {option('layout', 'percent')}; lines are {command('dot')} {option('joined')}.",
        )
    if requests[SummaryRequest].spread.error_bars not in (None, "none"):
        raise RequestError("Areas carry no whiskers.", f"Draw lines: {command('dot')} {option('joined')}.")
    return bars


def _with_brackets(summary: SummaryRequest, bars: BarRequest) -> SummaryRequest:
    """The summary with the tests that brackets tell.

    Raises:
        RequestError: Bars that stand on each other, figures that are not tested, or changes.
    """
    if bars.layout in LUMPED:
        raise RequestError(
            f"{option('bracket')} goes from bar to bar, and these stand on each other.",
            f"Use {option('layout', 'grouped')}.",
        )
    if summary.comparison.relative_to or summary.is_complete or summary.value:
        raise RequestError(
            f"{option('bracket')} tells a tested difference, and these figures are not tested.", "Leave it out."
        )
    linear = [one.statistic.linear for one in summary.figures if one.purpose is Purpose.SHOWN]
    if linear not in ([Linear.RATIO], [Linear.SHARE]):
        raise RequestError(
            f"{option('bracket')} tells the difference of two means, shares or rates.",
            f"Show one of them: {option('measure', 'COLUMN')}, or {option('stat', 'share')}.",
        )
    compare = summary.comparison.compare or "pairs"
    return replace(summary, comparison=replace(summary.comparison, compare=compare))


def single_bar(summary: SummaryRequest, bars: BarRequest) -> bool:
    """Whether the levels of one column are the segments of one bar."""
    return bars.layout in ("stacked", "percent") and not summary.split and len(summary.figures) - len(summary.also) == 1


def check_axes_apart(requests: Requests) -> None:
    """Refuses what belongs to one value axis; for bars of several figures, each of which has its own.

    Raises:
        RequestError: Names the option.
    """
    if requests[BarRequest].swap and not requests[SummaryRequest].split:
        raise IdleError(
            f"{option('swap')} makes no difference: each of these figures has an axis of its own.", "Leave it out."
        )
    of_one_axis = ("value_range", "ticks", "reference", "value_title", "second_measure")
    every = [
        *requests[AxisRequest].given(),
        *requests[AxisTitlesRequest].given(),
        *requests.usual(SecondRequest).given(),
    ]
    given = [name for name in of_one_axis if name in every]
    if given:
        raise RequestError(
            f"{option(given[0])} belongs to one axis, and each of these figures has its own.",
            "Draw them one by one, or leave it out.",
        )


def _check_records(summary: SummaryRequest, bars: BarRequest) -> None:
    if bars.show_records and (len(summary.figures) > 1 or not summary.measure):
        raise RequestError(
            f"{option('show_records')} shows the values of one measure.", f"Name it with {option('measure')} COLUMN."
        )
    if bars.show_records and bars.layout in LUMPED:
        raise ChartError("Records cannot be drawn over stacked bars.", f"Use {option('layout', 'grouped')}.")


def _whole_stacks(summary: SummaryRequest, bars: BarRequest, spread: SpreadRequest) -> bool:
    """Whether totals over the series are wanted, for the whisker at the end of a stack."""
    return (
        bars.layout in (None, "stacked")
        and spread.error_bars != "none"
        and summary.split is not None
        and summary.names <= {"count", "sum"}
    )


def _as_layout(summary: SummaryRequest, bars: BarRequest) -> SummaryRequest:
    """The summary with the shares that a layout is made of, where it asks for figures that have them."""
    shown = tuple(one.statistic.name for one in summary.figures if one.purpose is Purpose.SHOWN)
    plain = shown in (("count",), ("share",)) and not any(one.measure for one in summary.figures[:1])
    others = tuple(name for name in summary.stat if name not in ("count", "share"))
    if bars.layout == "percent" and (plain or summary.stat == ("sum",) or summary.names == {"value"}):
        base = "category" if summary.split else "measures" if len(summary.measure) > 1 else summary.base
        return replace(summary, stat=("share", *(others if plain else ())), base=base)
    if bars.layout == "diverging" and plain and "count" not in summary.stat:
        return replace(summary, stat=("share", *others), base=summary.base or "category")
    return summary


def _second(second: SecondRequest) -> list[Figure]:
    if not second.second_measure:
        return []
    statistic = statistic_named(second.second_stat)
    measure = second.second_measure if statistic.measured else None
    return [Figure(statistic, measure, purpose=Purpose.SECOND)]
