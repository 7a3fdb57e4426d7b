"""A printed table with a column per series: blocks side by side where there are several splits or bases."""

import re
from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from grainstack.chart.writing.figures import Figures, figures_of
from grainstack.errors import RequestError, nearest
from grainstack.language import phrase
from grainstack.making.kinds.table import BESIDES
from grainstack.option_names import option
from grainstack.report.printing import (
    Printed,
    PrintRequest,
    figure_and_marks,
    flagged,
    in_reading_order,
    limits_text,
    lined_up,
    once,
    with_nets,
)
from grainstack.summary.summary_request import Purpose
from grainstack.summary.table import UNKNOWN_BASE, Column, SummaryTable, base_in_words
from grainstack.visible import visible

_NAME = re.compile(r"[a-z]+[a-z0-9.-]*")
_NOTHING_IN = re.compile(r"\s*\(–\)")  # brackets around nothing, such as the limits of a whole


class Block(Struct, frozen=True):
    """The columns of one split.

    Attributes:
        title: What stands over them.
        labels: The titles of the columns of labels.
        heading: The titles of its columns.
        rows: Its cells, by the labels of their row.
        sum_rows: The labels of rows that hold nets, totals, or bases of the columns.
        sum_columns: The places of columns that hold nets or totals.
    """

    title: str
    labels: tuple[str, ...]
    heading: tuple[str, ...]
    rows: dict[tuple[str, ...], tuple[str, ...]]
    sum_rows: frozenset[tuple[str, ...]] = frozenset()
    sum_columns: frozenset[int] = frozenset()


def crossed(table: SummaryTable, column: Column, request: PrintRequest, title: str = "") -> Block:
    """One row per category, one column per series, and bases: of each row or column where it is one, else of each cell.

    Args:
        table: A table; one without series has a single column.
        column: Which of its figures.
        request: How it is printed.
        title: What stands over the block.
    """
    series = table.series
    count = len(series.levels) if series else 1
    order = with_nets(series) if series else [0]
    outer = [dimension for dimension in table.dimensions if dimension is not series]
    names = [series.levels[place].label for place in order] if series else [column.title]
    starts = [count * row for row in in_reading_order(table, count)]
    keys = [tuple(level.label for level in table.levels_of(start))[: len(outer)] for start in starts]
    sums = {
        key
        for key, start in zip(keys, starts, strict=True)
        if any(level.is_sum for level in table.levels_of(start)[: len(outer)])
    }
    below = bases_of_columns(table, column, [[start + place for place in order] for start in starts])
    columns = [
        _cells(table, column, [start + place for start in starts], request, base)
        for place, base in zip(order, below or [""] * len(order), strict=True)
    ]
    heading = [*names]
    bases = [] if below else _bases(table, column, starts, order)
    for name, cells in [*bases, *_beside(table, starts)]:
        heading.append(name)
        columns.append([*cells, *([""] if below else [])])
    if below:
        keys.append((phrase("n"), *("" for _ in outer[1:])))
        sums.add(keys[-1])
    rows = dict(zip(keys, zip(*columns, strict=True), strict=True))
    labels = tuple(one.variable.label for one in outer)
    of_series = frozenset(at for at, place in enumerate(order) if series and series.levels[place].is_sum)
    return Block(title, labels, tuple(heading), rows, frozenset(sums), of_series)


def side_by_side(blocks: Sequence[Block]) -> Printed:
    """Blocks with the same categories as one table, without its notes."""
    keys = list(dict.fromkeys(key for block in blocks for key in block.rows))
    labels = list(blocks[0].labels)
    heading, rows = [*labels], [[*key] for key in keys]
    above, sum_columns = [], []
    for block in blocks:
        if block.title:
            above.append((len(heading), block.title))
        sum_columns += [len(heading) + place for place in block.sum_columns]
        heading += block.heading
        for key, row in zip(keys, rows, strict=True):
            row.extend(block.rows.get(key, ("–",) * len(block.heading)))
    sums = {key for block in blocks for key in block.sum_rows}
    return Printed(
        tuple(heading),
        tuple(map(tuple, once(rows, len(labels)))),
        right=tuple(place >= len(labels) for place in range(len(heading))),
        above=tuple(above),
        sum_rows=frozenset(number for number, key in enumerate(keys) if key in sums),
        sum_columns=frozenset(sum_columns),
    )


