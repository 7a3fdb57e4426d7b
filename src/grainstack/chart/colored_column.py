"""The column whose levels have the colours of a chart, and how many of them a palette can tell apart."""

from grainstack.chart.bars.bar_request import BarRequest
from grainstack.chart.colors_request import RAMPS, CategoryColorsRequest, ColorsRequest
from grainstack.chart.look.coloring import MOST_COLORS
from grainstack.chart.look.palette import NAMED, shades
from grainstack.chart.look.style_file import look_of
from grainstack.chart.treemaps.treemap_request import TreemapRequest
from grainstack.records.variable import Level
from grainstack.requests import Requests
from grainstack.summary.order import OrderRequest
from grainstack.summary.table import Dimension, SummaryTable


def colored_column(table: SummaryTable, request: Requests) -> Dimension | None:
    """The column of a chart whose levels have a colour each; None where colours tell nothing, or run along a scale.

    Args:
        table: The figures of the chart.
        request: What was asked for.
    """
    if request.usual(ColorsRequest).one_color:
        return None
    found = table.series
    if found is None and request.usual(CategoryColorsRequest).color_by_category:
        found = table.categories[-1]
    nested = len(table.categories) > 1 and any(isinstance(one, TreemapRequest) for one in request)
    if nested and not request[TreemapRequest].color_by:
        found = table.categories[0]
    return None if found is None or _is_on_a_ramp(found, request) else found


def told_apart(column: Dimension, request: Requests) -> tuple[Level, ...]:
    """The levels of a column that need a colour of the palette: those that have none of their own.

    Args:
        column: The column.
        request: What was asked for.
    """
    typed = request.usual(ColorsRequest).by_level
    return tuple(one for one in column.levels if not (one.is_special or one.color or one.label in typed))


def series_to_keep(table: SummaryTable, request: Requests) -> int | None:
    """How many series keep a colour of their own where there are more than the palette has; None where all have one.

    Args:
        table: The figures of the chart.
        request: What was asked for.
    """
    column = colored_column(table, request)
    if column is None or column is not table.series or request.usual(OrderRequest).split_keep_top is not None:
        return None
    if request.usual(BarRequest).layout == "diverging" or "" in request.usual(ColorsRequest).by_level:
        return None
    most = min(MOST_COLORS, len(shades(_palette(request), MOST_COLORS)))
    return most if len(told_apart(column, request)) > most else None


def _palette(request: Requests) -> str:
    return request.usual(ColorsRequest).palette or look_of(request).nominal


def _is_on_a_ramp(column: Dimension, request: Requests) -> bool:
    """Whether the levels have the steps of a ramp, of which there are as many as are needed."""
    name = request.usual(ColorsRequest).palette
    if column.variable.is_ordered:
        return name is None or name in RAMPS or name not in NAMED or name == "slate"
    return (name or look_of(request).nominal) in RAMPS
