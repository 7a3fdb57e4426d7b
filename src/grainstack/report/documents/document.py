"""A report as a document for word processors: real headings, tables and fields, pictures with their text."""

import io
import zipfile
from collections.abc import Collection, Mapping, Sequence
from itertools import count
from typing import TYPE_CHECKING, Any

from docx import Document
from docx.enum.text import WD_ALIGN_PARAGRAPH
from docx.opc.constants import RELATIONSHIP_TYPE
from docx.opc.exceptions import PackageNotFoundError
from docx.opc.packuri import PackURI
from docx.opc.part import Part as PackagePart
from docx.oxml import OxmlElement, parse_xml
from docx.oxml.ns import nsdecls, qn
from docx.shared import Length, Pt
from msgspec import Struct

from grainstack.chart.scene import Scene
from grainstack.errors import ChartError, RequestError
from grainstack.language import phrase
from grainstack.making.kind import Outputs, Product
from grainstack.making.make import Made
from grainstack.paint.painters import painted_in
from grainstack.plan.file.report import Part, Report
from grainstack.report.documents.column_widths import CELL, needed, widths
from grainstack.report.documents.commonmark import Passage, PassageKind, passages
from grainstack.report.documents.composed_charts import SHAPE, advice_in, advice_on_shrinking, composed, size_of
from grainstack.report.documents.contents import Heading, bookmark, contents
from grainstack.report.documents.packing import (
    CUSTOM_PART,
    CUSTOM_TYPE,
    custom_properties,
    drawing_beside,
    has_own_properties,
    legal,
    repacked,
)
from grainstack.report.print_request import table_printed
from grainstack.report.printing import Printed

if TYPE_CHECKING:
    from grainstack.advice import Advice

_DPI = 180.0  # of bitmaps, for programs that show no drawings: fine on paper, at a size that can be mailed
_TABLE_TYPE = 9.0  # points of the type of tables
_LEAST_TYPE = 7.5  # points below which a table is harder to read than with broken headings
_LEAST_NARROW = 5.5  # the same of tables of many columns, as printed reports have them
_NARROW_CELL = 4.0  # points of a cell of such a table beside what is in it
_RULE = '<w:tcBorders><w:bottom w:val="single" w:sz="6" w:color="1F2A33"/></w:tcBorders>'
_REPEATED = "<w:tblHeader/>"
_BEHIND_UPDATE = (  # the settings that stand behind the updating of fields, which OOXML has an order for
    *("hdrShapeDefaults", "footnotePr", "endnotePr", "compat", "docVars", "rsids", "mathPr", "attachedSchema"),
    *("themeFontLang", "clrSchemeMapping", "doNotIncludeSubdocsInStats", "doNotAutoCompressPictures", "forceUpgrade"),
    *("captions", "readModeInkLockDown", "smartTagType", "shapeDefaults", "doNotEmbedSmartTags", "decimalSymbol"),
    "listSeparator",
)
_OF_TEXT = (RELATIONSHIP_TYPE.IMAGE, RELATIONSHIP_TYPE.HYPERLINK, RELATIONSHIP_TYPE.CHART)
_WHOLE = 25  # rows of a table that stays on one page with its notes
_TWIPS = 20  # twentieths of a point, in which widths of columns are written
_STYLES = {
    PassageKind.PARAGRAPH: "Normal",
    PassageKind.BULLET: "List Bullet",
    PassageKind.NUMBERED: "List Number",
    PassageKind.CODE: "Normal",
}


def as_document(report: Report, made: Mapping[str, Made]) -> Outputs:
    """The report as a DOCX, with the advice that its pictures give.

    Args:
        report: What it says and shows.
        made: What it shows, by the names of entries.

    Raises:
        RequestError: Something that cannot be shown, or a template that is none.
        ChartError: A picture that cannot be drawn in its size.
    """
    writer = _Writer(report)
    writer.write(made)
    return Outputs((writer.bytes(),), tuple(dict.fromkeys(writer.advice)))


