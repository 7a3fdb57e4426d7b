"""`grainstack bar`: bars in the terminal or as pictures."""

from dataclasses import dataclass
from pathlib import Path

from grainstack.chart.request import BarRequest, ChartRequest, PictureRequest, WordsRequest
from grainstack.chart.scene import Scene
from grainstack.chart.wishes import AxisRequest, ColorsRequest, NumbersRequest, SecondRequest
from grainstack.cli.options import Models
from grainstack.records.request import RecordsRequest
from grainstack.report.request import MessagesRequest
from grainstack.summary.order import OrderRequest
from grainstack.summary.request import SummaryRequest
from grainstack.summary.wishes import ComparisonRequest, DesignRequest, SmallBaseRequest, SpreadRequest
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
    *(RecordsRequest, SummaryRequest, DesignRequest, SpreadRequest, ComparisonRequest, SmallBaseRequest, OrderRequest),
    *(BarRequest, SecondRequest, AxisRequest, NumbersRequest, ColorsRequest, WordsRequest, PictureRequest),
    *(ChartRequest, PictureOutput, MessagesRequest),
)


def run(models: Models) -> None:
    """Bars, in the terminal or as a picture."""
    from grainstack.chart.arrange.bars import arranged_bars  # noqa: PLC0415 - a help page needs none of this
    from grainstack.chart.settled import settled_for_bars, single_bar  # noqa: PLC0415
    from grainstack.cli.painting import draw  # noqa: PLC0415
    from grainstack.cli.reading import advise, inputs_of, say_order, table_for  # noqa: PLC0415
    from grainstack.output import check_targets  # noqa: PLC0415
    from grainstack.report.chart_advice import advice_on_bars  # noqa: PLC0415

    records: RecordsRequest = models[RecordsRequest]
    chart: ChartRequest = models[ChartRequest]
    targets = [Path(name) for name in models[PictureOutput].out]
    check_targets(targets, inputs_of(records), ENDINGS)
    summary = settled_for_bars(models[SummaryRequest], chart)
    table = table_for(records, summary, models[OrderRequest])
    arrangement = arranged_bars(table, chart.bars, single=single_bar(summary, chart.bars))
    advise(table, records, models[MessagesRequest], advice_on_bars(arrangement, chart))

    def picture() -> Scene:
        from grainstack.chart.compose.bars import bar_scene  # noqa: PLC0415 - the terminal needs no fonts

        return bar_scene(arrangement, chart)

    def rows(columns: int) -> Scene:
        from grainstack.chart.compose.terminal import terminal_scene  # noqa: PLC0415 - pictures need none of it

        return terminal_scene(arrangement, chart, columns)

    draw(targets, chart.picture.dpi, picture, rows)
    say_order(table, targets)
