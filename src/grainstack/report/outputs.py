"""What was made, as the content of its files: one way for a command, for a plan and for its workers."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from grainstack.chart.frame.advice import advice_on_scene
from grainstack.chart.picture_request import PictureRequest
from grainstack.later import Later
from grainstack.making.kind import Product
from grainstack.making.outputs import Outputs
from grainstack.paint.formats import painted_in
from grainstack.report.formats import table_as

if TYPE_CHECKING:
    from grainstack.making.make import Made

_PAGE = ".html"
_CHART_PAGE = Later("report.documents.page", "chart_page")  # few charts are pages


def outputs_of(made: "Made", endings: Sequence[str]) -> Outputs:
    """A table or chart in some formats.

    Args:
        made: The table or chart.
        endings: The endings of its files, in lower case, with the dot.

    Raises:
        RequestError: Something that cannot be shown in such a format.
        ChartError: A picture that cannot be drawn in its size.
    """
    if made.kind.product is Product.TABLE:
        return Outputs(tuple(table_as(ending, made) for ending in endings))

    scene = made.picture()
    pictures = [ending for ending in endings if ending != _PAGE]
    contents = dict(zip(pictures, painted_in(scene, pictures, made.requests[PictureRequest].dpi), strict=True))
    if _PAGE in endings:
        contents[_PAGE] = _CHART_PAGE(made, scene)
    return Outputs(tuple(contents[ending] for ending in endings), tuple(advice_on_scene(scene)))
