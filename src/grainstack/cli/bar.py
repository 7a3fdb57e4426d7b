"""`grainstack bar`: bars in the terminal or as pictures."""

from dataclasses import dataclass, replace
from pathlib import Path

from grainstack.chart.request import BarRequest, ChartRequest, PictureRequest, WordsRequest
from grainstack.cli.failing import say, show
from grainstack.cli.options import Models
from grainstack.errors import RequestError
from grainstack.records.request import RecordsRequest
from grainstack.report.request import MessagesRequest
from grainstack.summary.order import OrderRequest
from grainstack.summary.request import SummaryRequest
from grainstack.summary.wishes import DesignRequest, SmallBaseRequest, SpreadRequest
from grainstack.words import word

ENDINGS = (".pdf", ".png", ".svg")


@dataclass(frozen=True, slots=True)
class PictureOutput:
    """Where a picture goes."""

    out: tuple[str, ...] = word(
        (),
        "Write a picture; its ending picks the format: .png, .svg or .pdf. Repeatable.",
        group="Output",
        metavar="FILE",
    )


MODELS = (
    *(RecordsRequest, SummaryRequest, DesignRequest, SpreadRequest, SmallBaseRequest, OrderRequest),
    *(BarRequest, WordsRequest, PictureRequest, PictureOutput, MessagesRequest),
)


def run(models: Models) -> None:
    """Bars, in the terminal or as a picture."""
    from grainstack.chart.arrange.bars import arranged_bars  # noqa: PLC0415 - a help page needs none of this
    from grainstack.cli.painting import paint_all, terminal_width  # noqa: PLC0415
    from grainstack.cli.reading import advise, inputs_of, table_for  # noqa: PLC0415
    from grainstack.output import check_targets  # noqa: PLC0415

    records: RecordsRequest = models[RecordsRequest]
    bars: BarRequest = models[BarRequest]
    targets = [Path(name) for name in models[PictureOutput].out]
    check_targets(targets, inputs_of(records), ENDINGS)
    summary = bars.settled(_charted(models[SummaryRequest]))
    table = table_for(records, summary, models[OrderRequest])
    advise(table, records, models[MessagesRequest])
    arrangement = arranged_bars(table, table.columns[0], bars.layout)
    chart = ChartRequest(bars, models[WordsRequest], models[PictureRequest])
    if not targets:
        from grainstack.chart.compose.terminal import terminal_scene  # noqa: PLC0415 - pictures need none of it
        from grainstack.paint.terminal import paint  # noqa: PLC0415

        columns, colors = terminal_width()
        show(paint(terminal_scene(table, table.columns[0], arrangement, chart, columns), colors=colors))
        return
    from grainstack.chart.compose.bars import bar_scene  # noqa: PLC0415 - the terminal needs no fonts

    paint_all(bar_scene(table, table.columns[0], arrangement, chart), targets, chart.picture.dpi)
    orders = [f"{dimension.variable.label} {dimension.ordered_by}" for dimension in table.dimensions]
    say(f"Order: {'; '.join(orders)}.")


def _charted(summary: SummaryRequest) -> SummaryRequest:
    """The request as a chart shows it: one figure, and no whiskers unless they are asked for."""
    if len(summary.figures) > 1:
        raise RequestError("A bar chart shows one statistic of one measure.", "Use grainstack table for several.")
    if len(summary.by) > 1:
        raise RequestError("A bar chart has one column of categories.", "Name one with --by; use --split for another.")
    spread = summary.spread if summary.spread.error_bars else replace(summary.spread, error_bars="none")
    return replace(summary, spread=spread, series_totals=False)
