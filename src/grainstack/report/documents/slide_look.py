"""How slides look where no template says it: wide, with the title to the left; and places on a slide."""

from typing import Any

from lxml import etree
from msgspec import Struct
from pptx.enum.shapes import PP_PLACEHOLDER
from pptx.oxml.ns import qn
from pptx.util import Emu, Pt

from grainstack.plan.file.report import SLIDES

MARGIN = 44.0  # points left and right of everything on a slide
BELOW = 34.0  # points below the content, where the number of the slide stands
GAP = 10.0  # points between title, content and notes
INK = "1F2A33"
TITLES = (PP_PLACEHOLDER.TITLE, PP_PLACEHOLDER.CENTER_TITLE, PP_PLACEHOLDER.VERTICAL_TITLE)
_WIDE, _TALL = 960.0, 540.0  # points of a slide: sixteen by nine
_TITLE = (26.0, 66.0)  # points above the title, and of its height: two lines of its type
_TITLE_TYPE = 26.0
_ALONE = (170.0, 120.0)  # points above a title that stands alone on its slide, and of its height


class Room(Struct, frozen=True):
    """A place on a slide, in points."""

    left: float
    top: float
    width: float
    height: float


def in_our_look(deck: Any) -> None:  # noqa: ANN401 - the library has no types
    """Makes slides wide, with the title to the left, where no template says how they look."""
    across = Pt(_WIDE) / deck.slide_width
    down = Pt(_TALL) / deck.slide_height
    deck.slide_width, deck.slide_height = Pt(_WIDE), Pt(_TALL)
    master = deck.slide_master
    for layout in (master, *deck.slide_layouts):
        for shape in layout.placeholders:
            if shape._element.spPr.find(qn("a:xfrm")) is None:  # noqa: SLF001 - it has that of the master
                continue
            shape.left, shape.width = Emu(int(shape.left * across)), Emu(int(shape.width * across))
            shape.top, shape.height = Emu(int(shape.top * down)), Emu(int(shape.height * down))
    above, tall = _TITLE
    for shape in master.placeholders:
        if shape.placeholder_format.type in TITLES:
            _put(shape, Room(MARGIN, above, _WIDE - 2 * MARGIN, tall))
        elif shape.placeholder_format.type is PP_PLACEHOLDER.BODY:
            top = above + tall + GAP
            _put(shape, Room(MARGIN, top, _WIDE - 2 * MARGIN, _TALL - top - BELOW))
    for layout in deck.slide_layouts:
        if layout.name in (SLIDES["title"], SLIDES["section"]):
            _alone(layout)
    styles = master._element.find(qn("p:txStyles"))  # noqa: SLF001 - the library has no word for it
    first = styles.find(f"{qn('p:titleStyle')}/{qn('a:lvl1pPr')}")
    first.set("algn", "l")
    letters = first.find(qn("a:defRPr"))
    letters.set("sz", str(int(_TITLE_TYPE * 100)))
    letters.set("b", "1")
    fill = letters.find(qn("a:solidFill"))
    for one in list(fill):
        fill.remove(one)
    etree.SubElement(fill, qn("a:srgbClr"), val=INK)


def _alone(layout: Any) -> None:  # noqa: ANN401 - the library has no types
    """Puts the title of a slide that has nothing else where a reader looks first, written as it was typed."""
    above, tall = _ALONE
    for shape in layout.placeholders:
        if shape.placeholder_format.type in TITLES:
            _put(shape, Room(MARGIN, above, _WIDE - 2 * MARGIN, tall))
            style = shape._element.txBody.find(f"{qn('a:lstStyle')}/{qn('a:lvl1pPr')}")  # noqa: SLF001
            if style is not None:
                style.getparent().remove(style)


def _put(shape: Any, room: Room) -> None:  # noqa: ANN401 - the library has no types
    shape.left, shape.top, shape.width, shape.height = map(Pt, (room.left, room.top, room.width, room.height))
