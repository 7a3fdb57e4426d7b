"""A table for people: rounded figures in aligned columns, on the terminal or in Markdown."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from grainstack.chart.writing.columns import columns_wide
from grainstack.chart.writing.figures import Figures, figures_of
from grainstack.chart.writing.numbers import written
from grainstack.chart.writing.wording import flag_notes, marks_of
from grainstack.quick import dataclass
from grainstack.records.variable import EVERYTHING
from grainstack.report.cells import category_axis
from grainstack.summary.request import Purpose
from grainstack.summary.table import UNKNOWN_BASE, Column, Dimension, Flag, SummaryTable, base_in_words

_DESIGN_FIGURES = (
    "df: degrees of freedom, clusters less strata that hold such records. Design effect: the variance beside that of "
    "as many records drawn one by one with equal chances. Effective n: n divided by it. Weighting effect: the part of "
    "it that comes of unequal weights, n Σw² / (Σw)²."
)


@dataclass(frozen=True, slots=True)
class PrintRequest:
    """How a table is printed.

    Attributes:
        limits: Whether the limits of split figures are wanted.
        design_figures: Whether standard error, effective base, design and weighting effect are wanted.
        add_up: Whether shares are rounded so that they add to 100 %.
        least: The base below which figures are flagged.
    """

    limits: bool = False
    design_figures: bool = False
    add_up: bool = False
    least: int = 30


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
    notes: tuple[str, ...] = ()


def printed(table: SummaryTable, asked: PrintRequest) -> list[Printed]:
    """The table as text: split tables side by side, unless more is wanted of each cell; then tested differences."""
    more = asked.limits or asked.design_figures
    side_by_side = table.series is not None and len(table.shown) == 1 and not more
    heading, rows, labels = _crossed(table, asked) if side_by_side else _listed(table, asked)
    if side_by_side:  # no room for limits, so no word about them
        table = replace(table, provenance=replace(table.provenance, intervals=()))
    right = tuple(place >= labels for place in range(len(heading)))
    tables = [Printed(tuple(heading), tuple(map(tuple, rows)), right, _notes(table, asked))]
    if table.trends:
        tables.append(_trends(table))
    if table.comparison is not None and table.comparison.listed:
        tables.append(_differences(table))
    return tables


def as_text(tables: Sequence[Printed]) -> str:
    """Tables with aligned columns and their notes below, for a terminal."""
    parts = []
    for content in tables:
        notes = "".join(f"\n{note}" for note in content.notes)
        parts.append(f"{aligned([content.heading, *content.rows], content.right)}\n" + (f"{notes}\n" if notes else ""))
    return "\n".join(parts)


def as_markdown(tables: Sequence[Printed]) -> bytes:
    """Tables with bars between the columns and their notes below."""
    lines: list[str] = []
    for content in tables:
        rule = [("-" * 3 + ":") if right else "-" * 3 for right in content.right]
        rows = [content.heading, rule, *content.rows]
        lines += ["| " + " | ".join(cell.replace("|", "\\|") for cell in row) + " |" for row in rows]
        lines += ["", *(f"{note}  " for note in content.notes), ""]
    return ("\n".join(lines).rstrip() + "\n").encode()


def aligned(rows: Sequence[Sequence[str]], right: Sequence[bool]) -> str:
    """Rows as lines with aligned columns and a rule under the first.

    Args:
        rows: Text of each cell; the first row is the heading.
        right: For each column, whether it is aligned to the right.
    """
    widths = [max(columns_wide(row[column]) for row in rows) for column in range(len(right))]
    lines = []
    for row in rows:
        parts = []
        for text, width, to_right in zip(row, widths, right, strict=True):
            space = " " * (width - columns_wide(text))
            parts.append(space + text if to_right else text + space)
        lines.append("  ".join(parts).rstrip())
    lines.insert(1, "  ".join("─" * width for width in widths))
    return "\n".join(lines)


def _listed(table: SummaryTable, asked: PrintRequest) -> tuple[list[str], list[list[str]], int]:
    """One row per cell; for each figure its base, estimate, limits and letters."""
    heading = [dimension.variable.label for dimension in table.dimensions]
    rows = [[level.label for level in table.levels_of(cell)] for cell in range(len(table.keys))]
    labels = len(heading)
    base: list[int] | None = None
    for column in table.columns:
        if column.figure.statistic.name not in ("count", "value") and column.base.tolist() != base:
            base = column.base.tolist()
            _add(heading, rows, "n", [base_in_words(n) for n in base])
        figures = figures_of(column, add_up=asked.add_up)
        _add(heading, rows, _titled(column), [_flagged(column, cell, figures) for cell in range(len(rows))])
        if column.letters:
            _add(heading, rows, "differs", list(column.letters))
        if column.interval:
            _add(heading, rows, "low", [figures.number(value) for value in column.low])
            _add(heading, rows, "high", [figures.number(value) for value in column.high])
        if asked.design_figures:
            _add(heading, rows, "standard error", [figures.number(value) for value in column.standard_error])
        if asked.design_figures or (column.interval and table.provenance.sampling.drawn):
            _add(heading, rows, "df", [written(value, 0) for value in column.degrees.tolist()])
        if asked.design_figures:
            _add(heading, rows, "effective n", [written(value, 0) for value in column.effective_base.tolist()])
            _add(heading, rows, "design effect", [written(value, 2) for value in column.design_effect.tolist()])
            if table.provenance.sampling.weight:
                effects = [written(value, 2) for value in column.weighting_effect.tolist()]
                _add(heading, rows, "weighting effect", effects)
    return heading, _under_their_parts(rows, table, 1), labels


def _crossed(table: SummaryTable, asked: PrintRequest) -> tuple[list[str], list[list[str]], int]:
    """One row per category, one column per series, and the bases: of each row where it is one, else of each cell."""
    series = table.series
    if series is None:
        raise ValueError("only a split table can be crossed")
    column = table.shown[0]
    figures = figures_of(column, add_up=asked.add_up)
    count = len(series.levels)
    outer = [dimension for dimension in table.dimensions if dimension is not series]
    order = _with_nets(series)
    heading = [*(dimension.variable.label for dimension in outer), *(series.levels[place].label for place in order)]
    rows = []
    starts = range(0, len(table.keys), count)
    for start in starts:
        names = [level.label for level in table.levels_of(start)][:-1]
        cells = [start + place for place in order]
        letters = [f" {column.letters[cell]}" if column.letters else "" for cell in cells]
        rows.append(names + [_flagged(column, cell, figures) + text for cell, text in zip(cells, letters, strict=True)])
    labels = len(outer)
    bases = column.base.reshape(-1, count)
    if column.figure.statistic.name == "count":
        own = bases[:, : series.plain]
        known = np.where((own == UNKNOWN_BASE).any(axis=1), UNKNOWN_BASE, own.sum(axis=1))
        _add(heading, rows, "n", [base_in_words(n) for n in known.tolist()])
    elif (bases == bases[:, :1]).all():
        _add(heading, rows, "n", [base_in_words(n) for n in bases[:, 0].tolist()])
    else:
        for place in order:
            title = f"n {series.levels[place].label}"
            _add(heading, rows, title, [base_in_words(n) for n in bases[:, place].tolist()])
    for beside in table.columns:
        if beside.figure.purpose is Purpose.BESIDE:
            written_beside = figures_of(beside)
            title = beside.figure.statistic.words.removesuffix(" of")
            _add(heading, rows, title, [_flagged(beside, start, written_beside) for start in starts])
    return heading, _under_their_parts(rows, table, count), labels


def _with_nets(dimension: Dimension) -> list[int]:
    """The places of levels with each net behind the last of its parts."""
    behind: dict[int, list[int]] = {}
    for net, parts in enumerate(dimension.nets):
        behind.setdefault(max(parts), []).append(dimension.plain + net)
    places = [place for one in range(dimension.plain) for place in (one, *behind.get(one, ()))]
    return places if dimension.total is None else [*places, dimension.total]


def _under_their_parts(rows: list[list[str]], table: SummaryTable, step: int) -> list[list[str]]:
    """Rows of a table, `step` cells each, with those of nets under the last of their parts."""
    ranks = [{place: rank for rank, place in enumerate(_with_nets(one))} for one in table.dimensions]
    keys = [tuple(rank[place] for rank, place in zip(ranks, key, strict=True)) for key in table.keys[::step].tolist()]
    return [rows[place] for place in sorted(range(len(rows)), key=keys.__getitem__)]


def _differences(table: SummaryTable) -> Printed:
    """The tested differences with their limits and p-values."""
    comparison, column = table.comparison, table.columns[0]
    if comparison is None:
        raise ValueError("nothing was compared")
    figures = figures_of(column)
    axis = category_axis(table)
    others = [place for place in range(len(table.dimensions)) if place != axis]
    heading = [*(table.dimensions[place].variable.label for place in others), table.dimensions[axis].variable.label]
    heading += ["less", "difference", "low", "high", "adjusted p"]
    rows = []
    for one in comparison.differences:
        levels = [level.label for level in table.levels_of(one.cell)]
        against = "the rest" if one.other is None else table.levels_of(one.other)[axis].label
        numbers = [figures.number(value) for value in (one.estimate, one.low, one.high)]
        p = "< 0.001" if one.adjusted < 0.001 else written(one.adjusted, 3)
        rows.append((*(levels[place] for place in others), levels[axis], against, *numbers, p))
    right = (False,) * (len(others) + 2) + (True,) * 4
    return Printed(tuple(heading), tuple(rows), right)


def _trends(table: SummaryTable) -> Printed:
    """The slope of each line of figures, with its limits and p-value."""
    figures = figures_of(table.shown[0])
    style = replace(figures.style, decimals=figures.style.decimals + 1)
    along = table.trends_along
    name = "" if along is None else along.variable.name
    others = [axis for axis, one in enumerate(table.dimensions) if one.variable.name != name]
    heading = [*(table.dimensions[axis].variable.label for axis in others), "trend per step", "low", "high", "p"]
    rows = []
    for one in table.trends:
        levels = [level.label for level in table.levels_of(one.cell)]
        numbers = [style(value) for value in (one.estimate, one.low, one.high)]
        p = "< 0.001" if one.p < 0.001 else written(one.p, 3)
        rows.append((*(levels[axis] for axis in others), *numbers, p))
    right = (False,) * len(others) + (True,) * 4
    steps = table.trends[0].steps
    said = "" if along is None else along.variable.in_sentence
    note = f"Linear trend over {steps} levels of {said}, tested by a contrast of the levels, not of their changes."
    return Printed(tuple(heading), tuple(rows), right, (note,))


def _add(heading: list[str], rows: list[list[str]], title: str, cells: Sequence[str]) -> None:
    heading.append(title)
    for row, cell in zip(rows, cells, strict=True):
        row.append(cell)


def _titled(column: Column) -> str:
    return f"{column.title} ({column.unit})" if column.unit else column.title


def _flagged(column: Column, cell: int, figures: Figures) -> str:
    flags = Flag(int(column.flags[cell]))
    return marks_of(flags) if Flag.HIDDEN in flags else (figures.text(cell) or "–") + marks_of(flags)


def _notes(table: SummaryTable, asked: PrintRequest) -> tuple[str, ...]:
    shown = [dimension for dimension in table.dimensions if dimension.variable.name != EVERYTHING]
    orders = [f"{dimension.variable.label}: {dimension.ordered_by}" for dimension in shown]
    title = f"{table.shown[0].title}." if table.series is not None and len(table.shown) == 1 else ""
    explained = _DESIGN_FIGURES if asked.design_figures else ""
    rounding = "Rounded so that shares add to 100 %." if asked.add_up else ""
    sentences = " ".join(part for part in [title, *table.provenance.sentences(), explained, rounding] if part)
    order = [f"Order – {'; '.join(orders)}."] if orders else []
    return (*flag_notes(table.columns, asked.least), sentences, *order)
