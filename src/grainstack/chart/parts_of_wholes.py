"""Whether what is asked for puts figures together, or shows them as parts of a whole."""

from grainstack.chart.bars.bar_request import LUMPED, BarRequest
from grainstack.chart.pies.pie_request import PieRequest
from grainstack.chart.treemaps.treemap_request import TreemapRequest
from grainstack.requests import Requests
from grainstack.summary.order import KeepRequest, order_of
from grainstack.summary.summary_request import SummaryRequest


def has_to_add_up(requests: Requests) -> bool:
    """Whether figures are put together or shown as parts of a whole, for which ready-made ones have to add up.

    Args:
        requests: What is asked for.
    """
    summary, order = requests[SummaryRequest], order_of(requests.usual(KeepRequest))
    if summary.totals or summary.net or order.keep_top or order.split_keep_top:
        return True
    parts = any(isinstance(one, PieRequest | TreemapRequest) for one in requests)
    return parts or requests.usual(BarRequest).layout in LUMPED
