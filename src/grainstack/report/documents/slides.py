"""A report as a presentation: a chart or a table per slide, composed for the room it has there."""

import io
import zipfile
from collections.abc import Mapping, Sequence
from copy import deepcopy
from typing import TYPE_CHECKING, Any

from lxml import etree
from msgspec.structs import replace
from pptx import Presentation
from pptx.dml.color import RGBColor
from pptx.enum.shapes import PP_PLACEHOLDER
from pptx.exc import PackageNotFoundError
from pptx.opc.constants import RELATIONSHIP_TYPE
from pptx.opc.package import Part as PackagePart
from pptx.opc.packuri import PackURI
from pptx.oxml.ns import qn
from pptx.util import Emu, Pt

from grainstack.chart.look.style import SIZES
from grainstack.chart.look.style_file import HouseStyle, look_of, style_named
from grainstack.chart.writing.character_columns import columns_wide
from grainstack.errors import ChartError, RequestError, nearest
from grainstack.making.kind import Outputs, Product
from grainstack.making.make import Made
from grainstack.paint.painters import painted_in
from grainstack.plan.file.report import SLIDES, Report
from grainstack.report.documents.column_widths import LETTER, headings, needed
from grainstack.report.documents.commonmark import Passage, PassageKind, passages
from grainstack.report.documents.composed_charts import (
    advice_in,
    advice_on_shrinking,
    composed,
    plain,
    rim_of,
    title_of,
)
from grainstack.report.documents.packing import (
    CUSTOM_PART,
    CUSTOM_TYPE,
    custom_properties,
    drawing_beside,
    has_own_properties,
    repacked,
)
from grainstack.report.documents.slide_parts import BELOW, CELL, GAP, MARGIN, ROW, TITLES, Room, in_our_look, put_table
from grainstack.report.print_request import table_printed
from grainstack.report.printing import Printed

if TYPE_CHECKING:
    from grainstack.advice import Advice
    from grainstack.chart.scene import Scene

_DPI = 144.0  # of bitmaps, for programs that show no drawings: a slide on a screen of 1,920 pixels
_TEXT_TYPE, _LEAST_TEXT = 20.0, 11.0  # points of running text, and below which nobody reads it from a chair
_FILLED = 0.9  # of a slide is text, as a reader's typeface may be wider and lists are set in
_TABLE_TYPE, _LEAST_TYPE = 14.0, 7.0  # points of the type of tables where there is room, and at least
_NOTE_TYPE = 9.0
_MUTED = RGBColor.from_string("5C6770")
_BESIDES = (PP_PLACEHOLDER.DATE, PP_PLACEHOLDER.FOOTER, PP_PLACEHOLDER.SLIDE_NUMBER)


def as_slides(report: Report, made: Mapping[str, Made]) -> Outputs:
    """The report as a PPTX, with the advice that its pictures give.

    Args:
        report: What it says and shows.
        made: What it shows, by the names of entries.

    Raises:
        RequestError: Something that cannot be shown, a template that is none, or a layout it has not.
        ChartError: A picture that cannot be drawn in its size.
    """
    writer = _Writer(report)
    writer.write(made)
    return Outputs((writer.bytes(),), tuple(dict.fromkeys(writer.advice)))


