"""Tables on slides, written at once: cell by cell would take most of the time of a presentation."""

from collections.abc import Collection, Sequence
from typing import Any

from pptx.oxml import parse_xml
from pptx.oxml.ns import nsdecls
from pptx.util import Emu, Pt

from grainstack.report.documents.columns import headings, widths
from grainstack.report.documents.packing import legal
from grainstack.report.documents.slide_look import INK, Room
from grainstack.report.printing import Printed

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
