"""A banner table as printed: questions below each other, all records and the groups of several columns across."""

from collections.abc import Callable, Collection, Iterator, Sequence
from math import isfinite

from msgspec import Struct

from grainstack.chart.writing.figures import Figures, figures_of
from grainstack.chart.writing.numbers import written
from grainstack.chart.writing.signs import signs_of
from grainstack.language import phrase
from grainstack.records.variable import EVERYTHING
from grainstack.report.printing import Printed, figure_and_marks, lined_up, titled, with_nets
from grainstack.summary.comparison.letters import column_letter
from grainstack.summary.table import UNKNOWN_BASE, Column, Flag, SummaryTable

Sections = Sequence[Sequence[SummaryTable]]  # question by question, the tables of all columns of the banner


class BannerCell(Struct, frozen=True):
    """A cell of a banner table.

    Attributes:
        text: What it says, without marks and letters.
        marks: Why it should not be taken as solid.
        letters: The letters of the columns it is higher than.
        value: The number behind it, unrounded; None for none.
        figures: How it is written; None for a base.
    """

    text: str = ""
    marks: str = ""
    letters: str = ""
    value: float | None = None
    figures: Figures | None = None


class BannerColumn(Struct, frozen=True):
    """A column of a banner table.

    Attributes:
        label: The level it is of.
        letter: Its letter; empty for all records together.
        block: The column of the records its level belongs to; empty for all records together.
        starts: Whether it is the first of its block.
        table: The number of the table it is in, among those of a section.
        place: The place of its level there.
    """

    label: str
    letter: str
    block: str
    starts: bool
    table: int
    place: int

    @property
    def heading(self) -> str:
        """What stands over it."""
        return f"{self.label} ({self.letter})" if self.letter else self.label


class BannerRow(Struct, frozen=True):
    """A row of a banner table.

    Attributes:
        label: What it is of.
        cells: Its cells, one for each column; empty for the name of a question.
        apart: Whether it is set apart: the name of a question, a net, or a base.
    """

    label: str
    cells: tuple[BannerCell, ...] = ()
    apart: bool = False


def banner_columns(sections: Sections, under: Collection[int] | None = None) -> list[BannerColumn]:
    """The columns of a banner table: all records first, then the levels of each column of the banner.

    Args:
        sections: The tables.
        under: The numbers of the headings wanted; None for all of them.
    """
    found: list[BannerColumn] = []
    for number, table in enumerate(sections[0]):
        series = table.series
        if series is None or (under is not None and number not in under):
            continue
        if not found and series.total is not None:
            found.append(BannerColumn(phrase("All"), "", "", False, number, series.total))  # noqa: FBT003 - as it is read
        places = [place for place in with_nets(series) if place != series.total]
        for at, place in enumerate(places):
            letter = column_letter(place) if place < series.plain else ""
            level = series.levels[place].label
            found.append(BannerColumn(level, letter, series.variable.label, not at, number, place))
    return found


def banner_rows(sections: Sections, under: Collection[int] | None = None) -> list[BannerRow]:
    """The rows of a banner table, question by question.

    Args:
        sections: The tables.
        under: As for `banner_columns`.
    """
    columns = banner_columns(sections, under)
    return [row for tables in sections for row in _section_rows(tables, columns)]


def printed_banner(sections: Sections, notes: tuple[str, ...], under: Collection[int] | None = None) -> Printed:
    """A banner table as text.

    Args:
        sections: The tables.
        notes: What stands below.
        under: As for `banner_columns`.
    """
    columns, rows = banner_columns(sections, under), banner_rows(sections, under)
    texts = []
    for place in range(len(columns)):
        cells = [row.cells[place] if row.cells else BannerCell() for row in rows]
        wide = max((len(cell.marks) for cell in cells), default=0)
        tails = [f"{cell.marks:<{wide}} {cell.letters}" if cell.letters else cell.marks for cell in cells]
        texts.append(lined_up([cell.text for cell in cells], tails))
    above = [(number + 1, one.block) for number, one in enumerate(columns) if one.starts]
    return Printed(
        ("", *(one.heading for one in columns)),
        tuple((row.label, *(text[number] for text in texts)) for number, row in enumerate(rows)),
        right=(False, *(True for _ in columns)),
        notes=notes,
        above=tuple(above),
        sum_rows=frozenset(number for number, row in enumerate(rows) if row.apart),
        sum_columns=frozenset(number + 1 for number, one in enumerate(columns) if not one.letter),
    )