def bases_of_columns(table: SummaryTable, column: Column, rows: Sequence[Sequence[int]]) -> list[str]:
    """The base of each column of figures, where all rows share it and columns do not; empty otherwise.

    So it is with shares of each series: one row below tells what as many columns would.

    Args:
        table: The table.
        column: Its figures.
        rows: The cells of each row.
    """
    bases = column.base[np.array(rows)]
    alike_down, alike_across = (bases == bases[:1]).all(), (bases == bases[:, :1]).all()
    if table.series is None or column.figure.statistic.name in ("count", "value") or len(rows) < 2:
        return []
    return [base_in_words(n) for n in bases[0].tolist()] if alike_down and not alike_across else []


def _cells(table: SummaryTable, column: Column, cells: Sequence[int], request: PrintRequest, base: str) -> list[str]:
    """The texts of some cells, digits under digits, and of their base where it has a place below."""
    figures = figures_of(column, add_up=request.add_up)
    if request.in_cell:
        return [*_filled(table, cells, request), *([base] if base else [])]
    parts = [figure_and_marks(column, cell, figures) for cell in cells] + ([(base, "")] if base else [])
    letters = [column.letters[cell] if column.letters else "" for cell in cells] + ([""] if base else [])
    marks = lined_up([marks for _, marks in parts], ["" for _ in parts])
    tails = [f"{mark} {text}" if text else mark for mark, text in zip(_left(marks), letters, strict=True)]
    return lined_up([number for number, _ in parts], tails)


def _left(texts: Sequence[str]) -> list[str]:
    """Texts of one width, what they hold at their start."""
    return [text.lstrip() + " " * (len(text) - len(text.lstrip())) for text in texts]


def _filled(table: SummaryTable, cells: Sequence[int], request: PrintRequest) -> list[str]:
    """Cells that hold several figures in a pattern."""
    shown = {column.figure.statistic.name: column for column in table.shown}
    figures = {name: figures_of(column, add_up=request.add_up) for name, column in shown.items()}
    first = table.shown[0]

    def held(name: str, cell: int) -> str:
        if name in shown:
            return flagged(shown[name], cell, figures[name])
        return _besides(name, first, cell, figures[first.figure.statistic.name])

    unknown = next((name for name in _NAME.findall(request.in_cell) if name not in (*shown, *BESIDES)), None)
    if unknown:
        raise RequestError(
            f"{option('in_cell')}: there is no figure `{unknown}` here.", nearest(unknown, [*shown, *BESIDES])
        )
    texts = [_NAME.sub(lambda match, cell=cell: held(match[0], cell), visible(request.in_cell)) for cell in cells]  # type: ignore[misc]
    return [_NOTHING_IN.sub("", text) for text in texts]


def _besides(name: str, column: Column, cell: int, figures: Figures) -> str:
    if name == "base":
        return base_in_words(int(column.base[cell]))
    if name == "letters":
        return column.letters[cell] if column.letters else ""
    if name == "error":
        return figures.number(float(column.standard_error[cell])) or "–"
    return limits_text(float(column.low[cell]), float(column.high[cell]), figures) or "–"


def _bases(
    table: SummaryTable, column: Column, starts: Sequence[int], order: Sequence[int]
) -> list[tuple[str, list[str]]]:
    """The columns of bases: one where each row has one, else one for each series."""
    series = table.series
    count = len(series.levels) if series else 1
    bases = column.base.reshape(-1, count)[[start // count for start in starts]]
    if column.figure.statistic.name in ("count", "value"):
        plain = bases[:, : series.plain] if series else bases
        known = np.where((plain == UNKNOWN_BASE).any(axis=1), UNKNOWN_BASE, plain.sum(axis=1))
        return [(phrase("n"), [base_in_words(n) for n in known.tolist()])]
    if series is None or (bases == bases[:, :1]).all():
        return [(phrase("n"), [base_in_words(n) for n in bases[:, 0].tolist()])]
    return [
        (phrase("n {level}", level=series.levels[place].label), [base_in_words(n) for n in bases[:, place].tolist()])
        for place in order
    ]


def _beside(table: SummaryTable, starts: Sequence[int]) -> list[tuple[str, list[str]]]:
    """Figures of all series together."""
    found = []
    for column in table.columns:
        if column.figure.purpose is Purpose.BESIDE:
            figures = figures_of(column)
            parts = [figure_and_marks(column, start, figures) for start in starts]
            cells = lined_up([number for number, _ in parts], [marks for _, marks in parts])
            found.append((column.figure.statistic.name_in_words, cells))
    return found
