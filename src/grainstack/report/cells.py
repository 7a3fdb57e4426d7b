"""A table for machines: one row per cell and figure, unrounded."""

import csv
import io
import json
import math
import re
from collections.abc import Mapping, Sequence
from typing import Any

import pyarrow as pa

from grainstack.errors import RequestError
from grainstack.language import phrase
from grainstack.records.variable import EVERYTHING
from grainstack.summary.comparison.tested import Association
from grainstack.summary.summary_request import Purpose
from grainstack.summary.table import UNKNOWN_BASE, Column, Flag, SummaryTable

_FIGURES = (
    *("measure", "statistic", "estimate", "low", "high", "standard_error", "degrees_of_freedom", "method", "base"),
    *("effective_base", "design_effect", "weighting_effect", "letters", "flags", "change", "relative_to", "unit"),
)
_WHOLE = ("base",)
_NUMBERS = (
    *("estimate", "low", "high", "standard_error", "degrees_of_freedom"),
    *("effective_base", "design_effect", "weighting_effect", "weighted_base"),
)
_DIFFERENCES = (
    *("compared_with", "difference", "low", "high", "degrees_of_freedom", "p", "adjusted_p", "adjustment", "test"),
)


def _check_names(names: Sequence[str], taken: Sequence[str]) -> None:
    """Refuses columns whose values would be written over by figures of the same name.

    Raises:
        RequestError: Names the column.
    """
    for name in names:
        if name in taken:
            raise RequestError(
                f"The column `{name}` of the records and the `{name}` of each figure would be one column of the file.",
                "Rename it in the records, or write .md.",
            )


def cell_rows(table: SummaryTable, *, design_figures: bool = False) -> list[dict[str, Any]]:
    """One mapping per cell and figure: the category columns under their own names, then the figure.

    A figure that stands beside all series is given once for them, with no series.

    Args:
        table: The table.
        design_figures: Whether the effective base and the design effect are wanted.
    """
    names = [dimension.variable.name for dimension in table.dimensions]
    measured = any(column.measure for column in table.columns)
    rows = []
    _check_names(names, _FIGURES)
    for column in table.columns:
        beside = column.figure.purpose is Purpose.BESIDE
        for cell in range(len(table.keys)):
            if beside and table.keys[cell, -1]:
                continue
            row: dict[str, Any] = {**cell_names(table, cell), **({names[-1]: None} if beside else {})}
            if measured:
                row["measure"] = column.measure.name if column.measure else None
            rows.append(row | _figures(column, cell, design_figures=design_figures))
    return rows


def _figures(column: Column, cell: int, *, design_figures: bool) -> dict[str, Any]:
    row: dict[str, Any] = {"statistic": column.figure.statistic.name}
    if column.change is not None:
        row |= {"change": column.change.kind.value, "relative_to": column.change.since, "unit": column.unit or None}
    for name in ("estimate", "low", "high", "standard_error"):
        row[name] = known(float(getattr(column, name)[cell]))
    row["degrees_of_freedom"] = known(float(column.degrees[cell]))
    row["method"] = column.interval or None
    row["base"] = None if column.base[cell] == UNKNOWN_BASE else int(column.base[cell])
    if design_figures:
        row["effective_base"] = known(float(column.effective_base[cell]))
        row["design_effect"] = known(float(column.design_effect[cell]))
        row["weighting_effect"] = known(float(column.weighting_effect[cell]))
    if column.letters:
        row["letters"] = column.letters[cell]
    return row | {"flags": Flag(int(column.flags[cell])).words()}


