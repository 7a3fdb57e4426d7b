"""The figures of what was made, as the record of a build keeps them."""

from collections.abc import Iterator

from grainstack.chart.chart_requests import NumbersRequest
from grainstack.chart.writing.figures import figures_of
from grainstack.making.make import Made
from grainstack.plan.building.record import FigureRecord
from grainstack.summary.options import RoundingRequest
from grainstack.summary.summary_request import Purpose
from grainstack.summary.table import UNKNOWN_BASE, Column, Flag, SummaryTable


def figures_in(made: Made) -> tuple[FigureRecord, ...]:
    """The figures of a table or chart, block by block.

    Args:
        made: The table or chart.
    """
    return tuple(figure for title, table in made.tables for figure in _of_table(made, title, table))


def _of_table(made: Made, title: str, table: SummaryTable) -> Iterator[FigureRecord]:
    numbers, add_up = made.requests.usual(NumbersRequest), made.requests.usual(RoundingRequest).add_up
    above = {"": title} if title else {}
    for column in table.columns:
        figures = figures_of(column, add_up=add_up, numbers=numbers)
        beside = column.figure.purpose is Purpose.BESIDE  # stands once for all series
        for cell in range(len(table.keys)):
            if beside and table.keys[cell, -1]:
                continue
            levels = zip(table.dimensions, table.levels_of(cell), strict=True)
            named = {dimension.variable.name: level.label for dimension, level in levels}
            if beside:
                named.popitem()
            yield _figure(above | named, column, cell, figures.text(cell))


def _figure(named: dict[str, str], column: Column, cell: int, shown: str) -> FigureRecord:
    estimate, base = float(column.estimate[cell]), int(column.base[cell])
    flags = Flag(int(column.flags[cell])).words()
    return FigureRecord(
        named,
        column.title,
        estimate if abs(estimate) < float("inf") else None,
        _with_unit(shown, column.unit) if abs(estimate) < float("inf") else "",
        None if base == UNKNOWN_BASE else base,
        tuple(flags),
    )


def _with_unit(shown: str, unit: str) -> str:
    return shown if not unit or unit in shown else f"{shown} {unit}"
