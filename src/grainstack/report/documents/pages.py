"""A report as pages: text, tables and charts set by our own rules, on the canvas that paints the charts."""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from grainstack.chart.scene import Anchor, Mark, MarkRole, Scene, Text, Typeface, Weight
from grainstack.chart.writing.fonts import set_in
from grainstack.chart.writing.text import width
from grainstack.errors import ChartError
from grainstack.language import phrase
from grainstack.making.kind import Product
from grainstack.making.make import Made
from grainstack.making.outputs import Outputs
from grainstack.paint.pdf import Link, Page, paint_pages
from grainstack.plan.file.report import PAPERS, Part, Report
from grainstack.report.documents.columns import headings
from grainstack.report.documents.commonmark import PassageKind, Span, passages
from grainstack.report.documents.fitting import SHAPE, advice_in, advice_on_shrinking, composed, rim_of, size_of
from grainstack.report.documents.page_tables import ROW, PageTable, widths
from grainstack.report.documents.setting import Placed, indent_of, lines_of
from grainstack.report.formats import table_printed
from grainstack.report.printing import Printed

if TYPE_CHECKING:
    from grainstack.advice import Advice

_SIDE, _ABOVE, _FOOT = 62.0, 58.0, 62.0  # points of the margins: about 22 mm, which every printer can leave white
_FOOTER = 34.0  # points from the edge to the baseline of the page number
_BODY, _LEADING = 10.0, 14.5  # points of text and from line to line: some ninety characters in a line
_TITLE = 21.0
_HEADINGS = {1: 15.5, 2: 15.5, 3: 12.0, 4: 10.5}  # type sizes by how deep they stand
_SMALL = 8.0  # points of notes and captions
_TABLE, _TABLE_LEAST = 8.6, 5.0  # points of the type of tables where there is room, and at least
_INDENT = 14.0  # points of each level of a list
_GAP = 14.0  # points between pictures side by side
_KEPT = 90.0  # points that must follow a heading on its page
_INK, _MUTED, _LINK = "#1f2a33", "#5c6770", "#0b6e69"


def as_pages(report: Report, made: Mapping[str, Made]) -> Outputs:
    """The report as a PDF, with the advice that its pictures give.

    Args:
        report: What it says and shows.
        made: What it shows, by the names of entries.

    Raises:
        RequestError: Something that cannot be shown.
        ChartError: A picture that cannot be drawn in its size.
    """
    charts = _Charts(made)
    typefaces = charts.typefaces(report)
    with set_in(typefaces):
        first = _Setter(report, charts, {}, typefaces)
        first.set()
        setter = _Setter(report, charts, first.found, typefaces)  # the contents know their pages now
        setter.set()
    title = report.title or report.name
    content = paint_pages(setter.pages, PAPERS[report.paper], title, report.language, report.trace)
    return Outputs((content,), tuple(dict.fromkeys(charts.advice)))


class _Charts:
    """Charts composed for the pages, each once for a size."""

    def __init__(self, made: Mapping[str, Made]) -> None:
        self.made = made
        self.advice: list[Advice] = []
        self._scenes: dict[tuple[str, str], Scene] = {}

    def typefaces(self, report: Report) -> tuple[Typeface, ...]:
        """What text is set in: what the first chart is."""
        names = (name for part in report.parts for row in part.rows for name in row)
        first = next((name for name in names if self.made[name].kind.product is Product.CHART), None)
        return self.made[first].picture().typefaces if first else ()

    def composed(self, name: str, size: str, room: tuple[float, float], *, alone: bool) -> Scene:
        """A chart in the size asked for, or as wide as its room; as tall as a page at most.

        Args:
            name: Its name.
            size: The size asked for; empty for none.
            room: The width there is for it, and the height of a page.
            alone: Whether nothing stands beside it.
        """
        key = (name, size or f"{room} {alone}")
        if key not in self._scenes:
            self._scenes[key] = self._drawn(name, size, room, alone=alone)
        return self._scenes[key]

    def _drawn(self, name: str, size: str, room: tuple[float, float], *, alone: bool) -> Scene:
        """A chart composed for its room; as it is and smaller, if it can be composed for none that a page has."""
        made = self.made[name]
        own = made.picture()
        wide, tall = room
        wide += 2 * rim_of(made, wide, wide * SHAPE)
        shape = min(own.height / own.width if alone else SHAPE, tall / wide)
        try:
            scene = composed(made, size or size_of(wide, shape))
        except ChartError:
            if size:
                raise
            scale = min(room[0] / own.width, tall / own.height, 1.0)
            self.advice += advice_on_shrinking(name, scale)
            return own.scaled(scale)
        self.advice += advice_in(name, scene)
        return scene


