"""What a chart shows, in words, for readers who cannot see it."""

import numpy as np

from grainstack.chart.writing.figures import Figures
from grainstack.language import phrase, phrases
from grainstack.summary.table import Column, SummaryTable


def alt_text(kind: str, table: SummaryTable, column: Column, title: str, figures: Figures) -> str:
    """Kind, what is shown, how many categories, and where there are figures the extremes and with them the range.

    Args:
        kind: What kind of chart it is, in English: `Stacked bar chart`.
        table: What is shown.
        column: The figure spoken of.
        title: The chart's title.
        figures: How figures are written.
    """
    totals = (table.keys >= [dimension.plain for dimension in table.dimensions]).any(axis=1)
    known = np.flatnonzero(~np.isnan(column.estimate) & ~totals)
    if not len(known):
        known = np.flatnonzero(~np.isnan(column.estimate))
    axes = [axis for axis, dimension in enumerate(table.dimensions) if dimension in table.categories]
    categories = len(set(map(tuple, table.keys[:, axes].tolist())))
    shown = phrases("{n} category", "{n} categories", categories)
    if table.series:
        shown = phrase("{categories} in {count} series", categories=shown, count=len(table.series.levels))
    start = f"{phrase(kind)}. {title or column.title}. {shown}"
    if not len(known):  # another figure of the chart has some
        return f"{start}."
    highest, lowest = (int(known[pick(column.estimate[known])]) for pick in (np.argmax, np.argmin))
    unit = f" {column.unit}" if column.unit and not figures.style.carries_unit else ""

    def said(cell: int) -> str:
        names = ", ".join(level.label for level in table.levels_of(cell))
        return f"{names} ({figures.text(cell)}{unit})"

    if highest == lowest:
        return f"{start}; {said(highest)}."
    ends = phrase("highest: {highest}, lowest: {lowest}.", highest=said(highest), lowest=said(lowest))
    return f"{start}; {ends}"
