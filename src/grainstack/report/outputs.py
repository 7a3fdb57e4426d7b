"""What was made, as the content of its files: one way for a command, for a plan and for its workers."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from grainstack.making.kind import Product
from grainstack.making.outputs import Outputs

if TYPE_CHECKING:
    from grainstack.making.make import Made

_PAGE = ".html"


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
        from grainstack.report.formats import table_as  # noqa: PLC0415 - charts need none of it

        return Outputs(tuple(table_as(ending, made) for ending in endings))
    from grainstack.chart.frame.advice import advice_on_scene  # noqa: PLC0415 - tables need none of it
    from grainstack.chart.picture_request import PictureRequest  # noqa: PLC0415
    from grainstack.paint.formats import painted_in  # noqa: PLC0415

    scene = made.picture()
    pictures = [ending for ending in endings if ending != _PAGE]
    contents = dict(zip(pictures, painted_in(scene, pictures, made.requests[PictureRequest].dpi), strict=True))
    if _PAGE in endings:
        from grainstack.report.documents.page import chart_page  # noqa: PLC0415 - few charts are pages

        contents[_PAGE] = chart_page(made, scene)
    return Outputs(tuple(contents[ending] for ending in endings), tuple(advice_on_scene(scene)))