class _Writer:
    """A document while it is being written."""

    def __init__(self, report: Report) -> None:
        self._report = report
        template = report.template_for("docx")
        try:
            self._document = Document(template or None)
        except (OSError, KeyError, ValueError, PackageNotFoundError, zipfile.BadZipFile):
            raise RequestError(f"The template {template} is no DOCX that can be read.", "Name another.") from None
        for element in list(self._document.element.body)[:-1] if template else []:
            self._document.element.body.remove(element)  # its styles, headers and page count, not its text
        part = self._document.part
        for name in [name for name, one in part.rels.items() if one.reltype in _OF_TEXT] if template else []:
            del part.rels[name]  # nor what its text showed
        self._drawings = self._captions = 0
        self.advice: list[Advice] = []

    def write(self, made: Mapping[str, Made]) -> None:
        """Writes all parts."""
        report, document = self._report, self._document
        properties = document.core_properties
        properties.title, properties.language = report.title, report.language
        for one in document.styles.element.iterfind(f".//{qn('w:rPrDefault')}//{qn('w:lang')}"):
            one.set(qn("w:val"), report.language)  # what spelling is checked by
        properties.author = properties.comments = ""
        package = document.part.package
        if report.trace and not has_own_properties(package):
            custom = PackagePart(PackURI(CUSTOM_PART), CUSTOM_TYPE, custom_properties(report.trace), package)
            package.relate_to(custom, RELATIONSHIP_TYPE.CUSTOM_PROPERTIES)
        if report.title:
            document.add_heading(report.title, 0)
        self._parts(made)
        footer = document.sections[0].footer.paragraphs[0]
        if not footer.text and not self._report.template_for("docx"):
            footer.alignment = WD_ALIGN_PARAGRAPH.CENTER
            self._field(footer, "PAGE", 1)

    def _parts(self, made: Mapping[str, Made]) -> None:
        """The contents, and all parts behind them."""
        report, document = self._report, self._document
        headings = [Heading(part.level - 1, part.heading) for part in report.parts if part.heading]
        if len(headings) > 2:  # fewer are seen at once
            for element in contents(headings):
                document.element.body.insert_element_before(element, "w:sectPr")
            self._update_fields()
        numbers = count()
        for part in report.parts:
            if part.heading:
                heading = document.add_heading(part.heading, part.level - 1)
                bookmark(heading._p, next(numbers))  # noqa: SLF001 - the library has no word for it
            self._text(part.text, kept=bool(part.rows))
            for row in part.rows:
                self._row(part, [(name, made[name]) for name in row])
            if part.caption:
                self._caption(part.caption)

    def bytes(self) -> bytes:
        """The file, packed without a clock."""
        packed = io.BytesIO()
        self._document.save(packed)
        return repacked(packed.getvalue())

    @property
    def _room(self) -> float:
        """Points between the margins."""
        section = self._document.sections[-1]
        wide, *margins = (int(one or 0) for one in (section.page_width, section.left_margin, section.right_margin))
        return float(Length(wide - sum(margins)).pt)

    def _row(self, part: Part, row: Sequence[tuple[str, Made]]) -> None:
        """What stands side by side: pictures in the cells of a table without lines."""
        charts = [(name, one) for name, one in row if one.kind.product is Product.CHART]
        for _, one in row:
            for printed in table_printed(one) if one.kind.product is Product.TABLE else []:
                self._table(printed)
                self._small("")
        if not charts:
            return
        if len(charts) == 1:
            self._picture(self._document.add_paragraph(), *charts[0], part.size, self._room)
            return
        cells = self._document.add_table(1, len(charts)).rows[0].cells
        for cell, (name, one) in zip(cells, charts, strict=True):
            self._picture(cell.paragraphs[0], name, one, part.size, self._room / len(charts) - CELL)
        self._small("")  # tables without a paragraph between them become one

    def _picture(self, paragraph: Any, name: str, made: Made, size: str, wide: float) -> None:  # noqa: ANN401
        """A picture in the size it is composed for, with its drawing and its alternative text."""
        scene = self._composed(name, made, size, wide)
        png, svg = painted_in(scene, [".png", ".svg"], _DPI)
        run = paragraph.add_run()
        inline = run.add_picture(io.BytesIO(png), width=Pt(min(scene.width, wide)))._inline  # noqa: SLF001
        about = inline.docPr
        self._drawings += 1
        about.set("id", str(self._drawings))
        about.set("name", name)
        about.set("descr", scene.alt)
        part = PackagePart(
            PackURI(f"/word/media/drawing{self._drawings}.svg"), "image/svg+xml", svg, self._document.part.package
        )
        relation = self._document.part.relate_to(part, RELATIONSHIP_TYPE.IMAGE)
        drawing_beside(inline.find(f".//{qn('a:blip')}"), relation)

    def _composed(self, name: str, made: Made, size: str, wide: float) -> Scene:
        """A chart composed for the room it has; scaled down where it cannot be drawn so small."""
        if size:
            scene = composed(made, size)
        else:
            own = made.picture()
            shape = own.height / own.width if wide >= self._room else SHAPE
            try:
                scene = composed(made, size_of(wide, shape))
            except ChartError:
                self.advice += advice_on_shrinking(name, wide / own.width)
                return own
        self.advice += advice_in(name, scene)
        return scene

    def _table(self, printed: Printed) -> None:
        """A table with a heading that repeats on every page, and its notes below."""
        document = self._document
        if printed.title:
            document.add_paragraph(printed.title).runs[0].bold = True
        cell = CELL if sum(needed(printed, _LEAST_TYPE)) <= self._room else _NARROW_CELL
        size = max(_fitting_size(printed, self._room, cell), _LEAST_TYPE if cell == CELL else _LEAST_NARROW)
        wide = [round(one * _TWIPS) for one in widths(printed, size, self._room, cell)]
        layout, every = _Layout(wide, printed.right, size), range(len(printed.right))
        rows = [_spanning_row(printed, layout)] if printed.above else []
        rows.append(_row_of(printed.heading, layout, set(every), heading=True, last=True))
        whole = len(printed.rows) <= _WHOLE
        for number, row in enumerate(printed.rows):
            bold = {place for place in every if printed.is_apart(number, place)}
            rows.append(_row_of(row, layout, bold, kept=whole))
        grid = "".join(f'<w:gridCol w:w="{one}"/>' for one in wide)
        about = '<w:tblW w:type="auto" w:w="0"/><w:jc w:val="left"/><w:tblLayout w:type="fixed"/>'
        if cell != CELL:
            sides = (f'<w:{side} w:w="{round(cell / 2 * _TWIPS)}" w:type="dxa"/>' for side in ("left", "right"))
            about += f"<w:tblCellMar>{''.join(sides)}</w:tblCellMar>"
        table = f"<w:tbl {nsdecls('w')}><w:tblPr>{about}</w:tblPr><w:tblGrid>{grid}</w:tblGrid>{''.join(rows)}</w:tbl>"
        document.element.body.insert_element_before(parse_xml(table), "w:sectPr")
        for note in printed.notes:
            self._small(note)

    def _small(self, text: str) -> None:
        paragraph = self._document.add_paragraph()
        paragraph.paragraph_format.space_after = Pt(2)
        paragraph.add_run(text).font.size = Pt(8)

    def _caption(self, text: str) -> None:
        """A caption with a number that the word processor counts."""
        paragraph = self._document.add_paragraph(style="Caption")
        name = phrase("Figure")
        self._captions += 1
        paragraph.add_run(f"{name} ")
        self._field(paragraph, rf"SEQ {name} \* ARABIC", self._captions)
        paragraph.add_run(f". {text}")

    def _field(self, paragraph: Any, code: str, number: int) -> None:  # noqa: ANN401
        """A field that the word processor fills in, with the number it has until then."""
        field = OxmlElement("w:fldSimple")
        field.set(qn("w:instr"), code)
        run = OxmlElement("w:r")
        text = OxmlElement("w:t")
        text.text = str(number)
        run.append(text)
        field.append(run)
        paragraph._p.append(field)  # noqa: SLF001 - the library has no word for it

    def _update_fields(self) -> None:
        """Has the pages of the contents filled in when the document is opened."""
        update = OxmlElement("w:updateFields")
        settings = self._document.settings.element
        behind = next((one for one in settings if one.tag.rpartition("}")[2] in _BEHIND_UPDATE), None)
        if behind is None:
            settings.append(update)
        else:
            behind.addprevious(update)

    def _style_of(self, passage: Passage) -> str:
        """The style of a passage; lists within lists have their own as deep as the document knows them."""
        if passage.kind is PassageKind.HEADING:
            return f"Heading {passage.level}"
        deeper = f"{_STYLES[passage.kind]} {passage.level}"
        return deeper if passage.level > 1 and deeper in self._document.styles else _STYLES[passage.kind]

    def _text_picture(self, passage: Passage) -> Any:  # noqa: ANN401 - the library has no types
        """The paragraph of a picture of a text, as large as it is or as the page has room for."""
        wide, _ = passage.picture_size
        paragraph = self._document.add_paragraph()
        shape = paragraph.add_run().add_picture(io.BytesIO(passage.picture), width=Pt(min(wide, self._room)))
        shape._inline.docPr.set("descr", passage.text)  # noqa: SLF001 - the library has no word for it
        return paragraph

    def _text(self, text: str, *, kept: bool) -> None:
        """Text in CommonMark as paragraphs, lists and headings; the address of a link stands behind it.

        Args:
            text: The text.
            kept: Whether its last paragraph stays on the page of what follows.
        """
        paragraph = None
        for passage in passages(text):
            if passage.picture:
                paragraph = self._text_picture(passage)
                continue
            paragraph = self._document.add_paragraph(style=self._style_of(passage))
            for span in passage.spans:
                run = paragraph.add_run(f"{span.text} ({span.address})" if span.address else span.text)
                run.bold, run.italic = span.bold or None, span.italic or None
        if paragraph is not None and kept:
            paragraph.paragraph_format.keep_with_next = True


