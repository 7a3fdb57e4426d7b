"""How pies are asked for, and which summary their slices are drawn from."""

from collections.abc import Sequence

from msgspec.structs import replace

from grainstack.chart.chart_requests import LABELS, PanelGridRequest, labels_in
from grainstack.chart.dots.dot_request import label_figures
from grainstack.errors import RequestError
from grainstack.option_fields import Medium, Request, names_in, switch, word
from grainstack.option_names import option
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import Requests
from grainstack.summary.order import KeepRequest, OrderRequest, order_of
from grainstack.summary.summary_request import SummaryRequest

_GROUP = "Pie"
_TURN = (-360.0, 360.0)


class PieRequest(PanelGridRequest, frozen=True):
    """How a pie is drawn and labelled.

    Raises:
        RequestError: An unknown kind of label.
    """

    label: str = word(
        "share",
        f"What is written at a slice: {', '.join(LABELS)}, a list of them, or none.",
        group=_GROUP,
        metavar="WHAT",
    )
    turn: float = word(
        0.0,
        "Where the first slice starts, clockwise from the top.",
        group=_GROUP,
        metavar="DEGREES",
        within=_TURN,
        medium=Medium.PICTURE,
    )
    ring: bool = switch("Draw a ring with the total in its middle.", group=_GROUP, medium=Medium.PICTURE)
    set_apart: str | None = word(
        None, "Slices that stand apart.", group=_GROUP, metavar="LEVELS", medium=Medium.PICTURE
    )

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        _ = self.labels

    @property
    def labels(self) -> tuple[str, ...]:
        """What is written at a slice, in order."""
        return labels_in(self.label)

    @property
    def apart(self) -> tuple[str, ...]:
        """The levels set apart."""
        return names_in(self.set_apart) if self.set_apart else ()


def settled_pie(requests: Requests) -> Requests:
    """The summary slices are drawn from: counts or sums of one column, largest first, with shares for labels.

    Raises:
        RequestError: More than one column or figure.
    """
    summary, order = requests[SummaryRequest], requests[OrderRequest]
    if summary.split or len(summary.by) > 1:
        raise RequestError(
            "A pie shows the levels of one column.",
            f"Draw one pie per level with {option('panel')} COLUMN, or a treemap.",
        )
    parts = settled_parts(requests, requests[PieRequest].labels)
    return requests.having(parts, order if order.order else replace(order, order="largest-first"))


def settled_parts(requests: Requests, labels: Sequence[str]) -> SummaryRequest:
    """The summary parts of a whole are drawn from: one count or sum without limits, with figures for labels.

    Raises:
        RequestError: More than one figure, totals or comparisons.
    """
    summary = requests[SummaryRequest]
    if len(summary.figures) > 1:
        raise RequestError(
            "Parts of a whole are of one figure.", f"Name one {option('stat')} and one {option('measure')}."
        )
    if summary.totals:
        raise RequestError("Totals have no place among parts of a whole.", f"Leave {option('totals')} out.")
    if summary.base:
        raise RequestError("Parts are always shares of their own whole.", f"Leave {option('base')} out.")
    if order_of(requests[KeepRequest]).drop_rest:
        raise RequestError(
            "Parts without the rest are no whole.", f"Leave {option('drop_rest')} out: the rest is a part of its own."
        )
    if requests[RecordsRequest].keep_empty:
        raise RequestError("A level without records has no area.", f"Leave {option('keep_empty')} out.")
    summary.check_adds_up("A chart of parts")
    summary.check_no_nets("A chart of parts", summary.by)
    if not summary.stat and summary.measure:
        summary = replace(summary, stat=("sum",))
    spread = replace(summary.spread, error_bars="none")
    return replace(summary, spread=spread, also=tuple(label_figures(summary, labels)), series_totals=False)
