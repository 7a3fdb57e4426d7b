"""How treemaps are asked for, and which summary their tiles are drawn from."""

from msgspec.structs import replace

from grainstack.chart.chart_requests import LABELS, labels_in
from grainstack.chart.colors_request import RAMPS, ColorsRequest
from grainstack.chart.pies.pie_request import settled_parts
from grainstack.errors import RequestError
from grainstack.option_fields import Request, word
from grainstack.option_names import option
from grainstack.requests import Requests
from grainstack.summary.statistics import statistic_named
from grainstack.summary.summary_request import Figure, Purpose, SummaryRequest

_GROUP = "Treemap"
COLOR_STATS = ("mean", "median", "sum", "min", "max")


class TreemapRequest(Request, frozen=True):
    """How a treemap is coloured and labelled.

    Raises:
        RequestError: An unknown kind of label.
    """

    label: str = word(
        "value", f"What is written under a name: {', '.join(LABELS)}, or none.", group=_GROUP, metavar="WHAT"
    )
    root_label: str | None = word(None, "A title bar over the whole, with its total.", group=_GROUP, metavar="TEXT")
    color_by: str | None = word(None, "A number that gives each tile its colour.", group=_GROUP, metavar="COLUMN")
    color_stat: str = word(
        "mean", "What is shown of it.", group=_GROUP, metavar="STAT", choices=COLOR_STATS, needs=("color_by",)
    )
    color_middle: float | None = word(
        None,
        "The value at the middle of a two-sided ramp; 0 where it has both signs.",
        group=_GROUP,
        metavar="NUMBER",
        needs=("color_by",),
    )

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        _ = self.labels

    @property
    def labels(self) -> tuple[str, ...]:
        """What is written under a name, in order."""
        return labels_in(self.label)


def settled_treemap(requests: Requests) -> Requests:
    """The summary tiles are drawn from: counts or sums, with a figure for their colour.

    Raises:
        RequestError: A split, a panel, or more than one figure.
    """
    summary, treemap = requests[SummaryRequest], requests[TreemapRequest]
    if summary.split or summary.panel:
        raise RequestError(
            "A treemap nests columns: outer ones first.",
            f"Repeat {option('by')} instead of {option('split')} and {option('panel')}.",
        )
    parts = settled_parts(requests, treemap.labels)
    _check_ramp(requests[ColorsRequest], treemap)
    if treemap.color_by:
        color = Figure(statistic_named(treemap.color_stat), treemap.color_by, purpose=Purpose.SECOND)
        parts = replace(parts, also=(*parts.also, color))
    return requests.having(parts)


def _check_ramp(colors: ColorsRequest, treemap: TreemapRequest) -> None:
    """Refuses colours that cannot stand for a number, and a middle of a ramp that has none.

    Raises:
        RequestError: Names the palette.
    """
    if treemap.color_by and colors.palette and colors.palette not in (*RAMPS, "slate"):
        raise RequestError(
            f"{option('palette')} {colors.palette} has colours for categories, not for a number.",
            f"Choose {', '.join((*RAMPS, 'slate'))}.",
        )
    if treemap.color_middle is not None and colors.palette not in (None, "furrow"):
        raise RequestError(
            f"{option('palette')} {colors.palette} runs one way and has no middle.",
            f"Use furrow, or leave {option('color_middle')} out.",
        )