class _Writer:
    """A presentation while it is being written."""

    def __init__(self, report: Report) -> None:
        self._report = report
        template = report.template_for("pptx")
        try:
            self._deck = Presentation(template or None)
        except (OSError, KeyError, ValueError, PackageNotFoundError, zipfile.BadZipFile):
            raise RequestError(f"The template {template} is no PPTX that can be read.", "Name another.") from None
        if template:
            self._clear()
        else:
            in_our_look(self._deck)
        self._layouts = {name: self._layout(name, report.layouts.get(name, usual)) for name, usual in SLIDES.items()}
        self.advice: list[Advice] = []

    def write(self, made: Mapping[str, Made]) -> None:
        """Writes all slides."""
        report = self._report
        properties = self._deck.core_properties
        properties.title, properties.language = report.title, report.language
        properties.author = properties.last_modified_by = properties.comments = ""
        package = self._deck.part.package
        if report.trace and not has_own_properties(package):
            custom = PackagePart(PackURI(CUSTOM_PART), CUSTOM_TYPE, package, custom_properties(report.trace))
            package.relate_to(custom, RELATIONSHIP_TYPE.CUSTOM_PROPERTIES)
        if report.title:
            self._titled("title", report.title)
        for part in report.parts:
            if part.text:
                self._words(part.heading or report.title, part.text)
            elif part.heading:
                self._titled("section", part.heading)
            for name in (name for row in part.rows for name in row):
                one = made[name]
                if one.kind.product is Product.CHART:
                    self._chart(name, one, part.caption)
                    continue
                printed = table_printed(one)
                for place, table in enumerate(printed):
                    self._table(title_of(one), table, part.caption if place + 1 == len(printed) else "")

    def bytes(self) -> bytes:
        """The file, packed without a clock."""
        packed = io.BytesIO()
        self._deck.save(packed)
        return repacked(packed.getvalue())

    def _clear(self) -> None:
        """Takes the slides of a template away: its layouts count, not its content."""
        slides = self._deck.slides._sldIdLst  # noqa: SLF001 - the library has no word for it
        for one in list(slides):
            self._deck.part.drop_rel(one.rId)
            slides.remove(one)

    def _layout(self, use: str, name: str) -> Any:  # noqa: ANN401 - the library has no types
        """The layout of a name.

        Raises:
            RequestError: There is none.
        """
        layouts = list(self._deck.slide_layouts)
        found = next((one for one in layouts if one.name.casefold() == name.casefold()), None)
        if found is not None:
            return found
        if use not in self._report.layouts:  # a template with names of its own: the first one that can hold it
            return _fitting(layouts, use)
        names = [one.name for one in layouts]
        raise RequestError(f"The template has no layout `{name}` for {use}.", nearest(name, names))

    def _slide(self, use: str, title: str) -> tuple[Any, Room]:
        """A slide with its title, and the room below it; placeholders that stay empty are taken away."""
        slide = self._deck.slides.add_slide(self._layouts[use])
        if slide.shapes.title is not None:
            slide.shapes.title.text = title
        _numbered(slide)
        holders = [one for one in slide.placeholders if one.placeholder_format.type not in (*TITLES, *_BESIDES)]
        holders.sort(key=lambda one: -int(one.width) * int(one.height))
        room = _room_of(holders[0]) if holders else self._below(slide)
        if use in ("title", "section", "text"):
            return slide, room
        for one in holders:
            one._element.getparent().remove(one._element)  # noqa: SLF001 - the library has no word for it
        return slide, room

    def _below(self, slide: Any) -> Room:  # noqa: ANN401 - the library has no types
        """The room below the title."""
        wide, tall = (float(Emu(one or 0).pt) for one in (self._deck.slide_width, self._deck.slide_height))
        title = slide.shapes.title
        if title is None:
            return Room(MARGIN, MARGIN, wide - 2 * MARGIN, tall - MARGIN - BELOW)
        place = _room_of(title)
        top = place.top + place.height + GAP
        return Room(place.left, top, place.width, tall - top - BELOW)

    def _titled(self, use: str, title: str) -> None:
        """A slide with a title alone."""
        slide, _ = self._slide(use, title)
        for one in list(slide.placeholders):
            if one.placeholder_format.type not in TITLES:
                one._element.getparent().remove(one._element)  # noqa: SLF001 - the library has no word for it

    def _words(self, title: str, text: str) -> None:
        """A slide of text in CommonMark, or several where it is longer than one takes."""
        every = list(passages(text))
        words = [one for one in every if not one.picture]
        if words:
            slide, room = self._slide("text", title)
            size, spread = _spread(words, room)
            for number, those in enumerate(spread):
                if number:
                    slide, room = self._slide("text", f"{title} ({number + 1})")
                self._written(slide, room, those, size)
        for one in every:
            if one.picture:
                self._text_picture(title, one)

    def _text_picture(self, title: str, passage: Passage) -> None:
        """A slide with a picture of a text, as large as it is or as the slide has room for."""
        slide, room = self._slide("chart", title)
        wide, tall = passage.picture_size
        scale = min(room.width / wide, room.height / tall, 1.0)
        place = (Pt(room.left), Pt(room.top), Pt(wide * scale), Pt(tall * scale))
        shape = slide.shapes.add_picture(io.BytesIO(passage.picture), *place)
        shape._element.nvPicPr.cNvPr.set("descr", passage.text)  # noqa: SLF001 - the library has no word for it

    @staticmethod
    def _written(slide: Any, room: Room, those: Sequence[Passage], size: float) -> None:  # noqa: ANN401 - no types
        """Writes passages on a slide, in a type of a size in points."""
        holder = next(
            (one for one in slide.placeholders if one.placeholder_format.type not in (*TITLES, *_BESIDES)), None
        )
        frame = (holder or _box(slide, room)).text_frame
        frame.word_wrap = True
        for number, passage in enumerate(those):
            paragraph = frame.paragraphs[0] if not number else frame.add_paragraph()
            paragraph.space_after = Pt(size * 0.4)
            if passage.kind is PassageKind.BULLET:
                paragraph.level = min(passage.level - 1, 4)
            else:
                _unmarked(paragraph)
            lead = f"{passage.mark} " if passage.kind is PassageKind.NUMBERED and passage.mark else ""
            if lead:
                run = paragraph.add_run()
                run.text, run.font.size = lead, Pt(size)
            for span in passage.spans:
                run = paragraph.add_run()
                run.text, run.font.size = span.text.replace("\n", "\v"), Pt(size)
                run.font.bold = span.bold or passage.kind is PassageKind.HEADING or None
                run.font.italic = span.italic or None
                if span.address:
                    run.hyperlink.address = span.address

    def _chart(self, name: str, made: Made, caption: str) -> None:
        """A slide with a picture as large as its room."""
        slide, room = self._slide("chart", title_of(made))
        room = self._noted(slide, room, [caption] if caption else [])
        rim = min(rim_of(_in_slide_style(made), room.width, room.height), room.left)  # in line with the title
        room = replace(room, left=room.left - rim, width=room.width + 2 * rim)
        scene = self._composed(name, made, room)
        png, svg = painted_in(scene, [".png", ".svg"], _DPI)
        scale = min(room.width / scene.width, room.height / scene.height, 1.0)
        self.advice += advice_on_shrinking(name, scale)
        wide, tall = scene.width * scale, scene.height * scale
        left = room.left + (room.width - wide) / 2
        picture = slide.shapes.add_picture(io.BytesIO(png), Pt(left), Pt(room.top), Pt(wide), Pt(tall))
        about = picture._element.nvPicPr.cNvPr  # noqa: SLF001 - the library has no word for it
        about.set("name", name)
        about.set("descr", scene.alt)
        number = len(self._deck.slides)
        part = PackagePart(PackURI(f"/ppt/media/drawing{number}.svg"), "image/svg+xml", slide.part.package, svg)
        relation = slide.part.relate_to(part, RELATIONSHIP_TYPE.IMAGE)
        drawing_beside(picture._element.find(f".//{qn('a:blip')}"), relation)  # noqa: SLF001

    def _composed(self, name: str, made: Made, room: Room) -> "Scene":
        """A chart composed for a slide, without the title above it; in its own size and style if it needs more room."""
        on_slide = _in_slide_style(plain(made))
        try:
            scene = composed(on_slide, f"{room.width:.0f}x{room.height:.0f}pt")
        except ChartError:
            return plain(made).picture()
        self.advice += advice_in(name, scene)
        return scene

    def _table(self, title: str, printed: Printed, caption: str) -> None:
        """A table, on further slides where it has more rows than one has room for."""
        title = f"{title}: {printed.title}" if printed.title else title
        slide, room = self._slide("table", title)
        notes = [*printed.notes, *([caption] if caption else [])]
        room_above = self._noted(slide, room, notes)
        size = _TABLE_TYPE * min(1.0, room_above.width / sum(needed(printed, _TABLE_TYPE, CELL)))
        size = max(size, _LEAST_TYPE)
        above = headings(printed)
        most = max(int(room_above.height / (size * ROW)) - len(above), 1)
        if len(printed.rows) > most and len(printed.rows) + len(above) <= room_above.height / (_LEAST_TYPE * ROW):
            size = room_above.height / ROW / (len(printed.rows) + len(above))
            most = len(printed.rows)
        for start in range(0, max(len(printed.rows), 1), most):
            if start:
                slide, _ = self._slide("table", f"{title} ({start // most + 1})")
                self._noted(slide, room, notes)
            put_table(slide, room_above, printed, (start, start + most), size)

    def _noted(self, slide: Any, room: Room, notes: Sequence[str]) -> Room:  # noqa: ANN401 - no types
        """Puts notes at the foot of a room; gives what is left above them."""
        if not notes:
            return room
        letters = room.width / (_NOTE_TYPE * LETTER * 0.78)  # running text is narrower than figures in bold
        lines = sum(-(-columns_wide(note) // int(letters)) for note in notes)
        height = lines * _NOTE_TYPE * 1.25 + 4
        place = Room(room.left, room.top + room.height - height, room.width, height)
        frame = _box(slide, place).text_frame
        for number, note in enumerate(notes):
            paragraph = frame.paragraphs[0] if not number else frame.add_paragraph()
            run = paragraph.add_run()
            run.text, run.font.size, run.font.color.rgb = note, Pt(_NOTE_TYPE), _MUTED
        return replace(room, height=room.height - height - GAP)


def _fitting(layouts: Sequence[Any], use: str) -> Any:  # noqa: ANN401 - the library has no types
    """The first layout that can hold something, where none has the usual name."""

    def holds(layout: Any) -> tuple[bool, bool]:  # noqa: ANN401
        kinds = [one.placeholder_format.type for one in layout.placeholders]
        return any(kind in TITLES for kind in kinds), any(kind not in (*TITLES, *_BESIDES) for kind in kinds)

    wanted = (True, use == "text")
    return next((one for one in layouts if holds(one) == wanted), layouts[0])


def _room_of(shape: Any) -> Room:  # noqa: ANN401 - the library has no types
    return Room(*(float(Emu(one).pt) for one in (shape.left, shape.top, shape.width, shape.height)))


def _box(slide: Any, room: Room) -> Any:  # noqa: ANN401 - the library has no types
    """A box for text."""
    box = slide.shapes.add_textbox(Pt(room.left), Pt(room.top), Pt(room.width), Pt(room.height))
    frame = box.text_frame
    frame.word_wrap = True
    frame.margin_left = frame.margin_right = frame.margin_top = frame.margin_bottom = 0
    return box


def _numbered(slide: Any) -> None:  # noqa: ANN401 - the library has no types
    """Gives a slide its number where the layout has a place for it: the library leaves it out."""
    for one in slide.slide_layout.placeholders:
        if one.placeholder_format.type is PP_PLACEHOLDER.SLIDE_NUMBER:
            slide.shapes._spTree.append(deepcopy(one._element))  # noqa: SLF001 - the library has no word for it


def _unmarked(paragraph: Any) -> None:  # noqa: ANN401 - the library has no types
    """Takes the bullet of its placeholder from a paragraph."""
    about = paragraph._p.get_or_add_pPr()  # noqa: SLF001 - the library has no word for it
    about.set("marL", "0")
    about.set("indent", "0")
    about.append(etree.SubElement(about, qn("a:buNone")))


def _spread(those: Sequence[Passage], room: Room) -> tuple[float, list[list[Passage]]]:
    """The size of type in which text has room, the usual one if it can be, and the passages of each slide it takes."""
    size, tall = _TEXT_TYPE, room.height * _FILLED
    while size > _LEAST_TEXT and _height(those, room, size) > tall:
        size -= 1
    slides: list[list[Passage]] = [[]]
    for passage in those:
        if slides[-1] and _height([*slides[-1], passage], room, size) > tall:
            slides.append([])
        slides[-1].append(passage)
    return size, slides


def _height(those: Sequence[Passage], room: Room, size: float) -> float:
    """The height of some text in a size of type, with the room between its paragraphs."""
    letters = int(room.width / (size * LETTER * 0.78))
    return sum((-(-columns_wide(one.text) // letters) or 1) * size * 1.25 + size * 0.4 for one in those)


def _in_slide_style(made: Made) -> Made:
    """A chart in the type and lines of slides, in its own colours and typefaces."""
    house, look, slide = made.requests.usual(HouseStyle), look_of(made.requests), style_named("slide")
    sizes = {name: getattr(slide, name) for name in SIZES}
    style = replace(look, **{**sizes, "logo_height": look.logo_height})
    return replace(made, requests=made.requests.having(replace(house, style=style)))
