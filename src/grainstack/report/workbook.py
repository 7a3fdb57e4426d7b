"""A table as a workbook: a sheet to read, with numbers that are numbers, and all figures below each other."""

import io
from collections.abc import Callable, Mapping, Sequence
from datetime import UTC, datetime
from typing import Any

import xlsxwriter

from grainstack.chart.writing.character_columns import columns_wide
from grainstack.chart.writing.figures import Figures, figures_of
from grainstack.chart.writing.numbers import PERCENT, NumberStyle
from grainstack.chart.writing.signs import signs_of
from grainstack.language import phrase
from grainstack.making.make import Made
from grainstack.report.banner import BannerCell, Sections, banner_columns, banner_rows
from grainstack.report.cells import block_rows, difference_rows, with_flags_joined
from grainstack.report.documents.packing import properties_of
from grainstack.report.print_request import print_request, table_printed
from grainstack.report.printing import Printed, PrintRequest
from grainstack.report.wide import Wide, WideCell, wide_of
from grainstack.summary.table import Flag, SummaryTable

Row = Mapping[str, Any]
_MADE = datetime(2000, 1, 1, tzinfo=UTC).replace(tzinfo=None)  # a fixed day, so that the same table is the same file
_WIDEST = 40  # characters of a column: longer labels are wrapped
_ROOM = 2  # characters beside the longest text
_NUMBER = 8  # characters of a figure with its marks
_LINE = 15  # points of a row of one line
_AS_TEXT = {"strings_to_formulas": False, "strings_to_urls": False, "strings_to_numbers": False}
_OF_FIGURES = ("estimate", "low", "high", "standard_error")
_OF_DIFFERENCES = ("difference", "low", "high")


def as_workbook(
    blocks: Sequence[tuple[str, SummaryTable]], printed: Sequence[Printed], request: PrintRequest, trace: str = ""
) -> bytes:
    """Tables side by side as an OOXML workbook.

    `Table` has a row for each category, rounded by its formats alone, with the notes below; `Figures` a row for each
    figure with its limits, base and flags; `Differences` those that were tested; the sheets are named in the language
    spoken. Text is never taken for a formula.

    Args:
        blocks: The tables, each with what tells its columns apart from those of the others.
        printed: The same as they are printed, for the notes.
        request: How they are printed.
        trace: Where they come from, as the workbook carries it; empty for nothing.
    """
    sheets = Sheets(blocks[0][1].shown[0].title, trace)
    sheets.wide(phrase("Table"), blocks, printed, request)
    sheets.long(phrase("Figures"), blocks, request)
    sheets.differences(phrase("Differences"), blocks)
    return sheets.bytes()


def _is_share(row: Row, key: str) -> bool:
    """Whether a number of a row of figures is a share, or a difference of shares."""
    return key in _OF_FIGURES and row["statistic"] == "share" and row.get("change") in (None, "difference")


