"""Requests for charts that are composed straight from figures, without the settling of a kind."""

from grainstack.chart.annotation_request import AnnotationRequest, SpanRequest
from grainstack.chart.bars.bar_request import BarRequest
from grainstack.chart.chart_requests import (
    AxisRequest,
    AxisTitlesRequest,
    LegendRequest,
    NumbersRequest,
    RecordDotsRequest,
    WordsRequest,
)
from grainstack.chart.colors_request import CategoryColorsRequest, FillsRequest
from grainstack.chart.distributions.distribution_request import DistributionRequest
from grainstack.chart.dots.dot_request import DotRequest
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.pies.pie_request import PieRequest
from grainstack.chart.second_request import SecondRequest
from grainstack.chart.touch_request import TouchRequest
from grainstack.chart.treemaps.treemap_request import TreemapRequest
from grainstack.option_fields import Request
from grainstack.requests import Requests
from grainstack.summary.options import RoundingRequest, SmallBaseRequest

EVERY = (
    *(BarRequest, SecondRequest, DotRequest, PieRequest, TreemapRequest, DistributionRequest, AxisRequest),
    *(AxisTitlesRequest, LegendRequest, NumbersRequest, RecordDotsRequest, WordsRequest, CategoryColorsRequest),
    *(AnnotationRequest, SpanRequest, TouchRequest, FillsRequest, PictureRequest, RoundingRequest, SmallBaseRequest),
)


def chart_requests(*asked: Request) -> Requests:
    """What is asked of a chart; everything else stands at its default."""
    return Requests(*asked, *(model() for model in EVERY if not any(isinstance(one, model) for one in asked)))
