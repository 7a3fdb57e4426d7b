"""`grainstack treemap`: nested tiles of the parts of a whole."""

from pathlib import Path

from grainstack.chart.request import ChartRequest, PictureRequest, WordsRequest
from grainstack.chart.scene import Scene
from grainstack.chart.tiles import TreemapRequest
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
    *(TreemapRequest, NumbersRequest, ColorsRequest, WordsRequest, PictureRequest),
    *(ChartRequest, PictureOutput, MessagesRequest),
)


def run(models: Models) -> None:
    """Nested tiles, in the terminal as a list or as a picture."""
    from grainstack.chart.arrange.treemap import arranged_tree  # noqa: PLC0415 - a help page needs none of this
    from grainstack.chart.settled import settled_for_treemap  # noqa: PLC0415
    from grainstack.cli.painting import draw  # noqa: PLC0415
    from grainstack.cli.reading import advise, inputs_of, table_for  # noqa: PLC0415
    from grainstack.output import check_targets  # noqa: PLC0415
    from grainstack.report.chart_advice import advice_on_tree  # noqa: PLC0415

    records: RecordsRequest = models[RecordsRequest]
    chart: ChartRequest = models[ChartRequest]
    treemap: TreemapRequest = models[TreemapRequest]
    targets = [Path(name) for name in models[PictureOutput].out]
    check_targets(targets, inputs_of(records), ENDINGS)
    table = table_for(records, settled_for_treemap(models[SummaryRequest], treemap), models[OrderRequest])
    tree = arranged_tree(table)
    advise(table, records, models[MessagesRequest], advice_on_tree(tree))

    def picture() -> Scene:
        from grainstack.chart.compose.treemap import treemap_scene  # noqa: PLC0415 - the terminal needs no fonts

        return treemap_scene(tree, chart, treemap)

    def rows(columns: int) -> Scene:
        from grainstack.chart.compose.terminal_tiles import tree_rows  # noqa: PLC0415 - pictures need none of it

        return tree_rows(tree, chart, treemap, columns)

    draw(targets, chart.picture.dpi, picture, rows)
