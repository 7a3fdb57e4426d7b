"""Advice on figures and charts: one line each, with a short name by which it can be silenced."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np

from grainstack.chart.numbers import number_style
from grainstack.summary.table import ALL, Column, Role, SummaryTable

_MOST_SHAPES = 3


@dataclass(frozen=True, slots=True)
class Advice:
    """One piece of advice.

    Attributes:
        name: By which it can be silenced.
        text: What was noticed, with the figure that gave it away, and what to do.
    """

    name: str
    text: str

    def __str__(self) -> str:
        return f"Advice ({self.name}): {self.text}"


def advice_on(
    table: SummaryTable, number_columns: Sequence[str], years: Mapping[str, Sequence[str]] = MappingProxyType({})
) -> list[Advice]:
    """What an analyst should look at before using a table.

    Args:
        table: The table.
        number_columns: Columns of the records that hold numbers and have no part in the table.
        years: Columns that hold several years and have no part in it, with some of the years.
    """
    found = [
        *_already_summarised(table, number_columns),
        *_years_added_up(years),
        *(advice for column in table.columns for advice in _column_advice(table, column)),
    ]
    return list(dict.fromkeys(found))


def needs_number_columns(table: SummaryTable) -> bool:
    """Whether the columns of numbers have to be known for advice on a table: when every cell counts the same."""
    return bool(_equal_counts(table))


def _already_summarised(table: SummaryTable, number_columns: Sequence[str]) -> list[Advice]:
    count = _equal_counts(table)
    if not count or not number_columns:
        return []
    rows = "1 row" if count == 1 else f"the same {count:,} rows"
    column, *others = number_columns
    also = f" (or {', '.join(others[:3])})" if others else ""
    alternative = f" or, if each row is one bar, --value {column}" if count == 1 else ""
    return [
        Advice(
            "already-summarised",
            f"every bar counts {rows}: the file seems to hold figures that are summed up already. To add them up use "
            f"--measure {column} --stat sum{also}{alternative}.",
        )
    ]


def adds_up_measures(table: SummaryTable) -> bool:
    """Whether a table adds numbers up, so that years in a ledger might have been added together."""
    return any(column.figure.statistic.name == "sum" for column in table.shown)


def _years_added_up(years: Mapping[str, Sequence[str]]) -> list[Advice]:
    return [
        Advice(
            "not-additive",
            f"the years {found[0]} to {found[-1]} of `{name}` are added up. Choose one with --only {name}={found[-1]}, "
            f"or tell them apart with --split {name}.",
        )
        for name, found in years.items()
    ]


def _equal_counts(table: SummaryTable) -> int:
    """How many records every cell has, if it is the same number in at least three cells; else 0."""
    column = table.columns[0]
    counted = column.figure.statistic.name in ("count", "share") and not table.provenance.weighting
    counts = column.records if counted else np.zeros(0, dtype=np.int64)
    return int(counts[0]) if len(counts) > 2 and (counts == counts[0]).all() else 0


def _column_advice(table: SummaryTable, column: Column) -> list[Advice]:
    found = []
    measure = column.figure.measure
    shape = table.shapes.get(measure) if measure else None
    if (
        shape is not None
        and column.figure.statistic.name == "mean"
        and _spike(shape.zeros, shape.commonest, shape.records)
    ):
        share = number_style([1.0], share=True)(shape.zeros / shape.records)
        found.append(
            Advice(
                "many-zeros",
                f"{shape.zeros:,} of {shape.records:,} values of `{measure}` ({share} %) are 0, apart from the rest. "
                f'If 0 means "does not apply", leave it out: --where "{measure} <> 0".',
            )
        )
    if column.figure.statistic.name == "mean" and measure:
        found += _hidden_shape(table, column, measure)
    if column.figure.statistic.additive and column.figure.statistic.name != "share":
        found += _total_among_parts(table, column)
    return found


def _hidden_shape(table: SummaryTable, column: Column, measure: str) -> list[Advice]:
    """Means that hide something: one pulled away from the median by a few values, or one between two peaks."""
    write = number_style(column.estimate.tolist())
    found = []
    for cell, shape in enumerate(table.cell_shapes.get(measure, ())):
        if shape is None or np.isnan(column.estimate[cell]):
            continue
        names = ", ".join(level.label for level in table.levels_of(cell))
        mean = float(column.estimate[cell])
        if shape.valley is not None:
            peaks = " and ".join(write(peak) for peak in shape.valley)
            text = f"the mean of {names} ({write(mean)}) lies between two peaks near {peaks}"
            found.append(Advice("hidden-shape", f"{text}. Look at it: grainstack distribution --form histogram."))
        elif shape.far and abs(shape.mean - shape.near_mean) > 0.2 * shape.near_deviation:
            text = (
                f"the mean of {names} ({write(mean)}) would be {write(shape.near_mean)} without {shape.far:,} far-off "
            )
            text += f"values; its median is {write(shape.median)}. Use --stat median, or grainstack distribution."
            found.append(Advice("hidden-shape", text))
    return found[:_MOST_SHAPES]


def _spike(zeros: int, commonest: int, records: int) -> bool:
    """Whether zeros stand apart: a fifth of all values, and four times as many as any other value has."""
    return zeros >= 0.2 * records and zeros >= 4 * commonest


def _total_among_parts(table: SummaryTable, column: Column) -> list[Advice]:
    """Looks for a level whose figure is the sum of all others, in every combination of the other columns."""
    own_totals = [dimension.levels.index(ALL) if ALL in dimension.levels else -1 for dimension in table.dimensions]
    parts = (table.keys != own_totals).all(axis=1)
    estimates = np.where(parts, np.nan_to_num(column.estimate), 0.0)
    for axis, dimension in enumerate(table.dimensions):
        count = len(dimension.levels) - (ALL in dimension.levels)
        if count < 4 - (dimension.role is Role.SERIES) or len(table.keys) < 3:
            continue
        others = [place for place in range(len(table.dimensions)) if place != axis]
        groups = np.zeros(len(table.keys), dtype=np.int64)
        if others:
            groups = np.unique(table.keys[:, others], axis=0, return_inverse=True)[1].reshape(-1)
        sums = np.bincount(groups, estimates)
        for place, level in enumerate(dimension.levels):
            own = np.bincount(groups, np.where(table.keys[:, axis] == place, estimates, 0), len(sums))
            if own.any() and np.allclose(own, sums - own, rtol=1e-9, atol=0):
                return [
                    Advice(
                        "not-additive",
                        f"`{level.label}` equals the sum of all other levels of {dimension.variable.label}: a total "
                        f'among its parts. Leave it out: --except "{dimension.variable.name}={level.label}".',
                    )
                ]
    return []
