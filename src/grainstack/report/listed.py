"""A printed table with one row per cell: each figure with its base, limits and letters in columns of their own."""

from collections.abc import Sequence

import numpy as np

from grainstack.chart.writing.figures import Figures, figures_of
from grainstack.chart.writing.numbers import written
from grainstack.language import phrase
from grainstack.report.printing import (
    PrintRequest,
    figure_and_marks,
    in_reading_order,
    limits_text,
    limits_title,
    lined_up,
    once,
    titled,
)
from grainstack.summary.table import Column, SummaryTable, base_in_words


def listed(
    table: SummaryTable, columns: Sequence[Column], request: PrintRequest
) -> tuple[list[str], list[list[str]], int, frozenset[int]]:
    """The heading, the rows, how many columns of labels they start with, and which rows hold nets or totals.

    Args:
        table: The table.
        columns: Which of its figures.
        request: How it is printed.
    """
    heading = [dimension.variable.label for dimension in table.dimensions]
    rows = [[level.label for level in table.levels_of(cell)] for cell in range(len(table.keys))]
    labels = len(heading)
    base: list[int] | None = None

    def add(title: str, cells: Sequence[str]) -> None:
        heading.append(title)
        for row, cell in zip(rows, cells, strict=True):
            row.append(cell)

    for column in columns:
        if column.figure.statistic.name not in ("count", "value") and column.base.tolist() != base:
            base = column.base.tolist()
            add(phrase("n"), [base_in_words(n) for n in base])
        figures = figures_of(column, add_up=request.add_up)
        parts = [figure_and_marks(column, cell, figures) for cell in range(len(rows))]
        add(titled(column), lined_up([number for number, _ in parts], [marks for _, marks in parts]))
        if column.letters:
            add(phrase("differs"), list(column.letters))
        if column.interval:
            limits = zip(column.low.tolist(), column.high.tolist(), strict=True)
            add(limits_title(column), [limits_text(low, high, figures) for low, high in limits])
        for title, cells in _design_figures(column, table, figures, request):
            add(title, cells)
    order = in_reading_order(table, 1)
    sums = frozenset(
        number for number, place in enumerate(order) if any(level.is_sum for level in table.levels_of(place))
    )
    return heading, once([rows[place] for place in order], labels), labels, sums


def _design_figures(
    column: Column, table: SummaryTable, figures: Figures, request: PrintRequest
) -> list[tuple[str, list[str]]]:
    """What a design does to each figure: degrees of freedom, and the rest where it is asked for."""
    sampling = table.provenance.sampling
    degrees = (phrase("df"), [written(value, 0) for value in column.degrees.tolist()])
    if not request.design_figures:
        return [degrees] if column.interval and sampling.drawn and np.isfinite(column.degrees).any() else []
    found = [
        (phrase("standard error"), [figures.number(value) for value in column.standard_error]),
        degrees,
        (phrase("effective n"), [written(value, 0) for value in column.effective_base.tolist()]),
        (phrase("design effect"), [written(value, 2) for value in column.design_effect.tolist()]),
    ]
    if sampling.weight:
        found.append((phrase("weighting effect"), [written(value, 2) for value in column.weighting_effect.tolist()]))
    return found
