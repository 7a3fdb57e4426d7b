"""`grainstack pie`: a pie or ring of the parts of a whole."""

from dataclasses import replace
from pathlib import Path

from grainstack.chart.request import ChartRequest, PictureRequest, WordsRequest
from grainstack.chart.scene import Scene
from grainstack.chart.tiles import PieRequest
from grainstack.chart.wishes import ColorsRequest, NumbersRequest
from grainstack.cli.bar import ENDINGS, PictureOutput
from grainstack.cli.options import Models
from grainstack.records.request import RecordsRequest
from grainstack.report.request import MessagesRequest
from grainstack.summary.order import OrderRequest
from grainstack.summary.request import SummaryRequest
from grainstack.summary.wishes import DesignRequest, SmallBaseRequest

MODELS = (
    *(RecordsRequest, SummaryRequest, DesignRequest, SmallBaseRequest, OrderRequest),
    *(PieRequest, NumbersRequest, ColorsRequest, WordsRequest, PictureRequest),
    *(ChartRequest, PictureOutput, MessagesRequest),
)


def run(models: Models) -> None:
    """A pie or ring, in the terminal or as a picture."""
    from grainstack.chart.arrange.pie import arranged_pies  # noqa: PLC0415 - a help page needs none of this
    from grainstack.chart.settled import settled_for_pie  # noqa: PLC0415
    from grainstack.cli.painting import draw  # noqa: PLC0415
    from grainstack.cli.reading import advise, inputs_of, say_order, table_for  # noqa: PLC0415
    from grainstack.output import check_targets  # noqa: PLC0415
    from grainstack.report.chart_advice import advice_on_pies  # noqa: PLC0415

    records: RecordsRequest = models[RecordsRequest]
    chart: ChartRequest = models[ChartRequest]
    pie: PieRequest = models[PieRequest]
    order: OrderRequest = models[OrderRequest]
    targets = [Path(name) for name in models[PictureOutput].out]
    check_targets(targets, inputs_of(records), ENDINGS)
    order = order if order.order else replace(order, order="largest-first")
    table = table_for(records, settled_for_pie(models[SummaryRequest], pie), order)
    pies = arranged_pies(table, pie)
    advise(table, records, models[MessagesRequest], advice_on_pies(pies))

    def picture() -> Scene:
        from grainstack.chart.compose.pie import pie_scene  # noqa: PLC0415 - the terminal needs no fonts

        return pie_scene(pies, chart, pie)

    def rows(columns: int) -> Scene:
        from grainstack.chart.compose.terminal_tiles import pie_rows  # noqa: PLC0415 - pictures need none of it

        return pie_rows(pies, chart, pie, columns)

    draw(targets, chart.picture.dpi, picture, rows)
    say_order(table, targets)
