"""Records in a sheet of a spreadsheet file, OOXML (.xlsx) or OpenDocument (.ods)."""

import datetime as dt
import re
import zipfile
from collections import Counter
from collections.abc import Iterator, Sequence
from typing import BinaryIO

import pyarrow as pa
from python_calamine import CalamineError, CalamineSheet, CalamineWorkbook, SheetTypeEnum, SheetVisibleEnum

from grainstack.errors import RecordsError, RequestError, listed, nearest
from grainstack.option_names import option
from grainstack.records.arrow import HEAD_ROWS, text_column, text_rows
from grainstack.records.sources.empty_cells import cells_without_values
from grainstack.records.sources.headers import header_of, names_in_two_lines
from grainstack.records.sources.opening import Bytes, check_growth

_ROWS = 50_000
_TITLE_ROWS = 20  # more lines above a table are a report of their own
_CHUNK = 1 << 20  # bytes of a sheet looked at at once
_OVERLAP = 200  # bytes of a chunk that the next one begins with: a cell says where it stands in fewer
_TAIL = 1 << 14  # bytes at the end of a chunk in which its last row is named
_MOST_CELLS = 200_000_000  # between the first and the last of a sheet: some gigabytes
_COLUMN = re.compile(rb'<(?:\w+:)?c (?:[^<>]{0,120} )??r="([A-Z]{1,3})\d')
_ROW = re.compile(rb'<(?:\w+:)?(?:c|row) (?:[^<>]{0,120} )??r="[A-Z]{0,3}(\d{1,7})"')
_NOWHERE = re.compile(  # a cell or a row beyond what a sheet can have
    rb'<(?:\w+:)?(?:c|row)\s[^<>]{0,120}?\br\s*=\s*["\'](?:[A-Za-z]{4,}|[A-Za-z]{0,3}\d{8,})'
)
_LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"


class SpreadsheetSource:
    """One sheet: its first filled row names the columns, every further one is a record.

    Raises:
        RequestError: There is no such sheet.
        RecordsError: The file cannot be read, or its header has empty, repeated or merged cells.
    """

    decimal = "."

    def __init__(self, content: Bytes, sheet: str | None, header_row: int | None = None, header_lines: int = 1) -> None:
        self.name, self._header_lines = content.name, header_lines
        self.units: dict[str, str] = {}
        try:
            with content.open() as file:
                _check_extent(file, content)
                file.seek(0)
                workbook = CalamineWorkbook.from_filelike(file)
                page = _sheet(workbook, sheet, self.name)
                rows = page.to_python(skip_empty_area=False)
                empty = cells_without_values(file, page.name)
        except CalamineError as reason:
            raise RecordsError(f"{self.name} cannot be read as a spreadsheet: {reason}.") from reason
        self._sheet = page.name if len(workbook.sheet_names) > 1 else ""
        self.notes: tuple[str, ...] = ()
        if sheet is None and len(workbook.sheet_names) > 1:
            self.notes = (f"Read the sheet `{page.name}` of {self.name}; others: {listed(_others(workbook, page))}.",)
        self.notes += empty.in_words(page.name, self.name)
        filled = [number for number, row in enumerate(rows) if any(value != "" for value in row)]
        if not filled:
            raise RecordsError(
                f"Sheet `{page.name}` of {self.name} is empty.", f"Choose another one with {option('sheet')}."
            )
        if header_row is not None and header_row - 1 not in filled:
            raise RequestError(
                f"Row {header_row} of sheet `{page.name}` of {self.name} is empty.",
                f"Filled are rows {filled[0] + 1} to {filled[-1] + 1}.",
            )
        self._first = filled[0] if header_row is None else header_row - 1
        self._rows = rows
        self._filled = [number for number in filled if number > self._first + header_lines - 1]
        try:
            self.columns = self._header(page)
        except RecordsError as error:
            texts = [[_text(value) for value in rows[number]] for number in filled if number >= self._first]
            if names_in_two_lines(texts[:HEAD_ROWS]):
                lines = f"Rows {self._first + 1} and {self._first + 2}"
                raise RecordsError(
                    error.message, f"{lines} look like one header: {option('header_lines', '2')}."
                ) from error
            likely = _likely_header([rows[number] for number in filled])
            if likely is None or filled[likely] <= self._first:
                raise
            row = filled[likely] + 1
            raise RecordsError(
                error.message, f"Row {row} looks like the header: {option('header_row', str(row))}."
            ) from error

    def batches(self, columns: Sequence[str]) -> Iterator[pa.RecordBatch]:
        """The rows in order, as text; empty rows are no records."""
        places = [self.columns.index(name) for name in columns]
        for start in range(0, len(self._filled), _ROWS):
            part = [self._rows[number] for number in self._filled[start : start + _ROWS]]
            arrays = [text_column([_text(row[place]) for row in part]) for place in places]
            yield pa.RecordBatch.from_arrays(arrays, names=list(columns))

    def head(self) -> pa.RecordBatch:
        """The first rows with all columns, as text."""
        rows = [self._rows[number] for number in self._filled[:HEAD_ROWS]]
        return text_rows([[_text(value) for value in row[: len(self.columns)]] for row in rows], self.columns)

    def place(self, record: int) -> str:
        """The row of the sheet, counted from 1 as spreadsheets do; the sheet too where there are several."""
        row = f"row {self._filled[record] + 1}"
        return f"{row} of sheet `{self._sheet}`" if self._sheet else row

    def _header(self, page: CalamineSheet) -> tuple[str, ...]:
        lines = self._rows[self._first : self._first + self._header_lines]
        header = header_of([[_text(value) for value in line] for line in lines])
        self.units = header.units
        names = list(header.names)
        while names and not names[-1]:
            names.pop()
        row = self._first + 1
        for (top, left), (bottom, right) in page.merged_cell_ranges or ():
            if top <= self._first <= bottom and self._header_lines == 1:
                raise RecordsError(
                    f"{self.name}, sheet `{page.name}`: the header cells {_cell(left, top)} to {_cell(right, bottom)} "
                    "are merged.",
                    f"Give every column its own name in one row, or name its rows: {option('header_lines', '2')}.",
                )
        empty = [_cell(place, self._first) for place, name in enumerate(names) if not name]
        if empty:
            raise RecordsError(
                f"{self.name}, sheet `{page.name}`: no column name in {listed(empty)}.",
                f"Row {row} has to name every column.",
            )
        twice = [name for name, times in Counter(names).items() if times > 1]
        if twice:
            raise RecordsError(f"{self.name}, row {row}: column names stand twice: {listed(twice)}.", "Rename one.")
        too_wide = [number for number in self._filled if any(value != "" for value in self._rows[number][len(names) :])]
        if too_wide:
            raise RecordsError(
                f"{self.name}, row {too_wide[0] + 1} has values right of the last named column.", "Name their columns."
            )
        return tuple(names)


