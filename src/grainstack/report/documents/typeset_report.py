"""A report as a PDF: what it says and shows, handed to the typesetter as data."""

import json
import re
from base64 import b64encode
from collections.abc import Mapping, Sequence
from importlib.resources import files
from typing import TYPE_CHECKING, Any

from grainstack.chart.marks import Text, Typeface, Weight
from grainstack.chart.scene import Scene
from grainstack.chart.writing.fonts import set_in, typefaces, with_boxes
from grainstack.errors import ChartError
from grainstack.language import phrase
from grainstack.making.kind import Outputs, Product
from grainstack.making.make import Made
from grainstack.paint.svg import typeset_drawing
from grainstack.paint.typeset import faces_of, fonts_for, typeset
from grainstack.plan.file.report import PAPERS, Part, Report
from grainstack.report.documents import assets
from grainstack.report.documents.commonmark import Passage, PassageKind, passages
from grainstack.report.documents.composed_charts import SHAPE, advice_in, advice_on_shrinking, composed, rim_of, size_of
from grainstack.report.print_request import table_printed
from grainstack.report.printing import Printed

if TYPE_CHECKING:
    from grainstack.advice import Advice

_TEMPLATE = "report.typ"
_SIDE, _UPRIGHT = 62.0, 128.0  # points of the margins on a side, and of those above and below, as the template has them
_GAP = 14.0  # points between pictures side by side, as there
_SHORT = 240  # characters of a text: two or three lines, which nobody reads apart from the picture they are about
_FEW = 2  # sections that are seen at once
_TAIL = re.compile(r"[*†‡§]*(?: [a-z](?:[a-z, ])*)?$")  # marks and letters behind a figure
_Json = dict[str, Any]


def as_pdf(report: Report, made: Mapping[str, Made]) -> Outputs:
    """The report as a PDF, with the advice that its pictures give.

    Args:
        report: What it says and shows.
        made: What it shows, by the names of entries.

    Raises:
        RequestError: Something that cannot be shown.
        ChartError: A picture that cannot be drawn in its size.
    """
    writer = _Writer(report, made)
    return Outputs((writer.written(),), tuple(dict.fromkeys(writer.advice)))


