"""How dots are asked for, and which summary they are drawn from; bars share most of it."""

from collections.abc import Sequence
from typing import TypeVar

from msgspec.structs import replace

from grainstack.chart.chart_requests import MARK_LABELS, PlotRequest, labels_in
from grainstack.errors import IdleError, RequestError
from grainstack.option_fields import Medium, Request, switch, word
from grainstack.option_names import option
from grainstack.requests import Requests
from grainstack.summary.options import SpreadRequest
from grainstack.summary.order import OrderRequest
from grainstack.summary.statistics import STATISTICS
from grainstack.summary.summary_request import Figure, Purpose, SummaryRequest

_GROUP = "Layout and labels"
D = TypeVar("D", bound="DotRequest")


class DotRequest(PlotRequest, frozen=True):
    """What is written at a dot or bar.

    Raises:
        RequestError: An unknown kind of label.
    """

    swap: bool = switch(
        f"Exchange {option('by')} and {option('split')}: the same figures, the other question.", group=_GROUP
    )
    label: str | None = word(
        None,
        f"What to print on each mark: {', '.join(MARK_LABELS)}, a list of them, or none.",
        group=_GROUP,
        metavar="WHAT",
    )

    def __post_init__(self) -> None:
        PlotRequest.__post_init__(self)
        _ = self.labels

    @property
    def labels(self) -> tuple[str, ...]:
        """What is written at a bar, in order; the value where nothing was said."""
        return labels_in(self.label or "value", MARK_LABELS)


class JoinedRequest(Request, frozen=True):
    """Whether dots are joined by lines."""

    joined: bool = switch(
        "Join dots by lines, and stacked or percent bars into areas, along times or other categories with an order.",
        group=_GROUP,
        medium=Medium.PICTURE,
    )


def settled_dots(requests: Requests) -> Requests:
    """The summary dots are drawn from: any statistics, split or not.

    Raises:
        RequestError: Options that contradict each other.
    """
    dots = requests[DotRequest]
    requests = swapped(requests) if dots.swap else requests
    summary = requests[SummaryRequest]
    check_one_set_of_series(summary)
    if requests.usual(JoinedRequest).joined:
        requests = requests.having(upright(dots))
    summary.check_no_nets("A dot chart", (summary.split,) if summary.split else ())
    also = tuple(label_figures(summary, dots.labels))
    return requests.having(replace(summary, spread=with_whiskers(summary), also=also, series_totals=False))


def upright(dots: D) -> D:
    """The same with categories from left to right, as lines and areas run.

    Args:
        dots: The request of dots or bars.

    Raises:
        RequestError: They were to run from top to bottom.
    """
    if dots.direction == "horizontal":
        raise RequestError(f"{option('joined')} runs from left to right.", f"Leave {option('direction')} out.")
    return replace(dots, direction="vertical")


def swapped(requests: Requests) -> Requests:
    """The same figures with categories and series exchanged.

    Raises:
        RequestError: There are no series.
    """
    summary = requests[SummaryRequest]
    if len(summary.figures) > 1 and not summary.split and len(summary.by) == 1:
        return requests  # figures are exchanged with the categories when cells are arranged
    if not summary.split:
        raise IdleError(
            f"{option('swap')} exchanges {option('by')} and {option('split')}, but there is no {option('split')}.",
            f"Name it with {option('split')} COLUMN.",
        )
    order = requests[OrderRequest]
    if len(summary.by) == 1:
        order = replace(order, order=order.split_order, split_order=order.order)
    elif order.split_order:
        raise RequestError(
            f"{option('split_order')} cannot follow {option('swap')}: inner categories have no order of their own.",
            f"Exchange {option('by')} and {option('split')} yourself.",
        )
    summary = replace(summary, by=(*summary.by[:-1], summary.split), split=summary.by[-1])
    return requests.having(summary, order)


def check_one_set_of_series(summary: SummaryRequest) -> None:
    """Refuses series of two kinds at once.

    Raises:
        RequestError: Several figures and a split.
    """
    shown = [figure for figure in summary.figures if figure.purpose is Purpose.SHOWN]
    if len(shown) > 1 and summary.split:
        raise RequestError(
            f"Several figures are series already, so {option('split')} has no place.",
            f"Leave one of them out, or use {option('panel')}.",
        )


def with_whiskers(summary: SummaryRequest) -> SpreadRequest:
    """The spread of a chart: none unless it was asked for, or letters stand beyond the whiskers.

    Raises:
        RequestError: Something was said of limits that are not drawn.
    """
    spread = summary.spread
    if summary.comparison.wanted or spread.error_bars:
        return spread
    idle = [name for name in spread.given() if name != "error_bars"]
    if idle:
        raise IdleError(
            f"{option(idle[0])} makes no difference: no limits are drawn.",
            f"Add {option('error_bars', 'confidence')}.",
        )
    return replace(spread, error_bars="none")


def label_figures(summary: SummaryRequest, labels: Sequence[str]) -> list[Figure]:
    """Shares and counts that are written at marks which show something else.

    Raises:
        RequestError: Something that ready-made figures do not tell.
    """
    figures = []
    for kind in ("share", "count"):
        if kind not in labels or summary.names == {kind}:
            continue
        if summary.value and kind == "count":
            raise RequestError(
                f"{option('label')} count needs records; {option('value')} draws figures as they are.",
                "Leave it out.",
            )
        if kind == "share":
            summary.check_adds_up("A share")
        measure = summary.value
        if kind == "share" and summary.names == {"sum"}:
            measure = summary.measure[0]
        figures.append(Figure(STATISTICS[kind], measure, purpose=Purpose.LABEL))
    return figures