def _check_extent(file: BinaryIO, content: Bytes) -> None:
    """Refuses a sheet whose cells reach so far that room for all between them would take all memory.

    A single cell in the last corner of a sheet would make a table of 17 thousand million.

    Raises:
        RecordsError: There is such a sheet, or it unpacks to too much.
    """
    if not zipfile.is_zipfile(file):
        return
    name = content.name
    with zipfile.ZipFile(file) as packed:
        check_growth(file.seek(0, 2), sum(one.file_size for one in packed.infolist()), content)
        for part in packed.namelist():
            if not part.startswith("xl/worksheets/") or not part.endswith(".xml"):
                continue
            columns: set[bytes] = set()
            last, rest = 0, b""
            with packed.open(part) as sheet:
                while chunk := sheet.read(_CHUNK):
                    text = rest + chunk
                    if _NOWHERE.search(text):
                        raise RecordsError(
                            f"{name} is damaged: {part} has a cell in a place that no sheet has.",
                            "Save it again in the program it comes from.",
                        )
                    columns.update(_COLUMN.findall(text))
                    rows = _ROW.findall(text, len(text) - _TAIL) if len(text) > _TAIL else _ROW.findall(text)
                    last = max([last, *map(int, rows)])
                    rest = text[-_OVERLAP:]
            wide = max(map(_number_of, columns), default=0)
            if wide * last > _MOST_CELLS:
                raise RecordsError(
                    f"{name} has cells out to column {wide:,} and row {last:,}, which is more than there is room for.",
                    "Delete what stands far from the table, and save it again.",
                )


def _number_of(letters: bytes) -> int:
    """The number of a column, from 1."""
    number = 0
    for letter in letters:
        number = number * 26 + letter - ord("A") + 1
    return number


def _likely_header(rows: Sequence[Sequence[object]]) -> int | None:
    """Which of the first rows looks like a header: as wide as the rows below, and text throughout; None for none."""
    width = max((len(_filled_cells(row)) for row in rows[:HEAD_ROWS]), default=0)
    for place, row in enumerate(rows[:_TITLE_ROWS]):
        cells = _filled_cells(row)
        if len(cells) == width and all(isinstance(cell, str) for cell in cells) and len(set(cells)) == width:
            return place
    return None


def _filled_cells(row: Sequence[object]) -> list[object]:
    return [cell for cell in row if cell != ""]


def _sheet(workbook: CalamineWorkbook, sheet: str | None, source: str) -> CalamineSheet:
    if sheet is None:
        shown = [
            one.name
            for one in workbook.sheets_metadata
            if one.visible == SheetVisibleEnum.Visible and one.typ == SheetTypeEnum.WorkSheet
        ]
        return workbook.get_sheet_by_name((shown or workbook.sheet_names)[0])
    if sheet not in workbook.sheet_names:
        raise RequestError(f"{source} has no sheet `{sheet}`.", nearest(sheet, workbook.sheet_names))
    return workbook.get_sheet_by_name(sheet)


def _others(workbook: CalamineWorkbook, page: CalamineSheet) -> list[str]:
    return [name for name in workbook.sheet_names if name != page.name]


def _cell(column: int, row: int) -> str:
    letters, left = "", column + 1
    while left:
        left, place = divmod(left - 1, 26)
        letters = _LETTERS[place] + letters
    return f"{letters}{row + 1}"


def _text(value: object) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, float):
        return str(int(value)) if value.is_integer() and abs(value) < 2**53 else repr(value)
    if isinstance(value, dt.datetime):
        return value.date().isoformat() if value.time() == dt.time(0) else value.isoformat(" ")
    return str(value)
