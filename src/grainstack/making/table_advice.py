"""Advice on a table, whatever is drawn of it."""

from typing import TYPE_CHECKING

import numpy as np

from grainstack.advice import Advice
from grainstack.chart.writing.numbers import number_style
from grainstack.language import in_words, phrase, phrases
from grainstack.later import Later
from grainstack.making.design_advice import advice_on_design
from grainstack.option_names import command, option
from grainstack.records.kinds import likely_missing
from grainstack.records.records_request import RecordsRequest
from grainstack.records.sample import count_column, number_columns, year_columns
from grainstack.records.sources.totals_row import TOTALS
from grainstack.records.variable import LevelOrder
from grainstack.requests import Requests
from grainstack.summary.summary_request import Purpose, SummaryRequest
from grainstack.summary.sums.exact import Floats, Integers
from grainstack.summary.table import Column, Role, SummaryTable

if TYPE_CHECKING:
    from collections.abc import Callable

    import pyarrow as pa

_HAS_TO_ADD_UP = Later("chart.parts_of_wholes", "has_to_add_up")  # asked of few tables
_ABOUT = 1e-6  # of all figures: what adding up in another order may make of a half
_FEW_CELLS = 3  # two groups of the same size are met by chance
_MOST_SHAPES = 3  # more lines of one advice are not read


def advice_on(table: SummaryTable, requests: Requests, head: "Callable[[], pa.RecordBatch]") -> list[Advice]:
    """What an analyst should look at before using a table.

    Args:
        table: The table.
        requests: What was asked for.
        head: Gives the first rows of the source; only called where they may hold advice.
    """
    return [
        *_already_summarised(table, requests, head),
        *_years_added_up(table, requests, head),
        *_same_people(table, requests),
        *_total_measure(table),
        *_no_answer_levels(table),
        *advice_on_design(table, requests, head, _MOST_SHAPES),
        *(advice for column in table.columns for advice in _column_advice(table, column)),
    ]


def _already_summarised(table: SummaryTable, requests: Requests, head: "Callable[[], pa.RecordBatch]") -> list[Advice]:
    count = _equal_counts(table)
    if not count:
        return []

    records, columns = head(), [dimension.variable.name for dimension in table.dimensions]
    if counts := count_column(number_columns(records, columns, 2)):
        text = phrase(
            "every bar counts {rows}: {column} seems to say how many records each row stands for. Use {times}.",
            rows=phrases("{n} row", "the same {n} rows", count),
            column=counts,
            times=option("times", counts),
        )
        return [Advice("already-summarised", text)]
    if count > 1 and len(table.keys) < _FEW_CELLS:
        return []
    least = 2 if count == 1 else None  # one row for each bar: any column of numbers may be its figure
    numbers = number_columns(records, columns, least)
    if not numbers:
        return []
    column, *others = numbers
    adding = f"{option('measure')} {column} {option('stat', 'sum')}"
    if others:
        adding = phrase("{option} (or {others})", option=adding, others=", ".join(others[:3]))
    if count == 1:
        text = phrase(
            "every bar counts 1 row: the file seems to hold figures that are summed up already. To add them up use "
            "{adding} or, if each row is one bar, {as_they_are}.",
            adding=adding,
            as_they_are=option("value", column) + (f" {option('value_is', 'sum')}" if _HAS_TO_ADD_UP(requests) else ""),
        )
    else:
        text = phrase(
            "every bar counts the same {count} rows: the file seems to hold figures that are summed up already. To add "
            "them up use {adding}.",
            count=count,
            adding=adding,
        )
    return [Advice("already-summarised", text)]


def _years_added_up(table: SummaryTable, requests: Requests, head: "Callable[[], pa.RecordBatch]") -> list[Advice]:
    """Years of a ledger that are added together because nothing tells them apart."""
    records = requests.usual(RecordsRequest)
    adds_up = any(column.figure.statistic.name == "sum" for column in table.shown)
    if not adds_up or records.where or records.to_long:
        return []

    chosen = [choice.column for choice in records.level_choices()]
    used = [dimension.variable.name for dimension in table.dimensions]
    return [
        Advice(
            "not-additive",
            phrase(
                "the years {first} to {last} of `{column}` are added up. Choose one with {only}, or tell them apart "
                "with {split}.",
                first=str(years[0]),
                last=str(years[-1]),
                column=name,
                only=option("only", f"{name}={years[-1]}"),
                split=option("split", name),
            ),
        )
        for name, years in year_columns(head(), [*used, *chosen]).items()
    ]


