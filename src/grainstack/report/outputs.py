"""What was made, as the content of its files: one way for a command, for a plan and for its workers."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from grainstack.making.kind import Product
from grainstack.making.outputs import Outputs

if TYPE_CHECKING:
    from grainstack.making.make import Made


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
    contents = painted_in(scene, endings, made.requests[PictureRequest].dpi)
    return Outputs(contents, tuple(advice_on_scene(scene)))