def _fitting_size(printed: Printed, room: float, cell: float) -> float:
    """The size of type in points in which the columns of a table have room, the usual one if it can be."""
    padding = cell * len(printed.right)
    words = sum(needed(printed, _TABLE_TYPE, cell)) - padding
    return _TABLE_TYPE * min(1.0, max(room - padding, 0.0) / words)


def _spanning_row(printed: Printed, layout: "_Layout") -> str:
    """The row of what stands over several columns, as OOXML."""
    starts = [*(start for start, _ in printed.above), len(printed.right)]
    spans = [("", 0, starts[0])] if starts[0] else []
    spans += [(title, start, end) for (start, title), end in zip(printed.above, starts[1:], strict=True)]
    cells = []
    for title, start, end in spans:
        about = f'<w:tcW w:type="dxa" w:w="{sum(layout.wide[start:end])}"/><w:gridSpan w:val="{end - start}"/>'
        looks = f'<w:rPr><w:b/><w:sz w:val="{layout.size * 2:.0f}"/></w:rPr>'
        words = f'<w:r>{looks}<w:t xml:space="preserve">{legal(title.strip())}</w:t></w:r>'
        spacing = '<w:keepNext/><w:spacing w:before="20" w:after="20"/>'
        cells.append(f"<w:tc><w:tcPr>{about}</w:tcPr><w:p><w:pPr>{spacing}</w:pPr>{words}</w:p></w:tc>")
    return f"<w:tr><w:trPr><w:cantSplit/>{_REPEATED}</w:trPr>{''.join(cells)}</w:tr>"


