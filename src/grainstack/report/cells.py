"""A table for machines: one row per cell and figure, unrounded."""

import csv
import io
import json
import math
from typing import Any

from grainstack.summary.table import Flag, SummaryTable

FIGURES = ("statistic", "estimate", "low", "high", "standard_error", "base", "flags")


def cell_rows(table: SummaryTable) -> list[dict[str, Any]]:
    """One mapping per cell and figure: the category columns under their own names, then the figure."""
    names = [dimension.variable.name for dimension in table.dimensions]
    measured = any(column.measure for column in table.columns)
    rows = []
    for column in table.columns:
        for cell in range(len(table.keys)):
            row: dict[str, Any] = dict(zip(names, (level.label for level in table.levels_of(cell)), strict=True))
            if measured:
                row["measure"] = column.measure.name if column.measure else None
            row["statistic"] = column.figure.statistic.name
            for name in ("estimate", "low", "high", "standard_error"):
                row[name] = _known(float(getattr(column, name)[cell]))
            row["base"] = int(column.base[cell])
            row["flags"] = Flag(int(column.flags[cell])).words()
            rows.append(row)
    return rows


def as_csv(table: SummaryTable) -> bytes:
    """The rows as comma-separated UTF-8 text with a header; several flags are joined by spaces."""
    rows = cell_rows(table)
    target = io.StringIO()
    writer = csv.DictWriter(target, list(rows[0]), lineterminator="\n")
    writer.writeheader()
    for row in rows:
        writer.writerow(row | {"flags": " ".join(row["flags"])})
    return target.getvalue().encode()


def as_json(table: SummaryTable) -> bytes:
    """The rows under `cells`, and under `provenance` how they were worked out."""
    origin = table.provenance.origin
    provenance = {
        "source": origin.source,
        "records_read": origin.read,
        "records_filtered": origin.filtered,
        "records_without_answer": dict(table.provenance.unanswered),
        "records_used": table.provenance.used,
        "order": {dimension.variable.name: dimension.ordered_by for dimension in table.dimensions},
        "sentences": list(table.provenance.sentences()),
    }
    content = {"provenance": provenance, "cells": cell_rows(table)}
    return (json.dumps(content, ensure_ascii=False, indent=2, allow_nan=False) + "\n").encode()


def _known(value: float) -> float | None:
    """A number as it is, a whole one without its `.0`, and nothing for NaN."""
    if math.isnan(value):
        return None
    return int(value) if value.is_integer() and abs(value) < 2**53 else value