def _no_answer_levels(table: SummaryTable) -> list[Advice]:
    """Levels of shares that look like no answer: nobody gave them, and they count in every base."""
    if not any(column.is_share and column.measure is None for column in table.shown):
        return []
    found = []
    for dimension in table.dimensions:
        levels = [level for level in dimension.levels[: dimension.plain] if not level.is_special]
        doubtful = likely_missing(dict.fromkeys((level.code for level in levels if level.code == level.label), 1))
        names = [level.label for level in levels if level.code in doubtful]
        if names and len(names) < len(levels):
            name = dimension.variable.name
            text = phrase(
                "{levels} of `{column}` look like no answer, and count in the base. Name them `missing` in a codebook, "
                "or leave them out: {option}.",
                levels=in_words([f"`{one}`" for one in names]),
                column=name,
                option=option("except_", f"{name}={','.join(names)}"),
            )
            found.append(Advice("no-answer-level", text))
    return found


def _total_measure(table: SummaryTable) -> list[Advice]:
    """A measure that is the sum of the others in every cell: a column of totals among its parts."""
    sums = [column for column in table.shown if column.figure.statistic.name == "sum"]
    if len(sums) < _FEW_CELLS or len(sums) < len(table.shown):
        return []
    figures = np.array([np.nan_to_num(column.estimate) for column in sums])
    whole = figures.sum(axis=0)
    total = next((place for place, own in enumerate(figures) if own.any() and np.allclose(2 * own, whole)), None)
    if total is None:
        return []
    text = phrase(
        "`{column}` is the sum of the other measures in every row: a total among its parts. Leave {measure} out.",
        column=sums[total].figure.measure,
        measure=option("measure", str(sums[total].figure.measure)),
    )
    return [Advice("not-additive", text)]


def _same_people(table: SummaryTable, requests: Requests) -> list[Advice]:
    """Limits of figures that put several rows of one record together as if they were independent."""
    long, design = requests.usual(RecordsRequest).to_long, requests[SummaryRequest].design
    limited = any(column.interval for column in table.shown)
    if not long or not limited or design.cluster or design.replicates:
        return []
    name = long.partition("=")[0].partition(",")[0].strip()
    if any(dimension.variable.name == name for dimension in table.dimensions):
        return []
    return [
        Advice(
            "same-people",
            phrase(
                "each record gives several rows, and the limits take them for independent. Show them {by}, or name the "
                "column that numbers the records with {cluster}.",
                by=option("by", name),
                cluster=option("cluster"),
            ),
        )
    ]


def _equal_counts(table: SummaryTable) -> int:
    """How many records every cell has, if it is the same number in all of them; else 0."""
    column = table.columns[0]
    counts_rows = column.figure.statistic.name in ("count", "share") and column.figure.measure is None
    counted = counts_rows and not table.provenance.weighted
    counts = column.records if counted else np.zeros(0, dtype=np.int64)
    if len(counts) < 2 or not (counts == counts[0]).all():
        return 0
    return int(counts[0])


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
                phrase(
                    "{zeros} of {count} values of `{column}` ({percent} %) are 0, apart from the rest. "
                    'If 0 means "does not apply", leave it out: {where}.',
                    zeros=shape.zeros,
                    count=shape.records,
                    column=measure,
                    percent=share,
                    where=option("where", f"{measure} <> 0"),
                ),
            )
        )
    if column.figure.statistic.name == "mean" and measure:
        found += _hidden_shape(table, column, measure)
    if column.figure.statistic.additive and column.figure.statistic.name != "share":
        found += _total_among_parts(table, column) or _named_total(table)
    return found


