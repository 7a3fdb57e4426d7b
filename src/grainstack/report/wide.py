"""A crosstab for machines and workbooks: a row per category, a column per series and figure, unrounded."""

import csv
import io
from collections.abc import Sequence

from msgspec import Struct

from grainstack.language import phrase
from grainstack.report.cells import harmless, known
from grainstack.report.crossed import bases_of_columns
from grainstack.report.printing import in_reading_order, with_nets
from grainstack.summary.summary_request import Purpose
from grainstack.summary.table import UNKNOWN_BASE, Column, SummaryTable

Value = float | int | str | None


class WideCell(Struct, frozen=True):
    """A figure or a base.

    Attributes:
        value: What it is; empty text or None where there is none.
        column: The figure it is one of; None for a base.
        cell: Its cell in that figure.
    """

    value: Value
    column: Column | None = None
    cell: int = 0


class Wide(Struct, frozen=True):
    """Tables side by side.

    Attributes:
        labels: The names of the columns of labels.
        names: The names of the other columns.
        rows: The cells by the names of their columns, for the labels of each row.
        sums: The labels of rows, and the names of columns, that hold nets, totals or bases of the others.
    """

    labels: tuple[str, ...]
    names: tuple[str, ...]
    rows: dict[tuple[str, ...], dict[str, WideCell]]
    sums: frozenset[tuple[str, ...] | str] = frozenset()


def wide_of(blocks: Sequence[tuple[str, SummaryTable]]) -> Wide:
    """Tables with the same categories side by side.

    Each figure of each series has a column, a figure beside the series one for all of them, and so have bases: one
    where all series of a row share it, and a row of them below where all rows of a column do.

    Args:
        blocks: The tables, each with what tells its columns apart from those of the others.
    """
    keys: dict[tuple[str, ...], dict[str, WideCell]] = {}
    labels: list[str] = []
    sums: set[tuple[str, ...] | str] = set()
    names: dict[str, None] = {}  # block by block, whichever rows have them
    for title, table in blocks:
        labels, found = _rows(table, f"{title}: " if title else "", sums)
        names |= dict.fromkeys(name for row in found.values() for name in row)
        for key, row in found.items():
            keys.setdefault(key, {}).update(row)
    return Wide(tuple(labels), tuple(names), keys, frozenset(sums))


def as_wide_csv(blocks: Sequence[tuple[str, SummaryTable]], *, plain: bool = False) -> bytes:
    """Tables with the same categories as comma-separated UTF-8 text, side by side; see `wide_of`.

    Args:
        blocks: The tables, each with what tells its columns apart from those of the others.
        plain: Whether text stays as it is, even where a spreadsheet would take it for a formula.
    """
    wide = wide_of(blocks)
    target = io.StringIO()
    writer = csv.writer(target, lineterminator="\n")
    empty = WideCell("")
    rows: list[list[object]] = [[*wide.labels, *wide.names]]
    rows += [[*key, *(row.get(name, empty).value for name in wide.names)] for key, row in wide.rows.items()]
    writer.writerows(rows if plain else [list(map(harmless, row)) for row in rows])
    return target.getvalue().encode()


def _rows(
    table: SummaryTable, before: str, sums: set[tuple[str, ...] | str]
) -> tuple[list[str], dict[tuple[str, ...], dict[str, WideCell]]]:
    """The names of the label columns, and the figures of each row by the names of their columns.

    Args:
        table: The table.
        before: What the names of its columns begin with.
        sums: Told which rows and columns hold nets, totals or bases of the others.
    """
    series = table.series
    count = len(series.levels) if series else 1
    order = with_nets(series) if series else [0]
    outer = [dimension for dimension in table.dimensions if dimension is not series]
    several = len(table.columns) > 1
    rows: dict[tuple[str, ...], dict[str, WideCell]] = {}
    below: dict[str, WideCell] = {}
    starts = [place * count for place in in_reading_order(table, count)]
    one_below = all(
        bases_of_columns(table, column, [[start + place for place in order] for start in starts])
        for column in table.columns
        if column.figure.purpose is not Purpose.BESIDE
    )
    one_beside = {  # of the figures whose series share a base in every row
        column.figure for column in table.columns if all(_shared(column, start, order) for start in starts)
    }
    for start in starts:
        row: dict[str, WideCell] = {}
        for column in table.columns:
            if column.figure.purpose is Purpose.BESIDE:
                row[before + column.title] = WideCell(known(float(column.estimate[start])), column, start)
                continue
            cells = [start + place for place in order]
            bases = column.base[cells].tolist()
            for cell, level in zip(cells, order, strict=True):
                name = series.levels[level].label if series else ""
                parts = [part for part in (name, column.title if several or not series else "") if part]
                row[before + ", ".join(parts)] = WideCell(known(float(column.estimate[cell])), column, cell)
                if series and series.levels[level].is_sum:
                    sums.add(before + ", ".join(parts))
                base = int(column.base[cell])
                below[before + ", ".join(parts)] = WideCell("" if base == UNKNOWN_BASE else base)
            if one_below:
                continue
            shared = column.figure in one_beside
            for base, level in zip(bases[: 1 if shared else None], order, strict=False):
                name = phrase("n") if shared or not series else phrase("n {level}", level=series.levels[level].label)
                row.setdefault(before + name, WideCell("" if base == UNKNOWN_BASE else base))
        levels = table.levels_of(start)[: len(outer)]
        rows[tuple(level.label for level in levels)] = row
        if any(level.is_sum for level in levels):
            sums.add(tuple(level.label for level in levels))
    if one_below:
        key = (phrase("n"), *("" for _ in outer[1:]))
        rows[key] = below
        sums.add(key)
    return [one.variable.name for one in outer], rows


def _shared(column: Column, start: int, order: Sequence[int]) -> bool:
    """Whether all series of a row have one base."""
    return len({int(column.base[start + place]) for place in order}) == 1