class _Writer:
    """A report while its content is put together."""

    def __init__(self, report: Report, made: Mapping[str, Made]) -> None:
        self._report, self._made = report, made
        self._width, self._height = PAPERS[report.paper]
        self._room = self._width - 2 * _SIDE
        self._scenes: dict[str, Scene] = {}
        self._depth = 0  # of the last heading: none is skipped, so that screen readers can go by them
        self._pictures: dict[str, str] = {}  # of texts, as drawings
        self.advice: list[Advice] = []

    def written(self) -> bytes:
        """The document."""
        content = self._content()
        chosen = self._typefaces()
        with set_in(chosen):
            own = {weight: [family.face(weight) for family in typefaces()] for weight in Weight}
            faces = faces_of((), "".join(sorted(_letters(content))))
        for scene in self._scenes.values():
            with set_in(scene.typefaces):
                faces |= faces_of(mark for mark in scene.marks if isinstance(mark, Text))
        with fonts_for(faces) as (fonts, known):
            for weight, name in ((Weight.REGULAR, ""), (Weight.SEMIBOLD, "strong-")):
                content[f"{name}fonts"] = list(dict.fromkeys(known[face].family for face in own[weight]))
                content[f"{name}weight"] = known[own[weight][0]].weight
            inputs = {}
            for key, scene in self._scenes.items():
                with set_in(scene.typefaces):
                    inputs[key] = typeset_drawing(scene, known)
            inputs |= self._pictures
            inputs["report"] = with_boxes(json.dumps(content, ensure_ascii=False))
            return typeset(files(assets).joinpath(_TEMPLATE).read_text("utf-8"), inputs, fonts)

    def _typefaces(self) -> tuple[Typeface, ...]:
        """What text is set in: what the first chart is."""
        return next(iter(self._scenes.values())).typefaces if self._scenes else ()

    def _content(self) -> _Json:
        report = self._report
        language, _, region = report.language.partition("-")
        sections = [part for part in report.parts if part.heading and part.level == 2]
        return {
            "title": report.title or report.name,
            "shown-title": bool(report.title),
            "trace": report.trace,
            "width": self._width,
            "height": self._height,
            "language": language,
            "region": region or None,
            "chart-pages": report.chart_pages,
            "contents": len(sections) > _FEW,
            "figure": phrase("Figure"),
            "parts": [self._part(part) for part in report.parts],
        }

    def _part(self, part: Part) -> _Json:
        level = self._next_level(part.level - 1) if part.heading else 0
        text = self._passages(part.text)
        long = len(part.text) > _SHORT  # a heading with a line or two stays with its picture
        rows = [self._row(part, row, floats=long or place > 0) for place, row in enumerate(part.rows)]
        own = bool(rows) and bool(rows[-1]["charts"])
        if own and part.caption:
            rows[-1]["caption"] = part.caption
        caption = "" if own else part.caption
        content = {"heading": part.heading, "level": level, "passages": text, "rows": rows, "caption": caption}
        return {**content, "kept": bool(rows) and not long}

    def _next_level(self, level: int) -> int:
        self._depth = min(level, self._depth + 1)
        return self._depth

    def _passages(self, text: str) -> list[_Json]:
        """The passages of a text in CommonMark."""
        return [self._passage(one) for one in passages(text)]

    def _passage(self, one: Passage) -> _Json:
        if one.picture:
            key = f"picture {len(self._pictures)}"
            self._pictures[key] = _as_drawing(one)
            width = min(one.picture_size[0], self._room)
            return {"kind": one.kind.value, "picture": key, "alt": one.text or phrase("Picture"), "width": width}
        listed = one.kind in (PassageKind.BULLET, PassageKind.NUMBERED)
        kind = "continued" if listed and not one.mark else one.kind.value
        level = self._next_level(max(one.level - 1, 1)) if one.kind is PassageKind.HEADING else one.level
        number = int(one.mark.rstrip(".")) if kind == PassageKind.NUMBERED.value else 0
        spans = [{"text": span.text, "strong": span.bold or span.italic, "address": span.address} for span in one.spans]
        return {"kind": kind, "level": level, "number": number, "spans": spans}

    def _row(self, part: Part, row: Sequence[str], *, floats: bool) -> _Json:
        """What stands side by side: tables one under the other, then pictures."""
        of_tables = [name for name in row if self._made[name].kind.product is Product.TABLE]
        tables = [_table(printed) for name in of_tables for printed in table_printed(self._made[name])]
        names = [name for name in row if self._made[name].kind.product is Product.CHART]
        charts = [self._chart(name, part.size, len(names)) for name in names]
        return {"tables": tables, "charts": charts, "caption": None, "floats": floats or bool(tables)}

    def _chart(self, name: str, size: str, beside: int) -> _Json:
        """A chart of a row of some, composed for the room it has."""
        room = (self._room - _GAP * (beside - 1)) / beside
        key = f"{name} {size or room}"
        if key not in self._scenes:
            self._scenes[key] = self._drawn(name, size, room, alone=beside == 1)
        scene = self._scenes[key]
        alt = scene.alt or scene.title or name
        return {"drawing": key, "alt": alt, "width": scene.width, "rim": max((scene.width - room) / 2, 0.0)}

    def _drawn(self, name: str, size: str, room: float, *, alone: bool) -> Scene:
        """A chart composed for its room; as it is and smaller, if it can be composed for none that a page has."""
        made = self._made[name]
        own = made.picture()
        tall = self._height - _UPRIGHT
        wide = room + 2 * rim_of(made, room, room * SHAPE)
        shape = min(own.height / own.width if alone else SHAPE, tall / wide)
        try:
            scene = composed(made, size or size_of(wide, shape))
        except ChartError:
            if size:
                raise
            scale = min(room / own.width, tall / own.height, 1.0)
            self.advice += advice_on_shrinking(name, scale)
            return own.scaled(scale)
        self.advice += advice_in(name, scene)
        return scene


def _as_drawing(one: Passage) -> str:
    """A picture of a text inside an SVG: the typesetter takes texts only."""
    wide, tall = one.picture_size
    kind = "png" if one.picture.startswith(b"\x89PNG") else "jpeg"
    data = f"data:image/{kind};base64,{b64encode(one.picture).decode()}"
    size = f'width="{wide:.2f}" height="{tall:.2f}"'
    return f'<svg xmlns="http://www.w3.org/2000/svg" {size}><image {size} href="{data}"/></svg>'


def _letters(content: object) -> set[str]:
    """Every character of some content."""
    if isinstance(content, str):
        return set(content)
    inner = content.values() if isinstance(content, Mapping) else content if isinstance(content, list) else ()
    return set().union(*map(_letters, inner))


def _table(printed: Printed) -> _Json:
    """A table, its figures parted from the marks and letters behind them."""
    places = range(len(printed.heading))
    rows = [[_cell(printed, number, place) for place in places] for number in range(len(printed.rows))]
    starts = [start for start, _ in printed.above]
    ends = [*starts[1:], len(places)]
    spans = [
        {"text": text.strip(), "span": end - start} for (start, text), end in zip(printed.above, ends, strict=False)
    ]
    above = [{"text": "", "span": starts[0]}, *spans] if starts and starts[0] else spans
    tails = [max((row[place]["tail"] for row in rows), key=len, default="") for place in places]
    return {
        "title": printed.title,
        "above": above,
        "heads": 2 if above else 1,
        "heading": [text.strip() for text in printed.heading],
        "rows": rows,
        "tails": tails,
        "right": list(printed.right),
        "notes": list(printed.notes),
    }


def _cell(printed: Printed, number: int, place: int) -> _Json:
    text = printed.rows[number][place].strip()
    match = _TAIL.search(text) if printed.right[place] else None
    tail = match[0] if match else ""
    return {"text": text[: len(text) - len(tail)], "tail": tail, "strong": printed.is_apart(number, place)}