def difference_rows(table: SummaryTable) -> list[dict[str, Any]]:
    """One mapping per tested difference."""
    if table.comparison is None:
        return []
    axis = compared_axis(table)
    _check_names([dimension.variable.name for dimension in table.dimensions], _DIFFERENCES)
    return [
        {
            **cell_names(table, one.cell),
            "compared_with": phrase("the rest") if one.other is None else table.levels_of(one.other)[axis].label,
            "difference": known(one.estimate),
            "low": known(one.low),
            "high": known(one.high),
            "degrees_of_freedom": known(one.degrees),
            "p": known(one.p),
            "adjusted_p": known(one.adjusted),
            "adjustment": f"Holm, limits of its steps, {one.tests:,} tests" if one.tests > 1 else None,
            "test": one.test,
        }
        for one in table.comparison.differences
    ]


def cell_names(table: SummaryTable, cell: int) -> dict[str, str]:
    """The levels of a cell by their column."""
    names = [dimension.variable.name for dimension in table.dimensions]
    return dict(zip(names, (level.label for level in table.levels_of(cell)), strict=True))


def compared_axis(table: SummaryTable) -> int:
    """The place among the dimensions of what was compared: the series, else the innermost category."""
    series = table.comparison is not None and table.comparison.of_series
    return len(table.dimensions) - 1 if series else table.dimensions.index(table.categories[-1])


def as_csv(rows: Sequence[Mapping[str, Any]], *, plain: bool = False) -> bytes:
    """Rows of figures as comma-separated UTF-8 text with a header; several flags are joined by spaces.

    Args:
        rows: As `block_rows` gives them.
        plain: Whether text stays as it is, even where a spreadsheet would take it for a formula.
    """
    target = io.StringIO()
    writer = csv.DictWriter(target, _names(rows), lineterminator="\n")
    writer.writeheader()
    for row in map(with_flags_joined, rows):
        writer.writerow(row if plain else {name: harmless(value) for name, value in row.items()})
    return target.getvalue().encode()


def arrow_table(rows: Sequence[Mapping[str, Any]], about: Mapping[str, str]) -> pa.Table:
    """Rows of figures as Arrow: texts, whole numbers and unrounded figures as such; flags are joined by spaces.

    Args:
        rows: As `block_rows` gives them.
        about: What stands in its metadata.
    """
    joined = list(map(with_flags_joined, rows))
    columns = {name: [row.get(name) for row in joined] for name in _names(rows)}
    arrays = [pa.array(values, _type_of(name, values)) for name, values in columns.items()]
    return pa.table(arrays, list(columns)).replace_schema_metadata(dict(about))


def with_flags_joined(row: Mapping[str, Any]) -> dict[str, Any]:
    """A row of figures whose flags are one text."""
    return {**row, "flags": " ".join(row["flags"])}


def _names(rows: Sequence[Mapping[str, Any]]) -> list[str]:
    return list(dict.fromkeys(name for row in rows for name in row))


def _type_of(name: str, values: Sequence[object]) -> Any:  # noqa: ANN401 - Arrow has no types
    """The Arrow type of a column: whatever a request gives, a column of one name has one type."""
    if name in _WHOLE:
        return pa.int64()
    numbers = name in _NUMBERS or any(isinstance(value, float) for value in values)
    return pa.float64() if numbers else pa.string()


def banner_cell_rows(sections: Sequence[Sequence[SummaryTable]], *, design_figures: bool) -> list[dict[str, Any]]:
    """One mapping per cell of a banner table: the question and its answer, the column and its level, then the figure.

    Args:
        sections: Question by question, the tables of all columns of the banner.
        design_figures: As for `cell_rows`.
    """
    found: list[dict[str, Any]] = []
    for number, table in ((number, table) for tables in sections for number, table in enumerate(tables)):
        category, series, column = table.categories[0], table.series, table.shown[0]
        of_number = category.variable.name == EVERYTHING
        for cell, (answer, group) in enumerate(table.keys.tolist()):
            if series is None or (number and group == series.total):  # all records are given once
                continue
            total = group == series.total
            found.append(
                {
                    "question": column.measure.name if of_number and column.measure else category.variable.name,
                    "answer": None if of_number else category.levels[answer].label,
                    "banner": None if total else series.variable.name,
                    "group": series.levels[group].label,
                    **_figures(column, cell, design_figures=design_figures),
                    "weighted_base": known(float(column.weighted_base[cell])),
                }
            )
    return found


