"""Bars in data units: which slot each stands in, and from where to where it reaches."""

from dataclasses import dataclass
from math import isnan

import numpy as np

from grainstack.errors import ChartError, RequestError
from grainstack.summary.table import Column, SummaryTable

SIMPLE = "simple"


@dataclass(frozen=True, slots=True)
class Bar:
    """One bar or segment.

    Attributes:
        cell: Its place in the table.
        slot: The category it stands in, counted from the first.
        lane: Its place among neighbours in the slot, 0 when it has none.
        series: The place of its series, 0 when there are none.
        start: The value it begins at.
        end: The value it reaches.
        estimate: The figure it shows; NaN draws no bar.
        low: Lower end of its whisker, NaN without one.
        high: Upper end.
    """

    cell: int
    slot: int
    lane: int
    series: int
    start: float
    end: float
    estimate: float
    low: float
    high: float

    @property
    def whisker(self) -> bool:
        """Whether it carries a whisker."""
        return not (isnan(self.low) or isnan(self.high))


@dataclass(frozen=True, slots=True)
class BarArrangement:
    """All bars of a chart.

    Attributes:
        layout: `simple`, `grouped`, `stacked` or `percent`.
        bars: In painting order.
        slots: How many categories there are.
        lanes: How many neighbours a slot holds.
        low: The lowest value drawn, at most 0.
        high: The highest value drawn, at least 0.
    """

    layout: str
    bars: tuple[Bar, ...]
    slots: int
    lanes: int
    low: float
    high: float


def arranged_bars(table: SummaryTable, column: Column, layout: str | None) -> BarArrangement:
    """The bars of one column of a table.

    Raises:
        ChartError: Figures that do not add up are to be stacked, or there is nothing to draw.
        RequestError: A layout without series.
    """
    series = table.series
    layout = _checked_layout(layout, column, split=series is not None)
    count = len(series.levels) if series else 1
    if np.isnan(column.estimate).all():
        raise ChartError("No category has a figure to draw.", "Look at the table: grainstack table.")
    bars = _stacked(column, count) if layout in ("stacked", "percent") else _side_by_side(column, count)
    ends = [value for bar in bars for value in (bar.start, bar.end, bar.low, bar.high) if not isnan(value)]
    return BarArrangement(
        layout,
        tuple(bars),
        slots=len(table.keys) // count,
        lanes=count if layout == "grouped" else 1,
        low=min(ends, default=0.0),
        high=1.0 if layout == "percent" else max(ends, default=0.0),
    )


def _checked_layout(layout: str | None, column: Column, *, split: bool) -> str:
    statistic = column.figure.statistic
    if not split:
        if layout:
            raise RequestError(f"--layout {layout} needs series.", "Name their column with --split COLUMN.")
        return SIMPLE
    if layout is None:
        layout = {"share": "percent", "count": "stacked", "sum": "stacked"}.get(statistic.name, "grouped")
    if layout != "grouped" and not statistic.additive:
        raise ChartError(
            f"A {statistic.name} cannot be {layout}: the figures of the parts do not add up to that of the whole.",
            "Use --layout grouped.",
        )
    return layout


def _side_by_side(column: Column, count: int) -> list[Bar]:
    return [
        Bar(
            cell,
            cell // count,
            cell % count,
            cell % count,
            0.0,
            0.0 if isnan(estimate) else estimate,
            estimate,
            low,
            high,
        )
        for cell, (estimate, low, high) in enumerate(_figures(column))
    ]


def _stacked(column: Column, count: int) -> list[Bar]:
    """Segments end to end; negative ones grow the other way from zero."""
    bars = []
    above = below = 0.0
    for cell, (estimate, _, _) in enumerate(_figures(column)):
        slot, series = divmod(cell, count)
        if series == 0:
            above = below = 0.0
        size = 0.0 if isnan(estimate) else estimate
        start = above if size >= 0 else below
        end = start + size
        above, below = (end, below) if size >= 0 else (above, end)
        bars.append(Bar(cell, slot, 0, series, start, end, estimate, np.nan, np.nan))
    return bars


def _figures(column: Column) -> list[tuple[float, float, float]]:
    return list(zip(column.estimate.tolist(), column.low.tolist(), column.high.tolist(), strict=True))
