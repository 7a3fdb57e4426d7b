"""How distributions are asked for, and which summary they are drawn from."""

from collections.abc import Mapping
from typing import Any

from msgspec.structs import replace

from grainstack.chart.annotation_request import AnnotationRequest
from grainstack.chart.chart_requests import AxisRequest, LegendRequest, PlotRequest, RecordDotsRequest
from grainstack.chart.colors_request import ColorsRequest
from grainstack.errors import RequestError, listed
from grainstack.option_fields import Medium, word
from grainstack.option_names import option
from grainstack.records.records_request import RecordsRequest
from grainstack.records.variable import EVERYTHING
from grainstack.requests import Requests
from grainstack.summary.summary_request import SummaryRequest

FORMS = ("box", "points", "histogram")
HEIGHTS = ("share", "count", "density")


class DistributionRequest(PlotRequest, frozen=True):
    """How a distribution is drawn.

    Attributes:
        bands: The bands of a histogram, as typed after `COLUMN=`; None to choose them.
        heights: What its heights are, one of `HEIGHTS`; None for shares, or densities where bands differ in width.
    """

    form: str = word("box", "Boxes, points or histograms.", group="Distribution", metavar="FORM", choices=FORMS)
    label: str = word(
        "none",
        "What is written at the bands of a histogram: value, or none.",
        group="Distribution",
        metavar="WHAT",
        choices=("value", "none"),
        medium=Medium.PICTURE,
    )
    bands: str | None = None
    heights: str | None = None

    def asked_for(self) -> Mapping[str, Any]:
        """What was asked for; heights as the statistic they were asked for by."""
        given = PlotRequest.asked_for(self)
        return {**given, "stat": (self.heights,)} if self.heights else given

    @classmethod
    def implied(cls, values: Mapping[str, Any]) -> Mapping[str, Any]:
        """For histograms, a statistic is what their heights are, and not what is summed up."""
        stat = values.get("stat") or ()
        if values.get("form") != "histogram" or not stat:
            return {}
        if len(stat) > 1 or stat[0] not in HEIGHTS:
            raise RequestError(
                f"{option('stat')} {', '.join(stat)}: heights of a histogram are {listed(HEIGHTS)}.", "Choose one."
            )
        return {"heights": stat[0], "stat": ()}


def settled_distribution(requests: Requests) -> Requests:
    """The summary behind a distribution: the mean of one measure, with all its values.

    Bands of the measure itself cut the histogram, not the records.

    Raises:
        RequestError: Not one measure, or options that other forms have.
    """
    requests[AxisRequest].check_no_names()
    summary, records, drawn = requests[SummaryRequest], requests[RecordsRequest], requests[DistributionRequest]
    if len(summary.measure) != 1 or summary.stat or summary.value:
        raise RequestError(
            "A distribution is of one number.",
            f"Name it with {option('measure')} COLUMN, without {option('stat')} or {option('value')}.",
        )
    summary.check_no_nets("A distribution", (summary.split,) if summary.split else ())
    if summary.base:
        raise RequestError("A distribution has no shares.", f"Leave {option('base')} out.")
    of_measure = [text for text in records.band if text.partition("=")[0].strip() in summary.measure]
    if of_measure and drawn.form != "histogram":
        raise RequestError(
            f"Bands of `{summary.measure[0]}` cut a histogram; a {drawn.form} has none.",
            f"Add {option('form', 'histogram')}, or leave {option('band')} out.",
        )
    if drawn.form != "histogram" and drawn.label != "none":
        raise RequestError(
            f"{option('label')} is for histograms; a {drawn.form} has no bands.",
            f"Add {option('form', 'histogram')}, or leave it out.",
        )
    if drawn.form == "histogram":
        _check_histogram(drawn, requests)
    dots = requests[RecordDotsRequest].given()
    if drawn.form != "points" and dots:
        raise RequestError(
            f"{option(dots[0])} is for dots of records.", f"Add {option('form', 'points')}, or leave it out."
        )
    colors = requests[ColorsRequest]
    if drawn.form == "points" and (colors.patterned or colors.outlined):
        wanted = option("hatch" if colors.patterned else "outline")
        raise RequestError(f"{wanted} is for areas, and points have none.", "Leave it out.")
    others = tuple(text for text in records.band if text not in of_measure)
    by = summary.by or (EVERYTHING,)
    spread = replace(summary.spread, error_bars="none")
    return requests.having(
        replace(summary, by=by, spread=spread, keep_values=True, series_totals=False),
        replace(records, band=others),
        replace(drawn, bands=of_measure[0].partition("=")[2] if of_measure else None),
    )


def _check_histogram(drawn: DistributionRequest, requests: Requests) -> None:
    """Refuses what is for marks of categories.

    Raises:
        RequestError: Names it.
    """
    if drawn.direction == "horizontal":
        raise RequestError("A histogram stands upright.", f"Leave {option('direction')} out.")
    if drawn.turn_names:
        raise RequestError(
            f"{option('turn_names')} is for names under bars; histograms have numbers there.", "Leave it out."
        )
    if requests[LegendRequest].legend != "auto":
        raise RequestError("Histograms stand in panels with their names.", f"Leave {option('legend')} out.")
    if requests[AnnotationRequest].annotation:
        raise RequestError(
            f"{option('annotation')} is for marks of categories; histograms have bands.", "Leave it out."
        )