def _hidden_shape(table: SummaryTable, column: Column, measure: str) -> list[Advice]:
    """Means that hide something: one pulled away from the median by a few values, or one between two peaks."""
    write = number_style(column.estimate.tolist())
    found: list[Advice] = []
    shown = column.figure.purpose is Purpose.SHOWN
    if not shown and not (column.figure.purpose is Purpose.SECOND and table.series is None):
        return found  # it shows figures over all series
    every = table.shapes.get(measure)
    if every is not None and every.zeros + every.commonest == every.records:
        return found  # of yes and no, the mean is a share
    spiked = every is not None and _spike(every.zeros, every.commonest, every.records)  # a heap of zeros is no peak
    for cell, shape in enumerate(table.cell_shapes.get(measure, ())):
        if shape is None or np.isnan(column.estimate[cell]):
            continue
        names = ", ".join(level.label for level in table.levels_of(cell))
        mean = float(column.estimate[cell])
        if shape.valley is not None and shape.valley[0] < mean < shape.valley[1] and not spiked:
            text = phrase(
                "the mean of {names} ({mean}) lies between two peaks near {peaks}. Look at it: {histogram}.",
                names=names,
                mean=write(mean),
                peaks=in_words([write(peak) for peak in shape.valley]),
                histogram=f"{command('distribution')} {option('form', 'histogram')}",
            )
            found.append(Advice("hidden-shape", text))
        elif shape.pulled:
            text = phrase(
                "the mean of {names} ({mean}) would be {near} without {values}; its median is {median}. "
                "Use {use_median}, or {distribution}.",
                names=names,
                mean=write(mean),
                near=write(shape.near_mean),
                values=phrases("{n} outlier", "{n} outliers", shape.far),
                median=write(shape.median),
                use_median=option("stat", "median"),
                distribution=command("distribution"),
            )
            found.append(Advice("hidden-shape", text))
    return found[:_MOST_SHAPES]


def _spike(zeros: int, commonest: int, records: int) -> bool:
    """Whether zeros stand apart: a fifth of all values, and four times as many as any other value has.

    Where there is one other value only, as in yes and no written as 1 and 0, nothing stands apart.
    """
    if zeros + commonest == records:
        return False
    return 0 < zeros >= 0.2 * records and zeros >= 4 * commonest


def _named_total(table: SummaryTable) -> list[Advice]:
    """A level that is called a total and stands among the others, as the last line of a ledger does."""
    return [
        Advice(
            "not-additive",
            phrase(
                "`{level}` of `{column}` sounds like the total of the others, and counts them again. "
                "Leave it out: {left_out}.",
                level=level.label,
                column=one.variable.name,
                left_out=option("except_", f"{one.variable.name}={level.label}"),
            ),
        )
        for one in table.dimensions
        for level in one.levels
        if not level.is_special and level.label.strip().casefold() in TOTALS and len(one.levels) > 2
    ]


def _halves(levels: Integers, estimates: Floats) -> list[int]:
    """The levels whose figures make about half of all: a level that is the total of the others is one of them."""
    sums = np.bincount(levels, estimates)
    off = np.abs(2 * sums - estimates.sum())
    return np.flatnonzero(off <= _ABOUT * np.abs(estimates).sum()).tolist()


def _total_among_parts(table: SummaryTable, column: Column) -> list[Advice]:
    """Looks for a level whose figure is the sum of all others, in every combination of the other columns."""
    parts = (table.keys < [dimension.plain for dimension in table.dimensions]).all(axis=1)
    estimates = np.where(parts, np.nan_to_num(column.estimate), 0.0)
    for axis, dimension in enumerate(table.dimensions):
        count = dimension.plain
        bands = dimension.variable.order is LevelOrder.BANDS  # of which none holds the others
        if bands or count < 4 - (dimension.role is Role.SERIES) or len(table.keys) < 3:
            continue
        others = [place for place in range(len(table.dimensions)) if place != axis]
        groups = np.zeros(len(table.keys), dtype=np.int64)
        if others:
            groups = np.unique(table.keys[:, others], axis=0, return_inverse=True)[1].reshape(-1)
        sums = np.bincount(groups, estimates)
        for place in _halves(table.keys[:, axis], estimates):
            level = dimension.levels[place]
            own = np.bincount(groups, np.where(table.keys[:, axis] == place, estimates, 0), len(sums))
            if own.any() and np.allclose(own, sums - own, rtol=1e-9, atol=0):
                left_out = option("except_", f"{dimension.variable.name}={level.label}")
                return [
                    Advice(
                        "not-additive",
                        phrase(
                            "`{level}` equals the sum of all other levels of {column}: a total among its parts. Leave "
                            "it out: {left_out}.",
                            level=level.label,
                            column=dimension.variable.label,
                            left_out=left_out,
                        ),
                    )
                ]
    return []
