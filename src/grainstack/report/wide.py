"""A crosstab for machines: a row per category, a column per series and figure, unrounded."""

import csv
import io
from collections.abc import Sequence

from grainstack.report.cells import known
from grainstack.report.printing import in_reading_order, with_nets
from grainstack.summary.request import Purpose
from grainstack.summary.table import UNKNOWN_BASE, SummaryTable


def as_wide_csv(blocks: Sequence[tuple[str, SummaryTable]]) -> bytes:
    """Tables with the same categories as comma-separated UTF-8 text, side by side.

    Each figure of each series has a column, a figure beside the series one for all of them, and so have bases: one
    where all series of a row share it.

    Args:
        blocks: The tables, each with what tells its columns apart from those of the others.
    """
    keys: dict[tuple[str, ...], dict[str, object]] = {}
    labels: list[str] = []
    for title, table in blocks:
        labels, found = _rows(table, f"{title}: " if title else "")
        for key, row in found.items():
            keys.setdefault(key, {}).update(row)
    names = list(dict.fromkeys(name for row in keys.values() for name in row))
    target = io.StringIO()
    writer = csv.writer(target, lineterminator="\n")
    writer.writerow([*labels, *names])
    writer.writerows([*key, *(row.get(name, "") for name in names)] for key, row in keys.items())
    return target.getvalue().encode()


def _rows(table: SummaryTable, before: str) -> tuple[list[str], dict[tuple[str, ...], dict[str, object]]]:
    """The names of the label columns, and the figures of each row by the names of their columns."""
    series = table.series
    count = len(series.levels) if series else 1
    order = with_nets(series) if series else [0]
    outer = [dimension for dimension in table.dimensions if dimension is not series]
    several = len(table.columns) > 1
    rows: dict[tuple[str, ...], dict[str, object]] = {}
    for place in in_reading_order(table, count):
        start = place * count
        row: dict[str, object] = {}
        for column in table.columns:
            if column.figure.purpose is Purpose.BESIDE:
                row[before + column.title] = known(float(column.estimate[start]))
                continue
            cells = [start + place for place in order]
            bases = column.base[cells].tolist()
            for cell, level in zip(cells, order, strict=True):
                name = series.levels[level].label if series else ""
                parts = [part for part in (name, column.title if several or not series else "") if part]
                row[before + ", ".join(parts)] = known(float(column.estimate[cell]))
            shared = len(set(bases)) == 1
            for base, level in zip(bases[: 1 if shared else None], order, strict=False):
                name = "n" if shared or not series else f"n {series.levels[level].label}"
                row.setdefault(before + name, "" if base == UNKNOWN_BASE else base)
        rows[tuple(level.label for level in table.levels_of(start))[: len(outer)]] = row
    return [one.variable.name for one in outer], rows
