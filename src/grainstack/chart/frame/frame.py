"""The frame every picture has: its size and style, its words in place, and room for whatever it shows."""

from collections.abc import Sequence

from grainstack.chart.frame.collisions import cleared
from grainstack.chart.frame.page import Page, page_of
from grainstack.chart.frame.plane import Box
from grainstack.chart.look.style import Style, style_named
from grainstack.chart.request import PictureRequest
from grainstack.chart.scene import Mark, Scene
from grainstack.chart.writing.wording import Place, Words, words_for
from grainstack.quick import dataclass
from grainstack.requests import Requests
from grainstack.summary.table import SummaryTable


@dataclass(frozen=True, slots=True)
class Frame:
    """A picture before its marks are drawn.

    Attributes:
        size: Width and height in points.
        style: Type sizes, strokes and palettes, for this size.
        words: Every text around the plot.
        page: Those texts in place.
    """

    size: tuple[float, float]
    style: Style
    words: Words
    page: Page

    @property
    def body(self) -> Box:
        """The room for legend and plot."""
        return self.page.body

    def scene(self, marks: Sequence[Mark], alt: str) -> Scene:
        """The finished picture: whatever would stand on something else has given way.

        Args:
            marks: What stands in the body, in painting order.
            alt: What the picture shows, in words.
        """
        return Scene(*self.size, cleared(self.size, [*self.page.marks, *marks]), alt, self.words.title)


def style_of(request: Requests) -> Style:
    """The style of a picture, for its size."""
    picture = request[PictureRequest]
    return style_named(picture.style).for_size(*picture.points)


def framed(
    table: SummaryTable,
    request: Requests,
    notes: Sequence[str] = (),
    words: Words | None = None,
    figures_at: Place = Place.AXIS,
) -> Frame:
    """The frame of a picture.

    Args:
        table: What it shows.
        request: Words, size and style.
        notes: Sentences for the footnote besides those of the table.
        words: The words, where they are not those written from the request.
        figures_at: Where the value title stands.
    """
    size, style = request[PictureRequest].points, style_of(request)
    words = words or words_for(table, request, notes, figures_at)
    return Frame(size, style, words, page_of(words, style, size))
