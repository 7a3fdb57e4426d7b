"""How slides look where no template says it: wide, with the title to the left; and places on a slide."""

from collections.abc import Collection, Sequence
from typing import Any

from lxml import etree
from msgspec import Struct
from pptx.enum.shapes import PP_PLACEHOLDER
from pptx.oxml import parse_xml
from pptx.oxml.ns import nsdecls, qn
from pptx.util import Emu, Pt

from grainstack.plan.file.report import SLIDES
from grainstack.report.documents.column_widths import headings, widths
from grainstack.report.documents.packing import legal
from grainstack.report.printing import Printed

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


ROW = 1.65  # the height of a row by the size of its type
CELL = 18.0  # points of a cell beside what is in it
_PLAIN_TABLE = "{2D5ABB26-0587-4C30-8999-92F81FD0307C}"  # the table style without lines and grounds


def put_table(slide: Any, room: Room, printed: Printed, part: tuple[int, int], size: float) -> None:  # noqa: ANN401
    """Puts some rows of a table with its headings on a slide.

    Args:
        slide: The slide.
        room: Where the table has room.
        printed: The table.
        part: The first of its rows, and the one after the last.
        size: The size of its type in points.
    """
    above, rows = headings(printed), printed.rows[slice(*part)]
    wide = [int(Pt(one)) for one in widths(printed, size, room.width, CELL)]
    tall, count = int(Pt(size * ROW)), len(above) + len(rows)
    shape = slide.shapes.add_table(1, 1, Pt(room.left), Pt(room.top), Emu(sum(wide)), Emu(tall * count))
    grid = "".join(f'<a:gridCol w="{one}"/>' for one in wide)
    columns = range(len(printed.right))
    content = [
        _row_of(texts, printed.right, size, tall, set(columns), heading=True, last=number == len(above) - 1)
        for number, texts in enumerate(above)
    ]
    for number, texts in enumerate(rows, part[0]):
        strong = {place for place in columns if printed.is_apart(number, place)}
        content.append(_row_of(texts, printed.right, size, tall, strong))
    about = f'<a:tblPr firstRow="1"><a:tableStyleId>{_PLAIN_TABLE}</a:tableStyleId></a:tblPr>'
    table = f"<a:tbl {nsdecls('a')}>{about}<a:tblGrid>{grid}</a:tblGrid>{''.join(content)}</a:tbl>"
    before = shape.table._tbl  # noqa: SLF001 - the library has no word for it
    before.getparent().replace(before, parse_xml(table))


def _row_of(  # noqa: PLR0913 - a row is all of that
    texts: Sequence[str],
    right: Sequence[bool],
    size: float,
    tall: int,
    strong: Collection[int],
    *,
    heading: bool = False,
    last: bool = False,
) -> str:
    """A row of a table as OOXML.

    Args:
        texts: Its cells.
        right: Which of them are set to the right.
        size: The size of their type in points.
        tall: The height of the row in EMU.
        strong: The places of cells in bold.
        heading: Whether it belongs to the heading.
        last: Whether it is the last one of that, with a rule below.
    """
    ink = f'<a:solidFill><a:srgbClr val="{INK}"/></a:solidFill>'
    rule = f'<a:lnB w="9525">{ink}</a:lnB>' if last else ""
    side, anchor = int(Pt(CELL / 2 - 1)), "b" if heading else "ctr"
    cells = []
    for place, (text, to_right) in enumerate(zip(texts, right, strict=True)):
        align = "r" if to_right else "l"
        look = f'<a:rPr sz="{size * 100:.0f}" b="{int(place in strong)}">{ink}</a:rPr>'
        run = f"<a:r>{look}<a:t>{legal(text.strip())}</a:t></a:r>"
        body = f'<a:txBody><a:bodyPr/><a:lstStyle/><a:p><a:pPr algn="{align}"/>{run}</a:p></a:txBody>'
        about = f'<a:tcPr marL="{side}" marR="{side}" marT="0" marB="0" anchor="{anchor}">{rule}</a:tcPr>'
        cells.append(f"<a:tc>{body}{about}</a:tc>")
    return f'<a:tr h="{tall}">{"".join(cells)}</a:tr>'