def block_rows(
    blocks: Sequence[tuple[str, SummaryTable]],
    *,
    design_figures: bool,
    banner: Sequence[Sequence[SummaryTable]] = (),
) -> list[dict[str, Any]]:
    """The rows of tables side by side, one table after the other; `block` tells them apart where there are several."""
    if banner:
        return banner_cell_rows(banner, design_figures=design_figures)
    found = []
    for title, table in blocks:
        named = {"block": title} if len(blocks) > 1 else {}
        found += [named | row for row in cell_rows(table, design_figures=design_figures)]
    return found


def as_json(table: SummaryTable, rows: Sequence[Mapping[str, Any]], *, of_banner: bool = False) -> bytes:
    """The rows under `cells`, tested differences and association, and under `provenance` how all was worked out.

    Args:
        table: The table.
        rows: Its figures and those beside it, as `block_rows` gives them.
        of_banner: Whether it is the first of a banner table, whose differences are no more than its letters.
    """
    origin = table.provenance.origin
    provenance = {
        "source": origin.source,
        "records_read": origin.read,
        "records_filtered": origin.filtered,
        "records_without_answer": dict((*table.provenance.unanswered, *table.provenance.unmeasured)),
        "records_in_no_band": {item.label: item.records for item in table.provenance.no_band},
        "records_with_weight_0": table.provenance.weightless,
        "records_used": table.provenance.used,
        "order": {dimension.variable.name: dimension.ordered_by for dimension in table.dimensions},
        "sentence": table.provenance.sentence(),
    }
    content: dict[str, Any] = {"provenance": provenance, "cells": list(rows)}
    if table.comparison is not None and not of_banner:
        content["differences"] = difference_rows(table)
    if table.trends:
        names = ("estimate", "low", "high", "p", "steps")
        content["trends"] = [
            {
                **cell_names(table, one.cell),
                **{name: known(float(getattr(one, name))) for name in names},
                "unit": one.unit,
            }
            for one in table.trends
        ]
    if len(table.associations) == 1:
        content["association"] = _association(table.associations[0])
    elif table.associations:
        content["associations"] = [_association(one) for one in table.associations]
    return (json.dumps(content, ensure_ascii=False, indent=2, allow_nan=False) + "\n").encode()


def _association(found: Association) -> dict[str, object]:
    """A test of independence, with the panel or answer it is of where it is of one."""
    of_what = {name: text for name, text in (("panel", found.panel), ("answer", found.answer)) if text}
    return {
        **of_what,
        "statistic": found.statistic,
        "degrees_of_freedom": list(found.degrees),
        "p": found.p,
        "cramers_v": known(found.strength),
        "least_expected_count": known(found.least_expected),
        "words": found.words,
    }


def known(value: float) -> float | int | None:
    """A number as it is, a whole one without its `.0`, and nothing for NaN."""
    if math.isnan(value):
        return None
    return int(value) if value.is_integer() and abs(value) < 2**53 else value


_BEGINNINGS = "=+-@\t\r"  # what a spreadsheet takes for the start of a formula
_NUMBER = re.compile(r"[-+]?(\d+([.,]\d*)?|[.,]\d+)([eE][-+]?\d+)?")


def is_formula(text: str) -> bool:
    """Whether a spreadsheet would run a text; a number with its sign is none.

    Args:
        text: The text.
    """
    return text[:1] in _BEGINNINGS and text != "" and not _NUMBER.fullmatch(text)


def harmless(value: object) -> object:
    """A value as a spreadsheet shows it and does not run it: text with an apostrophe before it, if need be.

    Args:
        value: What a cell holds.
    """
    return f"'{value}" if isinstance(value, str) and is_formula(value) else value
