"""Charts composed for the room they have in a report, and the advice that gives."""

from msgspec.structs import replace

from grainstack.advice import Advice
from grainstack.chart.chart_requests import WordsRequest
from grainstack.chart.frame.left_out_advice import advice_on_scene
from grainstack.chart.look.style_file import look_of
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.scene import Scene
from grainstack.chart.writing.wording import default_title, figures_title
from grainstack.language import in_words, phrase
from grainstack.making.kind import Product
from grainstack.making.make import Made
from grainstack.option_names import option

_UNSEEN = 0.95  # of its size: a picture that stands smaller by less has been rounded, and looks the same
SHAPE = 0.72  # height by width of pictures side by side: they have titles and notes of more lines


def composed(made: Made, size: str) -> Scene:
    """A chart in a size.

    Args:
        made: The chart.
        size: The size, such as `120x80mm`.

    Raises:
        ChartError: It cannot be drawn in that size.
    """
    picture = replace(made.requests[PictureRequest], size=size)
    return replace(made, requests=made.requests.having(picture)).picture()


def size_of(wide: float, shape: float = SHAPE) -> str:
    """A size as a request names it.

    Args:
        wide: The width in points.
        shape: The height by the width.
    """
    return f"{wide:.0f}x{wide * shape:.0f}pt"


def rim_of(made: Made, wide: float, tall: float) -> float:
    """The empty rim of a chart in a size in points, which documents let hang over the edge of their text.

    Args:
        made: The chart.
        wide: Its width.
        tall: Its height.
    """
    return look_of(made.requests).for_size(wide, tall).margin


def advice_on_shrinking(name: str, scale: float) -> tuple[Advice, ...]:
    """The advice on a chart that could not be composed for its room and stands there smaller than it was drawn.

    Args:
        name: The name of the entry.
        scale: Its size there by the size it was drawn in.
    """
    if scale > _UNSEEN:
        return ()
    text = phrase(
        "{name} has too much in it for its room, and stands there at {percent} % of its size: few can read it. "
        "Keep fewer categories with {keep_top}.",
        name=name,
        percent=f"{100 * scale:.0f}",
        keep_top=option("keep_top"),
    )
    return (Advice("too-many", text),)


def advice_in(name: str, scene: Scene) -> tuple[Advice, ...]:
    """The advice that a picture of a report gives, with the entry it is about.

    Args:
        name: The name of the entry.
        scene: The picture.
    """
    return tuple(
        Advice(one.name, phrase("in {name}, {advice}", name=name, advice=one.text)) for one in advice_on_scene(scene)
    )


def title_of(made: Made) -> str:
    """The title of a chart as it stands in the picture, and what a table shows by what.

    Args:
        made: The chart or table.
    """
    if made.kind.product is Product.CHART and (title := made.picture().title):
        return title
    tables = [table for _, table in made.blocks] or [made.table]
    splits = list(dict.fromkeys(table.series.variable.in_sentence for table in tables if table.series is not None))
    if len(splits) < 2:
        return default_title(made.table)
    categories = [one.variable.in_sentence for one in made.table.categories]
    return f"{figures_title(made.table.shown)}{phrase(' by {names}', names=in_words([*categories, *splits]))}"


def plain(made: Made) -> Made:
    """A chart without its title, for documents that write it themselves.

    Args:
        made: The chart.
    """
    words = replace(made.requests[WordsRequest], title="none")
    return replace(made, requests=made.requests.having(words))
