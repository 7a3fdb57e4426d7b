"""A table for people: rounded figures in aligned columns, on the terminal or in Markdown."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from grainstack.chart.cells import cells_wide
from grainstack.chart.numbers import NumberStyle, number_style
from grainstack.summary.table import Column, Flag, SummaryTable

_MARKS = {Flag.SMALL_BASE: "*", Flag.WIDE_INTERVAL: "†", Flag.NO_INTERVAL: "‡"}
_MEANINGS = {
    Flag.SMALL_BASE: "base below 30",
    Flag.WIDE_INTERVAL: "interval too wide to rely on",
    Flag.NO_INTERVAL: "fewer than 2 records, no interval",
}


@dataclass(frozen=True, slots=True)
class Printed:
    """A table as text.

    Attributes:
        heading: Title of each column.
        rows: The cells.
        right: For each column, whether it is aligned to the right.
        notes: The lines under the table.
    """

    heading: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    right: tuple[bool, ...]
    notes: tuple[str, ...]


def printed(table: SummaryTable, *, limits: bool) -> Printed:
    """The table as text: split tables side by side, unless their limits are wanted too.

    Args:
        table: The table.
        limits: Whether the limits of split figures are wanted.
    """
    side_by_side = table.series is not None and len(table.columns) == 1 and not limits
    heading, rows, labels = _crossed(table) if side_by_side else _listed(table)
    right = tuple(place >= labels for place in range(len(heading)))
    return Printed(tuple(heading), tuple(map(tuple, rows)), right, _notes(table))


def as_text(content: Printed) -> str:
    """The table with aligned columns and its notes below, for a terminal."""
    notes = "".join(f"\n{note}" for note in content.notes)
    return f"{aligned([content.heading, *content.rows], content.right)}\n{notes}\n"


def as_markdown(content: Printed) -> bytes:
    """The table with bars between the columns and its notes below."""
    rule = [("-" * 3 + ":") if right else "-" * 3 for right in content.right]
    rows = [content.heading, rule, *content.rows]
    lines = ["| " + " | ".join(cell.replace("|", "\\|") for cell in row) + " |" for row in rows]
    return ("\n".join([*lines, "", *(f"{note}  " for note in content.notes)]).rstrip() + "\n").encode()


def aligned(rows: Sequence[Sequence[str]], right: Sequence[bool]) -> str:
    """Rows as lines with aligned columns and a rule under the first.

    Args:
        rows: Text of each cell; the first row is the heading.
        right: For each column, whether it is aligned to the right.
    """
    widths = [max(cells_wide(row[column]) for row in rows) for column in range(len(right))]
    lines = []
    for row in rows:
        parts = []
        for text, width, to_right in zip(row, widths, right, strict=True):
            space = " " * (width - cells_wide(text))
            parts.append(space + text if to_right else text + space)
        lines.append("  ".join(parts).rstrip())
    lines.insert(1, "  ".join("─" * width for width in widths))
    return "\n".join(lines)


def _listed(table: SummaryTable) -> tuple[list[str], list[list[str]], int]:
    """One row per cell; for each figure its base, estimate and limits."""
    heading = [dimension.variable.label for dimension in table.dimensions]
    rows = [[level.label for level in table.levels_of(cell)] for cell in range(len(table.keys))]
    labels = len(heading)
    base: list[int] | None = None
    for column in table.columns:
        if column.figure.statistic.name != "count" and column.base.tolist() != base:
            base = column.base.tolist()
            _add(heading, rows, "n", [f"{n:,}" for n in base])
        write = number_style(column.estimate.tolist(), column.unit)
        _add(heading, rows, _titled(column), [_flagged(column, cell, write) for cell in range(len(rows))])
        if column.interval:
            _add(heading, rows, "low", [write(value) for value in column.low])
            _add(heading, rows, "high", [write(value) for value in column.high])
    return heading, rows, labels


def _crossed(table: SummaryTable) -> tuple[list[str], list[list[str]], int]:
    """One row per category, one column per series, and the bases: of each row where it is one, else of each cell."""
    series = table.series
    if series is None:
        raise ValueError("only a split table can be crossed")
    column = table.columns[0]
    write = number_style(column.estimate.tolist(), column.unit)
    count = len(series.levels)
    heading = [*(dimension.variable.label for dimension in table.categories), *(level.label for level in series.levels)]
    rows = []
    for start in range(0, len(table.keys), count):
        names = [level.label for level in table.levels_of(start)][:-1]
        rows.append(names + [_flagged(column, start + place, write) for place in range(count)])
    labels = len(table.categories)
    bases = column.base.reshape(-1, count)
    if column.figure.statistic.name == "count":
        _add(heading, rows, "n", [f"{n:,}" for n in bases.sum(axis=1)])
    elif (bases == bases[:, :1]).all():
        _add(heading, rows, "n", [f"{n:,}" for n in bases[:, 0]])
    else:
        for place, level in enumerate(series.levels):
            _add(heading, rows, f"n {level.label}", [f"{n:,}" for n in bases[:, place]])
    return heading, rows, labels


def _add(heading: list[str], rows: list[list[str]], title: str, cells: Sequence[str]) -> None:
    heading.append(title)
    for row, cell in zip(rows, cells, strict=True):
        row.append(cell)


def _titled(column: Column) -> str:
    return f"{column.title} ({column.unit})" if column.unit else column.title


def _flagged(column: Column, cell: int, write: NumberStyle) -> str:
    flags = Flag(int(column.flags[cell]))
    marks = "".join(mark for flag, mark in _MARKS.items() if flag in flags)
    return (write(float(column.estimate[cell])) or "–") + marks


def _notes(table: SummaryTable) -> tuple[str, ...]:
    present = Flag(int(np.bitwise_or.reduce([np.bitwise_or.reduce(column.flags) for column in table.columns])))
    flags = [f"{mark} {_MEANINGS[flag]}" for flag, mark in _MARKS.items() if flag in present]
    orders = [f"{dimension.variable.label}: {dimension.ordered_by}" for dimension in table.dimensions]
    title = f"{table.columns[0].title}." if table.series is not None and len(table.columns) == 1 else ""
    notes = [" ".join([title, *table.provenance.sentences()]).strip(), f"Order – {'; '.join(orders)}."]
    return (*([f"{'; '.join(flags)}."] if flags else []), *notes)
