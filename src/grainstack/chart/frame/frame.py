"""The frame every picture has: its size and style, its words in place, and room for whatever it shows."""

from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.frame.collisions import cleared
from grainstack.chart.frame.fallbacks import STEPS, FallbackStep
from grainstack.chart.frame.left_out_advice import lacking
from grainstack.chart.frame.page import Page, page_of
from grainstack.chart.frame.plane import Box
from grainstack.chart.look.color import INK, PAPER
from grainstack.chart.look.palette import GRID, MUTED
from grainstack.chart.look.style import Style
from grainstack.chart.look.style_file import HouseStyle, look_of, typefaces_of
from grainstack.chart.marks import Image, Mark, MarkRole, Text
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.scene import Scene
from grainstack.chart.writing.wording import Words
from grainstack.requests import Requests


class Frame(Struct, frozen=True):
    """A picture before its marks are drawn.

    Attributes:
        size: Width and height in points.
        style: Type sizes, strokes and palettes, for this size.
        words: Every text around the plot.
        page: Those texts in place.
        kept: Which of them there is room for.
    """

    size: tuple[float, float]
    style: Style
    words: Words
    page: Page
    kept: FallbackStep

    @property
    def body(self) -> Box:
        """The room for legend and plot."""
        return self.page.body

    def scene(self, marks: Sequence[Mark], alt: str, wanted: Mapping[MarkRole, int] | None = None) -> Scene:
        """The finished picture: whatever would stand on something else has given way.

        Args:
            marks: What stands in the body, in painting order.
            alt: What the picture shows, in words.
            wanted: How many texts of each role there are to write in the body.
        """
        shown = cleared(self.size, [*self.page.marks, *marks])
        words, note = self.words, "" if self.kept.whole_note else self.words.footnote
        framing = {
            MarkRole.TITLE: words.title,
            MarkRole.SUBTITLE: words.subtitle,
            MarkRole.FOOTNOTE: words.footnote,
            MarkRole.SOURCE: words.source,
        }
        wanted = {**{role: 1 for role, text in framing.items() if text}, **(wanted or {})}
        left_out = lacking(shown, wanted)
        marks = in_colors_of(self.style, shown)
        alt = f"{alt} {note}".rstrip()
        look = self.style
        return Scene(*self.size, marks, alt, words.title, left_out, look.paper, look.outline, typefaces_of(look))


def style_of(request: Requests) -> Style:
    """The style of a picture, for its size."""
    picture = request[PictureRequest]
    return look_of(request).for_size(*picture.dimensions)


def framed(words: Words, request: Requests, kept: FallbackStep = STEPS[0]) -> Frame:
    """The frame of a picture.

    Args:
        words: The words around it.
        request: Size and style.
        kept: What there is room for.
    """
    size, style = request[PictureRequest].points, style_of(request)
    if not kept.axis_titles:
        words = replace(words, value_title="", category_title="")
    logo = logo_of(request.usual(HouseStyle), style, size) if kept.whole_note else None
    return Frame(size, style, words, page_of(words, style, size, kept, logo), kept)


def in_colors_of(style: Style, marks: Sequence[Mark]) -> tuple[Mark, ...]:
    """The marks with ink, muted, grid and paper in the colours of a style; texts on fills stay as they can be read.

    Args:
        style: The style.
        marks: The marks, in the usual colours.
    """
    usual = {INK: style.ink, MUTED: style.muted, GRID: style.grid_color, PAPER: style.paper}
    changed = {one: other for one, other in usual.items() if one != other}
    return tuple(_recolored(mark, changed) for mark in marks) if changed else tuple(marks)


def _recolored(mark: Mark, changed: Mapping[str, str]) -> Mark:
    if isinstance(mark, Text) and mark.ground != PAPER:
        return mark
    new: dict[str, Any] = {}
    for name in ("fill", "stroke", "outline", "ground"):
        color = getattr(mark, name, "")
        if color in changed:
            new[name] = changed[color]
    return replace(mark, **new) if new else mark


def logo_of(house: HouseStyle, style: Style, size: tuple[float, float]) -> Image | None:
    """The logo in its corner; None without one.

    Args:
        house: The logo and its shape.
        style: How tall it is, and where it stands.
        size: Width and height of the picture, in points.
    """
    if not house.logo:
        return None
    tall = style.logo_height
    wide = tall * house.ratio
    y = style.margin if style.logo_place == "top-right" else size[1] - style.margin * 0.65 - tall
    return Image(size[0] - style.margin - wide, y, wide, tall, house.logo, MarkRole.LOGO)
