"""A report as a workbook: contents, then the figures of every table and chart, as printed and one by one."""

from collections.abc import Iterator, Mapping
from itertools import count

from grainstack.language import marked, phrase
from grainstack.making.kind import Outputs
from grainstack.making.make import Made
from grainstack.plan.file.report import Report
from grainstack.report.documents.commonmark import passages
from grainstack.report.documents.composed_charts import title_of
from grainstack.report.print_request import print_request, table_printed
from grainstack.report.workbook import Sheets

CONTENTS = marked("Contents")
_LONGEST = 31  # characters of the name of a sheet, as OOXML allows
_LONG, _TESTED, _BEHIND = (
    marked(" figures"),
    marked(" differences"),
    marked(" spread"),
)  # what the names of further sheets of an entry end in
_RESERVED = ("history",)  # names of sheets that spreadsheets keep for themselves
_WIDE = 80  # characters of the column of titles: a line of text
_LINE = 15  # points of a row of one line


def as_book(report: Report, made: Mapping[str, Made]) -> Outputs:
    """The report as an OOXML workbook: its headings and words in front, a sheet or more for each entry behind them.

    Args:
        report: What it says and shows.
        made: What it shows, by the names of entries.
    """
    sheets = Sheets(report.title, report.trace)
    names = _sheet_names([name for part in report.parts for row in part.rows for name in row])
    _contents(sheets, report, made, names)
    for entry, (wide, long, tested, behind) in names.items():
        one = made[entry]
        blocks, request = one.blocks or (("", one.table),), print_request(one)
        if one.banner:
            sheets.banner(wide, one.banner, table_printed(one)[0].notes)
            sheets.long(long, (), request, one.banner)
            continue
        sheets.wide(wide, blocks, table_printed(one), request)
        sheets.long(long, blocks, request)
        sheets.differences(tested, blocks)
        sheets.behind(behind, one)
    return Outputs((sheets.bytes(),))


def _contents(
    sheets: Sheets, report: Report, made: Mapping[str, Made], names: Mapping[str, tuple[str, str, str, str]]
) -> None:
    """The sheet in front: what there is, with links to it."""
    book = sheets.book
    title, heading, text, link = (
        book.add_format(look | {"valign": "top", "text_wrap": True})
        for look in (
            {"bold": True, "font_size": 16},
            {"bold": True, "font_size": 12},
            {},
            {"font_color": "#0b6e69", "underline": 1},
        )
    )
    sheet = book.add_worksheet(phrase(CONTENTS))
    sheet.set_column(0, 0, _WIDE)
    sheet.set_column(1, 1, _LONGEST)
    sheet.hide_gridlines(2)
    sheet.set_portrait()
    sheet.fit_to_pages(1, 0)
    for row, (kind, words) in enumerate(_lines(report)):
        if kind == "entry":
            wide, long, *_ = names[words]
            sheet.write_url(row, 0, _place(wide), link, title_of(made[words]))
            sheet.write_url(row, 1, _place(long), link, phrase("every figure"))
        else:
            sheet.write_string(row, 0, words, {"title": title, "heading": heading}.get(kind, text))
            if kind == "text":
                sheet.set_row(row, _LINE * sum(-(-len(line) // _WIDE) or 1 for line in words.split("\n")))


def _lines(report: Report) -> Iterator[tuple[str, str]]:
    """What stands in the contents, line by line: what it is, and its words or the name of an entry."""
    if report.title:
        yield "title", report.title
        yield "text", ""
    for part in report.parts:
        if part.heading:
            yield "heading", part.heading
        if part.text:
            for passage in passages(part.text):
                yield "text", f"{passage.mark} {passage.text}".strip()
        for row in part.rows:
            yield from (("entry", name) for name in row)
        if part.caption:
            yield "text", part.caption
        yield "text", ""


def _place(sheet: str) -> str:
    """The address of a sheet within its workbook."""
    return f"internal:'{sheet}'!A1"


def _sheet_names(entries: list[str]) -> dict[str, tuple[str, str, str, str]]:
    """The names of the sheets of each entry: no two alike, whatever case they are written in."""
    long, tested, behind = phrase(_LONG), phrase(_TESTED), phrase(_BEHIND)
    taken = {phrase(CONTENTS).lower(), *_RESERVED}
    found = {}
    for entry in dict.fromkeys(entries):
        for number in count(1):
            tail = f" {number}" if number > 1 else ""
            stem = entry[: _LONGEST - max(len(long), len(tested), len(behind)) - len(tail)] + tail
            names = (stem, stem + long, stem + tested, stem + behind)
            if not taken & set(map(str.lower, names)):
                break
        taken |= set(map(str.lower, names))
        found[entry] = names
    return found