class _Setter:
    """Pages while they are being set.

    Attributes:
        pages: Those that are done.
        found: The page of each heading, by its place among them.
    """

    def __init__(
        self, report: Report, charts: _Charts, known: Mapping[int, int], typefaces: tuple[Typeface, ...]
    ) -> None:
        self._report, self._charts, self._known, self._typefaces = report, charts, known, typefaces
        self._width, self._height = PAPERS[report.paper]
        self._room = self._width - 2 * _SIDE
        self._down = _ABOVE
        self._marks: list[Mark] = []
        self._scenes: list[Scene] = []
        self._links: list[Link] = []
        self._bookmarks: list[tuple[str, int, float]] = []
        self._figures = self._headings = 0
        self.pages: list[Page] = []
        self.found: dict[int, int] = {}

    def set(self) -> None:
        """Sets the whole report."""
        report = self._report
        if report.title:
            self._lines(lines_of([Span(report.title)], _TITLE, self._room, Weight.SEMIBOLD), _TITLE, _TITLE * 1.25)
            self._down += 10
        self._contents()
        for part in report.parts:
            self._part(part)
        self._end_page()

    def _part(self, part: Part) -> None:
        if part.heading:
            self._heading(part.heading, part.level, self._kept(part))
        self._text(part.text)
        for row in part.rows:
            self._row(part, row)
        if part.caption:
            self._figures += 1
            self._paragraph(
                [Span(phrase("Figure {number}. {caption}", number=self._figures, caption=part.caption))], _SMALL, _MUTED
            )
            self._down += 6

    @property
    def _bottom(self) -> float:
        return self._height - _FOOT

    def _need(self, height: float) -> None:
        """Begins a page where this one has not so much room left."""
        if self._down + height > self._bottom and self._down > _ABOVE:
            self._end_page()

    def _flush(self) -> None:
        """Ends a stretch of text, so that what comes next is read after it."""
        if self._marks:
            page = Scene(self._width, self._height, tuple(self._marks), "", paper="", typefaces=self._typefaces)
            self._scenes.append(page)
            self._marks = []

    def _end_page(self) -> None:
        number = str(len(self.pages) + 1)
        wide = width(number, _SMALL)
        place = (self._width / 2, self._height - _FOOTER)
        self._marks.append(Text(*place, number, _SMALL, wide, _MUTED, MarkRole.WORDS, anchor=Anchor.MIDDLE))
        self._flush()
        self.pages.append(Page(tuple(self._scenes), tuple(self._links), tuple(self._bookmarks)))
        self._scenes, self._links, self._bookmarks = [], [], []
        self._down = _ABOVE

    def _contents(self) -> None:
        """Headings of sections with their pages, where there are more than are seen at once."""
        numbered = enumerate(part for part in self._report.parts if part.heading)
        sections = [(number, part.heading) for number, part in numbered if part.level == 2]
        if len(sections) < 3:
            return
        for number, heading in sections:
            page = self._known.get(number, 0)
            last = str(page + 1)
            lines = lines_of([Span(heading)], _BODY, self._room - 30)
            top = self._down
            self._lines(lines, _BODY, _LEADING, _LINK)
            right = _SIDE + self._room
            baseline = self._down - _LEADING + _BODY
            self._marks.append(
                Text(right, baseline, last, _BODY, width(last, _BODY), _LINK, MarkRole.WORDS, anchor=Anchor.END)
            )
            self._links.append(Link((_SIDE, top, right, self._down), page))
        self._down += 12

    def _heading(self, text: str, level: int, kept: float = _KEPT, *, counted: bool = True) -> None:
        """A heading, with something of what follows on its page."""
        size = _HEADINGS[level]
        lines = lines_of([Span(text)], size, self._room, Weight.SEMIBOLD)
        self._down += size if self._down > _ABOVE else 0
        self._need(len(lines) * size * 1.25 + kept)
        if counted:
            self.found[self._headings] = len(self.pages)
            self._headings += 1
            self._bookmarks.append((text, level - 2, self._down))
        self._lines(lines, size, size * 1.25)
        self._down += size * 0.35

    def _text(self, text: str) -> None:
        """Text in CommonMark."""
        for passage in passages(text):
            if passage.kind is PassageKind.HEADING:
                self._heading(passage.text, max(passage.level, 2), counted=False)
                continue
            self._paragraph(passage.spans, _BODY, _INK, indent_of(passage, _INDENT), passage.mark)
        self._down += 3 if text else 0

    def _paragraph(self, spans: Sequence[Span], size: float, fill: str, indent: float = 0.0, mark: str = "") -> None:
        leading = size * _LEADING / _BODY
        lines = lines_of(spans, size, self._room - indent)
        if mark:
            self._need(leading)
            place = (_SIDE + indent - _INDENT + 2, self._down + size)
            self._marks.append(Text(*place, mark, size, width(mark, size), fill, MarkRole.WORDS))
        self._lines(lines, size, leading, fill, indent)
        self._down += leading * 0.35

    def _lines(
        self, lines: Sequence[Sequence[Placed]], size: float, leading: float, fill: str = _INK, indent: float = 0.0
    ) -> None:
        """Lines of words, over as many pages as they take."""
        for line in lines:
            self._need(leading)
            baseline = self._down + size
            for one in line:
                left = _SIDE + indent + one.left
                ink = _LINK if one.piece.address else fill
                words = Text(left, baseline, one.piece.text, size, one.width, ink, MarkRole.WORDS, one.piece.weight)
                self._marks.append(words)
                if one.piece.address:
                    box = (left, baseline - size, left + one.width, baseline + size * 0.25)
                    self._links.append(Link(box, address=one.piece.address))
            self._down += leading

    def _row(self, part: Part, row: Sequence[str]) -> None:
        """What stands side by side: tables one under the other, then pictures."""
        made = self._charts.made
        for name in row:
            if made[name].kind.product is Product.TABLE:
                for printed in table_printed(made[name]):
                    self._table(printed)
        charts = [name for name in row if made[name].kind.product is Product.CHART]
        if not charts:
            return
        wide, scenes = self._side_by_side(part, charts)
        if self._report.chart_pages and self._down > _ABOVE:
            self._end_page()
        tall = max(scene.height for scene in scenes)
        self._need(tall)
        self._flush()
        for place, scene in enumerate(scenes):
            rim = max((scene.width - wide) / 2, 0.0)
            self._scenes.append(scene.moved(_SIDE + place * (wide + _GAP) - rim, self._down))
        self._down += tall + 10

    def _side_by_side(self, part: Part, charts: Sequence[str]) -> tuple[float, list[Scene]]:
        """The room of each of some charts, and the charts in it."""
        wide = (self._room - _GAP * (len(charts) - 1)) / len(charts)
        room = (wide, self._bottom - _ABOVE)
        return wide, [self._charts.composed(name, part.size, room, alone=len(charts) == 1) for name in charts]

    def _kept(self, part: Part) -> float:
        """The room that what follows a heading at once needs below it."""
        charts = [name for name in (part.rows or [()])[0] if self._charts.made[name].kind.product is Product.CHART]
        text = sum(len(lines_of(one.spans, _BODY, self._room)) * _LEADING * 1.4 for one in passages(part.text))
        if text > _KEPT or not charts:
            return _KEPT
        tallest = max(scene.height for scene in self._side_by_side(part, charts)[1])
        return min(text + tallest, self._bottom - _ABOVE - 2 * _KEPT)

    def _table(self, printed: Printed) -> None:
        """A table whose heading stands on each of its pages, and its notes below."""
        above = headings(printed)
        size = _TABLE
        columns = widths(printed, size)
        if sum(columns) > self._room:
            size = max(size * self._room / sum(columns), _TABLE_LEAST)
            columns = widths(printed, size)
            columns = [one * min(1.0, self._room / sum(columns)) for one in columns]
        if printed.title:
            self._need(4 * size * ROW)
            self._lines(lines_of([Span(printed.title)], size, self._room, Weight.SEMIBOLD), size, size * ROW)
        table = PageTable(_SIDE, printed, columns, size)
        notes = [line for note in printed.notes for line in lines_of([Span(note)], _SMALL, self._room)]
        whole = table.heading_height(above) + len(printed.rows) * size * ROW + 8 + len(notes) * _SMALL * 1.6
        fits = whole <= self._bottom - _ABOVE
        self._need(whole if fits else table.heading_height(above) + 2 * size * ROW)  # on one page where it can be
        self._marks += table.heading(above, self._down)
        self._down += table.heading_height(above)
        for number in range(len(printed.rows)):
            if self._down + size * ROW > self._bottom:
                self._end_page()
                self._marks += table.heading(above, self._down)
                self._down += table.heading_height(above)
            self._marks += table.row(number, self._down)
            self._down += size * ROW
        self._down += 5
        for note in printed.notes:
            self._paragraph([Span(note)], _SMALL, _MUTED)
        self._down += 10
