"""Random charts of every kind besides bars, composed from made-up tables."""

from math import isnan

from hypothesis import strategies as st

from grainstack.chart.chart_requests import LegendRequest, PlotRequest, WordsRequest
from grainstack.chart.distributions.box_picture import distribution_scene
from grainstack.chart.distributions.distribution_arrangement import distribution_of
from grainstack.chart.distributions.distribution_request import DistributionRequest
from grainstack.chart.dots.dot_arrangement import arranged_dots
from grainstack.chart.dots.dot_picture import dot_scene
from grainstack.chart.dots.dot_request import DotRequest
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.pies.pie_arrangement import arranged_pies
from grainstack.chart.pies.pie_picture import pie_scene
from grainstack.chart.pies.pie_request import PieRequest
from grainstack.chart.scene import Scene
from grainstack.chart.treemaps.tile_tree import arranged_tree
from grainstack.chart.treemaps.treemap_picture import treemap_scene
from grainstack.chart.treemaps.treemap_request import TreemapRequest
from grainstack.requests import Requests
from grainstack.summary.table import SummaryTable
from tests.chart.asking import chart_requests
from tests.chart.scenes import table_of
from tests.chart.test_bars import SIZES, figure, label

KINDS = ("dot", "box", "points", "histogram", "pie", "treemap")


def kind_scene(kind: str, table: SummaryTable, request: Requests, *, ring: bool = False) -> Scene:
    """A chart of one kind from a table."""
    if kind == "dot":
        return dot_scene(arranged_dots(table), request)
    if kind == "pie":
        asked = PieRequest(label="value", ring=ring)
        return pie_scene(arranged_pies(table, asked), request.having(asked))
    if kind == "treemap":
        tree = TreemapRequest(root_label="Everything" if ring else None, color_by="age" if ring else None)
        return treemap_scene(arranged_tree(table), request.having(tree))
    distribution = distribution_of(table)
    direction = request[PlotRequest].direction if kind != "histogram" else "auto"
    request = chart_requests(DistributionRequest(form=kind, direction=direction), *request)
    return distribution_scene(distribution, request)


@st.composite
def kind_requests(draw: st.DrawFn) -> tuple[str, SummaryTable, Requests, bool]:
    """A kind of chart, a table that suits it, and how it is to look."""
    kind = draw(st.sampled_from(KINDS))
    whole = kind in ("pie", "treemap")
    panels = tuple(draw(st.lists(label, max_size=3, unique=True))) if kind != "treemap" else ()
    outer = tuple(draw(st.lists(label, max_size=3, unique=True))) if kind != "pie" else ()
    most = max((12 if kind == "histogram" else 40) // max(len(panels) * len(outer), 1), 1)
    labels = [f"{n} {text}" for n, text in enumerate(draw(st.lists(label, min_size=1, max_size=most)))]
    split = not whole and kind != "histogram" and draw(st.booleans())
    series = [f"{n} {draw(label)}" for n in range(draw(st.integers(2, 5)))] if split else []
    count = len(labels) * max(len(series), 1) * max(len(outer), 1) * max(len(panels), 1)
    drawn = draw(st.lists(figure, min_size=1, max_size=20))
    figures = [drawn[(7 * n + n // 5) % len(drawn)] for n in range(count)]
    if whole:
        figures = [0.0 if isnan(value) else abs(value) for value in figures]
    figures[0] = 1.5 if isnan(figures[0]) or not figures[0] else figures[0]
    ring = draw(st.booleans())
    reach = draw(st.one_of(st.none(), st.floats(0, 50))) if kind == "dot" else None
    table = table_of(
        labels,
        series,
        figures,
        "sum" if whole else "mean",
        reach,
        outer=outer,
        panels=panels,
        letters=kind == "dot" and draw(st.booleans()),
        second=kind == "treemap" and ring,
    )
    request = chart_requests(
        DotRequest(direction=draw(st.sampled_from(["auto", "horizontal", "vertical"]))),
        WordsRequest(title=draw(st.one_of(st.none(), label))),
        LegendRequest(legend=draw(st.sampled_from(["auto", "right"] if series or kind == "pie" else ["auto"]))),
        PictureRequest(
            style=draw(st.sampled_from(["report", "slide", "print", "mono"])), size=draw(st.sampled_from(SIZES))
        ),
    )
    return kind, table, request, ring
