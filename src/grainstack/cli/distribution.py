"""`grainstack distribution`: what lies behind a mean."""

from dataclasses import dataclass, replace
from pathlib import Path

from grainstack.chart.request import ChartRequest, PictureRequest, PlacingRequest, WordsRequest, as_bars
from grainstack.chart.scene import Scene
from grainstack.chart.wishes import AxisRequest, ColorsRequest, NumbersRequest
from grainstack.cli.bar import ENDINGS, PictureOutput
from grainstack.cli.options import Models
from grainstack.errors import RequestError
from grainstack.records.request import RecordsRequest
from grainstack.records.variable import EVERYTHING
from grainstack.report.request import MessagesRequest
from grainstack.summary.order import OrderRequest
from grainstack.summary.request import SummaryRequest
from grainstack.summary.wishes import DesignRequest, SmallBaseRequest
from grainstack.words import word

FORMS = ("box", "points", "histogram")


@dataclass(frozen=True, slots=True)
class DistributionRequest:
    """How a distribution is drawn."""

    form: str = word("box", "Boxes, points or histograms.", group="Distribution", metavar="FORM", choices=FORMS)


MODELS = (
    *(RecordsRequest, DistributionRequest, SummaryRequest, DesignRequest, SmallBaseRequest),
    *(OrderRequest, PlacingRequest, AxisRequest, NumbersRequest, ColorsRequest, WordsRequest, PictureRequest),
    *(ChartRequest, PictureOutput, MessagesRequest),
)
DEFAULTS = {"by": [EVERYTHING]}


def run(models: Models) -> None:
    """Boxes, points or histograms of one number, for each category."""
    from grainstack.chart.arrange.distribution import distribution_of  # noqa: PLC0415 - help needs none of this
    from grainstack.cli.painting import draw  # noqa: PLC0415
    from grainstack.cli.reading import advise, inputs_of, say_order, table_for  # noqa: PLC0415
    from grainstack.output import check_targets  # noqa: PLC0415

    records, bands = _with_own_bands(models[RecordsRequest], models[SummaryRequest])
    chart: ChartRequest = replace(models[ChartRequest], bars=as_bars(models[PlacingRequest]))
    form: str = models[DistributionRequest].form
    targets = [Path(name) for name in models[PictureOutput].out]
    check_targets(targets, inputs_of(records), ENDINGS)
    table = table_for(records, _settled(models[SummaryRequest]), models[OrderRequest])
    messages: MessagesRequest = models[MessagesRequest]
    advise(table, records, replace(messages, no_advice=(*messages.no_advice, "hidden-shape")))  # it is being shown
    distribution = distribution_of(table)

    def picture() -> Scene:
        if form == "histogram":
            from grainstack.chart.compose.histogram import histogram_scene  # noqa: PLC0415 - the terminal needs no fonts

            return histogram_scene(distribution, chart, bands)
        from grainstack.chart.compose.distribution import distribution_scene  # noqa: PLC0415 - the same

        return distribution_scene(distribution, chart, form)

    def rows(columns: int) -> Scene:
        from grainstack.chart.compose.terminal_rows import distribution_rows  # noqa: PLC0415 - pictures need none

        return distribution_rows(distribution, chart, form, bands, columns)

    draw(targets, chart.picture.dpi, picture, rows)
    say_order(table, targets)


def _settled(summary: SummaryRequest) -> SummaryRequest:
    """The summary behind a distribution: the mean of one measure, with all its values."""
    if len(summary.measure) != 1 or summary.stat or summary.value:
        raise RequestError(
            "A distribution is of one number.", "Name it with --measure COLUMN, without --stat or --value."
        )
    spread = replace(summary.spread, error_bars="none")
    return replace(summary, spread=spread, keep_values=True, series_totals=False)


def _with_own_bands(records: RecordsRequest, summary: SummaryRequest) -> tuple[RecordsRequest, str | None]:
    """The request without bands of the measure itself, and those bands: they cut the histogram, not the records."""
    own = [text for text in records.band if text.partition("=")[0] in summary.measure]
    others = tuple(text for text in records.band if text not in own)
    return replace(records, band=others), own[0].partition("=")[2] if own else None