class Sheets:
    """The sheets of a workbook.

    Args:
        title: What the workbook is about.
        trace: Where it comes from, as it carries it; empty for nothing.
    """

    def __init__(self, title: str, trace: str = "") -> None:
        self._target = io.BytesIO()
        self.book: Any = xlsxwriter.Workbook(self._target, {"in_memory": True, **_AS_TEXT})
        self.book.set_properties({"title": title, "created": _MADE})
        for name, text in properties_of(trace).items():
            self.book.set_custom_property(name, text, "text")
        self._formats: dict[tuple[str, bool], Any] = {}
        self._figures: dict[int, Figures] = {}  # by the identity of their columns
        self._heading = self.book.add_format({"bold": True, "bottom": 1, "text_wrap": True, "valign": "top"})
        self._over_numbers = self.book.add_format({"bold": True, "bottom": 1, "text_wrap": True, "align": "right"})
        self._note = self.book.add_format({"font_color": "#5c6770", "text_wrap": True, "valign": "top"})

    def bytes(self) -> bytes:
        """The file."""
        self.book.close()
        return self._target.getvalue()

    def wide(
        self, name: str, blocks: Sequence[tuple[str, SummaryTable]], printed: Sequence[Printed], request: PrintRequest
    ) -> None:
        """A sheet with a row for each category, and what there is to say below.

        Args:
            name: The name of the sheet.
            blocks: The tables side by side, each with its title.
            printed: The same as they are printed, for the notes.
            request: How they are printed.
        """
        wide = wide_of(blocks)
        table = blocks[0][1]
        sheet = self.book.add_worksheet(name)
        labels = [dimension.variable.label for dimension in table.dimensions if dimension is not table.series]
        top = self._above(sheet, [title for title, _ in blocks], wide, len(labels))
        names = [_own_name(name, [title for title, _ in blocks]) for name in wide.names]
        self._headings(sheet, [*labels, *names], top, len(labels))
        room = max((len(_marks(cell)) for row in wide.rows.values() for cell in row.values()), default=0)
        for row, (key, cells) in enumerate(wide.rows.items(), top + 1):
            for place, label in enumerate(key):
                sheet.write_string(row, place, label, self._format("", strong=True) if key in wide.sums else None)
            for place, name_of_column in enumerate(wide.names, len(key)):
                strong = key in wide.sums or name_of_column in wide.sums
                cell = cells.get(name_of_column, WideCell(""))
                self._cell(sheet, (row, place), cell, room, add_up=request.add_up, strong=strong)
        widths = [
            *(
                self._width(sheet, place, [label, *(key[place] for key in wide.rows)])
                for place, label in enumerate(labels)
            ),
            *(self._width(sheet, place, [one, "0" * _NUMBER]) for place, one in enumerate(names, len(labels))),
        ]
        sheet.freeze_panes(top + 1, len(labels))
        sheet.set_landscape()
        sheet.fit_to_pages(1, 0)
        sheet.repeat_rows(0, top)
        for row, note in enumerate((note for one in printed for note in one.notes), top + len(wide.rows) + 2):
            self._below(sheet, row, note, widths)

    def banner(self, name: str, sections: Sections, notes: Sequence[str]) -> None:
        """A sheet of a banner table: beside each figure its letters, in a cell of their own.

        Args:
            name: The name of the sheet.
            sections: The tables, question by question.
            notes: What there is to say below.
        """
        columns, rows = banner_columns(sections), banner_rows(sections)
        sheet = self.book.add_worksheet(name)
        starts = [1 + 2 * number for number in range(len(columns))]
        self._headings(sheet, ["", *(text for one in columns for text in (one.heading, ""))], 1, 1)
        begins = [number for number, one in enumerate(columns) if one.starts]
        for number, after in zip(begins, [*begins[1:], len(columns)], strict=True):
            last = starts[after - 1] + 1
            sheet.merge_range(0, starts[number], 0, last, columns[number].block, self._heading)
        for place, row in enumerate(rows, 2):
            sheet.write_string(place, 0, row.label, self._format("", strong=True) if row.apart else None)
            for start, cell in zip(starts, row.cells, strict=False):
                self._banner_cell(sheet, (place, start), cell, strong=row.apart)
        widths = [self._width(sheet, 0, [row.label for row in rows])]
        for number, (start, one) in enumerate(zip(starts, columns, strict=True)):
            tails = [f"{row.cells[number].marks} {row.cells[number].letters}" for row in rows if row.cells]
            widths += [self._width(sheet, start, [one.heading, "0" * _NUMBER]), self._width(sheet, start + 1, tails)]
        sheet.freeze_panes(2, 1)
        sheet.set_landscape()
        sheet.fit_to_pages(1, 0)
        sheet.repeat_rows(0, 1)
        for number, note in enumerate(notes, len(rows) + 3):
            self._below(sheet, number, note, widths)

    def _banner_cell(self, sheet: Any, at: tuple[int, int], cell: BannerCell, *, strong: bool) -> None:  # noqa: ANN401
        """A figure, and in the cell beside it its signs and letters."""
        row, place = at
        if cell.value is None:
            sheet.write_string(row, place, cell.text)
        else:
            pattern = "#,##0" if cell.figures is None else _pattern(cell.figures.style)
            sheet.write_number(row, place, cell.value, self._format(pattern, strong=strong))
        if cell.marks or cell.letters:
            sheet.write_string(row, place + 1, f"{cell.marks} {cell.letters}".strip())

    def long(
        self,
        name: str,
        blocks: Sequence[tuple[str, SummaryTable]],
        request: PrintRequest,
        banner: Sections = (),
    ) -> None:
        """A sheet with a row for each figure, unrounded, with its limits, base and flags.

        Args:
            name: The name of the sheet.
            blocks: The tables side by side, each with its title.
            request: How they are printed.
            banner: The tables of a banner table, question by question.
        """
        every = block_rows(blocks, design_figures=request.design_figures, banner=banner)
        self._rows(name, list(map(with_flags_joined, every)), _is_share)

    def differences(self, name: str, blocks: Sequence[tuple[str, SummaryTable]]) -> bool:
        """A sheet with the differences that were tested; gives whether there are any.

        Args:
            name: The name of the sheet.
            blocks: The tables side by side, each with its title.
        """
        differences = [row for _, table in blocks for row in difference_rows(table)]
        if differences:
            of_shares = blocks[0][1].columns[0].is_share
            self._rows(name, differences, lambda _, key: of_shares and key in _OF_DIFFERENCES)
        return bool(differences)

    def behind(self, name: str, made: Made) -> bool:
        """A sheet with what a chart shows besides its figures, unrounded; gives whether there is any.

        Args:
            name: The name of the sheet.
            made: The chart.
        """
        rows = [{key: value for key, (value, _) in row.items()} for row in made.behind()]
        if rows:
            self._rows(name, rows, lambda _, key: key == phrase("share"))
        return bool(rows)

    def _below(self, sheet: Any, row: int, note: str, widths: Sequence[int]) -> None:  # noqa: ANN401
        """A note as wide as the table, on as many lines as that takes: past it, it would widen the page."""
        if len(widths) > 1:
            sheet.merge_range(row, 0, row, len(widths) - 1, "", self._note)
        sheet.write_string(row, 0, note, self._note)
        sheet.set_row(row, _LINE * -(-columns_wide(note) // (sum(widths) - _ROOM)))

    def _above(self, sheet: Any, titles: Sequence[str], wide: Wide, labels: int) -> int:  # noqa: ANN401
        """What stands over the columns of each block; gives the row of the heading."""
        if len(titles) < 2:
            return 0
        for title in titles:
            places = [place for place, name in enumerate(wide.names, labels) if name.startswith(f"{title}: ")]
            if len(places) > 1:
                sheet.merge_range(0, places[0], 0, places[-1], title, self._heading)
            elif places:
                sheet.write_string(0, places[0], title, self._heading)
        return 1

    def _rows(self, name: str, rows: Sequence[Row], is_share: Callable[[Row, str], bool]) -> None:
        """A row for each figure, unrounded; shares are shown in percent."""
        names = list(dict.fromkeys(key for row in rows for key in row))
        sheet = self.book.add_worksheet(name)
        self._headings(sheet, names)
        for number, row in enumerate(rows, 1):
            for place, key in enumerate(names):
                value = row.get(key)
                if isinstance(value, int | float):
                    sheet.write_number(number, place, value, self._format("0.0%") if is_share(row, key) else None)
                elif value:
                    sheet.write_string(number, place, str(value))
        for place, key in enumerate(names):
            numbers = all(isinstance(row.get(key), int | float | None) for row in rows)
            texts = [] if numbers else [str(row.get(key) or "") for row in rows]
            self._width(sheet, place, [key, *texts])
        sheet.freeze_panes(1, 0)
        sheet.autofilter(0, 0, len(rows), len(names) - 1)

    def _cell(  # noqa: PLR0913 - a cell is all of that
        self,
        sheet: Any,  # noqa: ANN401
        at: tuple[int, int],
        cell: WideCell,
        room: int,
        *,
        add_up: bool,
        strong: bool,
    ) -> None:
        """A figure with its marks, or a base; one that is hidden or missing leaves its cell empty.

        Marks and letters belong to the number format, with as much room after figures that have none: the number stays
        a number, and digits stand below digits.
        """
        if not isinstance(cell.value, int | float):
            return
        if cell.column is None:
            sheet.write_number(*at, cell.value, self._format("#,##0", strong=strong))
            return
        if id(cell.column) not in self._figures:
            self._figures[id(cell.column)] = figures_of(cell.column, add_up=add_up)
        figures, marks = self._figures[id(cell.column)], _marks(cell)
        after = (f'"{marks}"' if marks else "") + "_0" * (room - len(marks))
        pattern = self._format(_pattern(figures.style) + after, strong=strong)
        sheet.write_number(*at, float(figures.shown[cell.cell]), pattern)

    def _headings(self, sheet: Any, names: Sequence[str], row: int = 0, labels: int | None = None) -> None:  # noqa: ANN401
        """The names of columns, those of labels to the left and of numbers to the right."""
        for place, name in enumerate(names):
            over_label = labels is None or place < labels
            sheet.write_string(row, place, name, self._heading if over_label else self._over_numbers)
        sheet.set_row(row, _LINE * max(-(-columns_wide(name) // (_WIDEST - _ROOM)) for name in names))

    def _width(self, sheet: Any, place: int, texts: Sequence[str]) -> int:  # noqa: ANN401
        """Makes a column as wide as its texts need, and gives the width in characters."""
        width = min(max(map(columns_wide, texts)) + _ROOM, _WIDEST)
        sheet.set_column(place, place, width)
        return width

    def _format(self, pattern: str, *, strong: bool = False) -> Any:  # noqa: ANN401
        """A number format, in bold where that is wanted."""
        if (pattern, strong) not in self._formats:
            look = {"num_format": pattern} if pattern else {}
            self._formats[pattern, strong] = self.book.add_format(look | ({"bold": True} if strong else {}))
        return self._formats[pattern, strong]


def _own_name(name: str, titles: Sequence[str]) -> str:
    """The name of a column without the block that stands over it."""
    return next((name.removeprefix(f"{title}: ") for title in titles if title and name.startswith(f"{title}: ")), name)


def _marks(cell: WideCell) -> str:
    """The marks of a figure and its letters."""
    if cell.column is None:
        return ""
    letters = cell.column.letters[cell.cell] if cell.column.letters else ""
    return signs_of(Flag(int(cell.column.flags[cell.cell]))) + (f" {letters}" if letters else "")


def _pattern(style: NumberStyle) -> str:
    """The number format in which figures have as many decimals as everywhere else."""
    decimals = "." + "0" * style.decimals if style.decimals else ""
    if style.scale == PERCENT:
        return f"0{decimals}%"
    return f"0{decimals}E+00" if style.power else f"#,##0{decimals}"


def workbook_of(made: Made) -> bytes:
    """A table as an OOXML workbook.

    Args:
        made: The table.
    """
    trace, request = str(made.trace) if made.trace else "", print_request(made)
    if not made.banner:
        return as_workbook(made.blocks or (("", made.table),), table_printed(made), request, trace)
    sheets = Sheets(made.table.shown[0].title, trace)
    sheets.banner(phrase("Table"), made.banner, table_printed(made)[0].notes)
    sheets.long(phrase("Figures"), (), request, made.banner)
    return sheets.bytes()
