"""The figures beneath a chart: a row for each mark, with its base and limits, and the codes by which it is found."""

from math import isnan

from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.chart_requests import NumbersRequest
from grainstack.chart.marks import Key
from grainstack.chart.writing.figures import figures_of
from grainstack.language import phrase
from grainstack.making.make import Made
from grainstack.records.variable import EVERYTHING, Level
from grainstack.summary.options import RoundingRequest
from grainstack.summary.table import Role, SummaryTable, base_in_words

_MOST = 1_000  # rows: nobody reads further


class LevelShown(Struct, frozen=True):
    """A level that is shown.

    Attributes:
        code: As marks carry it.
        name: As it is called.
        plain: Whether it is one of the column, and no total, net or rest.
    """

    code: str
    name: str
    plain: bool


class ColumnShown(Struct, frozen=True):
    """A column that is shown.

    Attributes:
        role: `panel`, `category` or `series`.
        name: The column.
        label: As it is called.
        levels: Its levels in their order.
    """

    role: str
    name: str
    label: str
    levels: tuple[LevelShown, ...]


class FigureRow(Struct, frozen=True):
    """A row.

    Attributes:
        at: The codes of its panel, category and series, as marks carry them.
        texts: What stands in it.
    """

    at: dict[str, str]
    texts: tuple[str, ...]


class FigureRows(Struct, frozen=True):
    """All of them.

    Attributes:
        columns: The columns that are shown.
        heading: What stands over them.
        rows: The rows.
    """

    columns: tuple[ColumnShown, ...]
    heading: tuple[str, ...]
    rows: tuple[FigureRow, ...]


def figure_rows(made: Made) -> FigureRows:
    """The figures of a table or chart as they are written in it.

    Args:
        made: The table or chart.
    """
    table = made.table
    shown = [one for one in table.dimensions if one.variable.name != EVERYTHING]
    columns = tuple(
        ColumnShown(
            one.role.value,
            one.variable.name,
            one.variable.label,
            tuple(LevelShown(_code((level,)), level.label, not level.is_special) for level in one.levels),
        )
        for one in shown
    )
    heading = [one.variable.label for one in shown]
    texts: list[list[str]] = []
    request = made.requests
    add_up = request.usual(RoundingRequest).add_up
    for column in table.shown:
        figures = figures_of(column, add_up=add_up, numbers=request.usual(NumbersRequest))
        heading += [column.title, *([phrase("from"), phrase("to")] if column.interval else []), "n"]
        plain = replace(figures.style, signed=False)
        for row in range(min(len(table.keys), _MOST)):
            low, high = float(column.low[row]), float(column.high[row])
            limits = [plain(low), plain(high)] if column.interval else []
            known = not isnan(column.estimate[row])
            cell = [figures.text(row), *limits, base_in_words(int(column.base[row])) if known else ""]
            if len(texts) <= row:
                texts.append([])
            texts[row] += cell
    rows = []
    for row, cells in enumerate(texts):
        levels = table.levels_of(row)
        names = [level.label for level, one in zip(levels, table.dimensions, strict=True) if one in shown]
        rows.append(FigureRow(_at(table, row), (*names, *cells)))
    return FigureRows(columns, tuple(heading), tuple(rows))


def _at(table: SummaryTable, row: int) -> dict[str, str]:
    """The codes of a row, as marks carry them."""
    found: dict[Role, list[Level]] = {}
    for one, level in zip(table.dimensions, table.levels_of(row), strict=True):
        if one.variable.name != EVERYTHING:
            found.setdefault(one.role, []).append(level)
    return {role.value: _code(tuple(levels)) for role, levels in found.items()}


def _code(levels: tuple[Level, ...]) -> str:
    [(_, code)] = Key(category=tuple(level.key for level in levels)).parts()
    return code
