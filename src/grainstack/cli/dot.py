"""`grainstack dot`: dots in place of bars."""

from dataclasses import replace
from pathlib import Path

from grainstack.chart.request import ChartRequest, DotRequest, PictureRequest, WordsRequest, as_bars
from grainstack.chart.scene import Scene
from grainstack.chart.wishes import AxisRequest, ColorsRequest, NumbersRequest
from grainstack.cli.bar import ENDINGS, PictureOutput
from grainstack.cli.options import Models
from grainstack.records.request import RecordsRequest
from grainstack.report.request import MessagesRequest
from grainstack.summary.order import OrderRequest
from grainstack.summary.request import SummaryRequest
from grainstack.summary.wishes import ComparisonRequest, DesignRequest, SmallBaseRequest, SpreadRequest

MODELS = (
    *(RecordsRequest, SummaryRequest, DesignRequest, SpreadRequest, ComparisonRequest, SmallBaseRequest, OrderRequest),
    *(DotRequest, AxisRequest, NumbersRequest, ColorsRequest, WordsRequest, PictureRequest),
    *(ChartRequest, PictureOutput, MessagesRequest),
)


def run(models: Models) -> None:
    """Dots on light stems, in the terminal or as a picture."""
    from grainstack.chart.arrange.dots import arranged_dots  # noqa: PLC0415 - a help page needs none of this
    from grainstack.chart.settled import settled_for_dots  # noqa: PLC0415
    from grainstack.cli.painting import draw  # noqa: PLC0415
    from grainstack.cli.reading import advise, inputs_of, say_order, table_for  # noqa: PLC0415
    from grainstack.output import check_targets  # noqa: PLC0415
    from grainstack.report.chart_advice import advice_on_series  # noqa: PLC0415

    records: RecordsRequest = models[RecordsRequest]
    chart: ChartRequest = replace(models[ChartRequest], bars=as_bars(models[DotRequest]))
    targets = [Path(name) for name in models[PictureOutput].out]
    check_targets(targets, inputs_of(records), ENDINGS)
    table = table_for(records, settled_for_dots(models[SummaryRequest], chart), models[OrderRequest])
    cells = arranged_dots(table)
    advise(table, records, models[MessagesRequest], advice_on_series(cells))

    def picture() -> Scene:
        from grainstack.chart.compose.dots import dot_scene  # noqa: PLC0415 - the terminal needs no fonts

        return dot_scene(cells, chart)

    def rows(columns: int) -> Scene:
        from grainstack.chart.compose.terminal_rows import dot_rows  # noqa: PLC0415 - pictures need none of it

        return dot_rows(cells, chart, columns)

    draw(targets, chart.picture.dpi, picture, rows)
    say_order(table, targets)
