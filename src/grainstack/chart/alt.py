"""What a chart shows, in words, for readers who cannot see it."""

import numpy as np

from grainstack.chart.numbers import NumberStyle
from grainstack.chart.wording import Words
from grainstack.summary.table import Column, SummaryTable


def alt_text(table: SummaryTable, column: Column, words: Words, write: NumberStyle) -> str:
    """Kind, what is shown, the extremes and the range."""
    known = np.flatnonzero(~np.isnan(column.estimate))
    highest, lowest = (known[pick(column.estimate[known])] for pick in (np.argmax, np.argmin))
    categories = len(np.unique(table.keys[:, : len(table.categories)], axis=0))
    title = words.title or column.title
    bars = "1 category" if categories == 1 else f"{categories} categories"
    unit = f" {column.unit}" if column.unit else ""

    def said(cell: int) -> str:
        names = ", ".join(level.label for level in table.levels_of(cell))
        return f"{names} ({write(column.estimate[cell])}{unit})"

    if highest == lowest:
        return f"Bar chart. {title}. {bars}; {said(int(highest))}."
    return f"Bar chart. {title}. {bars}; highest: {said(int(highest))}, lowest: {said(int(lowest))}."