class _Layout(Struct, frozen=True):
    """How the rows of a table stand.

    Attributes:
        wide: The widths of the columns in twentieths of a point.
        right: Which of them are set to the right.
        size: The size of their type in points.
    """

    wide: Sequence[int]
    right: Sequence[bool]
    size: float


def _row_of(  # noqa: PLR0913 - a row is all of that
    texts: Sequence[str],
    layout: _Layout,
    strong: Collection[int],
    *,
    heading: bool = False,
    last: bool = False,
    kept: bool = True,
) -> str:
    """A row of a table as OOXML: written at once, since tables have more cells than all the rest has words.

    Args:
        texts: Its cells.
        layout: How they stand.
        strong: The places of those in bold.
        heading: Whether it is repeated on every page.
        last: Whether it is the last one of the heading, with a rule below.
        kept: Whether it stays on the page of what follows.
    """
    keep = "<w:keepNext/>" if kept else ""
    cells = []
    for place, (text, one, to_right) in enumerate(zip(texts, layout.wide, layout.right, strict=True)):
        side = "right" if to_right else "left"
        shown = text.strip().replace(" ", "\u00a0") if to_right and not heading else text.strip()
        bold = "<w:b/>" if place in strong else '<w:b w:val="0"/>'
        size = f'<w:sz w:val="{layout.size * 2:.0f}"/>'
        words = f'<w:r><w:rPr>{bold}{size}</w:rPr><w:t xml:space="preserve">{legal(shown)}</w:t></w:r>'
        paragraph = (
            f'<w:p><w:pPr>{keep}<w:spacing w:before="20" w:after="20"/><w:jc w:val="{side}"/></w:pPr>{words}</w:p>'
        )
        about = f'<w:tcW w:type="dxa" w:w="{one}"/>{_RULE if last else ""}'
        cells.append(f"<w:tc><w:tcPr>{about}</w:tcPr>{paragraph}</w:tc>")
    about = f"<w:trPr><w:cantSplit/>{_REPEATED if heading else ''}</w:trPr>"
    return f"<w:tr>{about}{''.join(cells)}</w:tr>"