def _section_rows(tables: Sequence[SummaryTable], columns: Sequence[BannerColumn]) -> Iterator[BannerRow]:
    """The rows of one question, or of one number."""
    first = tables[0]
    category = first.categories[0]
    of_number = category.variable.name == EVERYTHING
    figures = [figures_of(table.shown[0]) for table in tables]
    if not of_number:
        yield BannerRow(category.variable.label, apart=True)
    for key, label, is_sum in _answers(tables):
        name = titled(first.shown[0]) if of_number else label
        cells = (_cell(tables[one.table], figures[one.table], key, one.place) for one in columns)
        yield BannerRow(name, tuple(cells), is_sum)
    yield from _base_rows(tables, columns)


def _answers(tables: Sequence[SummaryTable]) -> list[tuple[str, str, bool]]:
    """The answers of a question, in their order: the key, the label, and whether it is a net, each once."""
    found: dict[str, tuple[str, str, bool]] = {}
    for table in tables:
        category = table.categories[0]
        for place in with_nets(category):
            level = category.levels[place]
            found.setdefault(level.key, (level.key, level.label, level.is_sum))
    return list(found.values())


def _cell(table: SummaryTable, figures: Figures, key: str, place: int) -> BannerCell:
    """The figure of an answer in a column."""
    at = _row_of(table, key, place)
    if at is None:
        return BannerCell("–")
    column = table.shown[0]
    text, marks = figure_and_marks(column, at, figures)
    hidden = Flag.HIDDEN in Flag(int(column.flags[at]))
    value = None if hidden or text == "–" else float(figures.shown[at])
    return BannerCell(text, marks, column.letters[at] if column.letters else "", value, figures)


def _row_of(table: SummaryTable, key: str, place: int) -> int | None:
    """The cell of an answer in a column; None where the table has none."""
    levels = [level.key for level in table.categories[0].levels]
    wanted = (levels.index(key), place) if key in levels else None
    return next((at for at, one in enumerate(table.keys.tolist()) if tuple(one) == wanted), None)


def _base_rows(tables: Sequence[SummaryTable], columns: Sequence[BannerColumn]) -> Iterator[BannerRow]:
    """The bases of a question: records, and with weights what these add up to, and as how many records they count."""
    weighted = tables[0].provenance.weighted

    def row(label: str, of: Callable[[Column, int], tuple[str, float | None]]) -> BannerRow:
        found = []
        for one in columns:
            column = tables[one.table].shown[0]
            at = next((at for at, key in enumerate(tables[one.table].keys.tolist()) if key[-1] == one.place), None)
            text, value = ("–", None) if at is None else of(column, at)
            found.append(BannerCell(text, "", "", value))
        return BannerRow(label, tuple(found), apart=True)

    def effective(column: Column, at: int) -> tuple[str, float | None]:
        base = float(column.base[at]) / float(column.weighting_effect[at])
        return _whole(base, column, at)

    yield row(phrase("n"), lambda column, at: _whole(float(column.base[at]), column, at))
    if weighted:
        yield row(phrase("Weighted n"), lambda column, at: _whole(float(column.weighted_base[at]), column, at))
        yield row(phrase("Effective n"), effective)


def _whole(number: float, column: Column, at: int) -> tuple[str, float | None]:
    """A base as text and number; left out where the base is."""
    if column.base[at] == UNKNOWN_BASE:
        return signs_of(Flag.HIDDEN), None
    return (written(number, 0), number) if isfinite(number) else ("–", None)
