"""The program's tables against the slow computation, request by request.

`ORACLE=3000 pytest tests/oracle` (or `make oracle`) tries that many random requests; the suite tries fewer, always the
same ones.
"""

import os
import re
from collections import Counter
from math import isnan
from pathlib import Path
from random import Random
from typing import Any

import pytest

from grainstack.errors import GrainStackError
from grainstack.making.kinds import kind_named
from grainstack.making.make import make
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.records.variable import EVERYTHING, Level, LevelOrder, LevelRole
from grainstack.report.cells import cell_rows
from grainstack.requests import filled
from grainstack.summary.table import Dimension, Role, SummaryTable
from tests.oracle.asking import Asked, random_change, random_chart, random_given, random_request
from tests.oracle.slow import ALL, NETS, REST, Cell, Expected, Label, Pair, expected, paired
from tests.oracle.survey import TOWNS, Survey, given_values, random_survey

REQUESTS = int(os.environ.get("ORACLE", "240"))
START = int(os.environ.get("ORACLE_SEED", "1"))
BATCHES = 8


@pytest.mark.parametrize("batch", range(BATCHES))
def test_every_figure_base_and_note_is_that_of_the_slow_computation(tmp_path: Path, batch: int) -> None:
    tried: Counter[str] = Counter()
    for seed in range(START + batch, START + REQUESTS, BATCHES):
        random = Random(seed)  # noqa: S311 - nothing here is secret
        survey, kind, asked, as_table = random_survey(random), "table", random_request(random), None
        if random.random() < 0.3:
            kind, asked, as_table = random_chart(random)
        try:
            table = _table(tmp_path, survey, kind, asked)
        except GrainStackError as error:
            tried[f"refused: {error}"] += 1
            continue
        tried["compared"] += 1
        try:
            _compare(table, expected(survey, as_table or asked), limits=kind == "table")
        except (AssertionError, ArithmeticError) as error:
            raise AssertionError(f"seed {seed}, {kind} {asked}: {error}") from error
    if os.environ.get("ORACLE_REFUSED"):
        refused = [f"{count} {text}" for text, count in tried.most_common()]
        Path(os.environ["ORACLE_REFUSED"]).write_text("\n".join(refused), "utf-8")
    assert tried["compared"] > 0.5 * tried.total(), tried


def _table(folder: Path, survey: Survey, name: str, asked: Asked) -> SummaryTable:
    (folder / "visits.csv").write_text(survey.csv(), "utf-8")
    (folder / "codebook.toml").write_text(survey.codebook, "utf-8")
    kind = kind_named(name)
    requests = filled(kind.models, {"file": (str(folder / "visits.csv"),), **asked})
    return make(kind, requests, open_records(requests[RecordsRequest])).table


def _compare(table: SummaryTable, wanted: Expected, *, limits: bool) -> None:
    _compare_account(table, wanted)
    found = _found(table)
    assert set(found) <= set(wanted.figures), "cells"
    for key, figure in wanted.figures.items():
        if key not in found:
            series_total = not limits and key[0][-1:] == (ALL,)  # charts have no totals of their own
            assert series_total or _goes_without(table, wanted, key[0]), f"{key} is not shown"
            continue
        row = found[key]
        _same(row["estimate"], figure.estimate, f"{key} estimate")
        for name, value in (("low", figure.low), ("high", figure.high), ("standard_error", figure.error)):
            _same(row[name], value if limits else None, f"{key} {name}")
        assert row["base"] == figure.base, f"{key} base"
    _check_order(table, wanted)
    _check_sums(table, found)


def _compare_account(table: SummaryTable, wanted: Expected) -> None:
    origin, provenance, account = table.provenance.origin, table.provenance, wanted.account
    assert origin.read == account.read, "records read"
    assert origin.filtered == account.filtered, "records filtered away"
    assert provenance.used == wanted.used, "records used"
    assert provenance.weightless == account.weightless, "records without weight"
    assert sum(item.records for item in provenance.no_band) == account.no_band, "records in no band"
    for found, counts in ((provenance.unanswered, account.unanswered), (provenance.unmeasured, account.unmeasured)):
        assert [count for _, count in found] == list(counts.values()), "records without an answer"
    assert provenance.owners == wanted.owners, "rows of the file"
    parts = re.findall(r"\d+", re.sub(r"of \d+ visits", "", provenance.account().replace(",", "")))
    assert int(parts[0]) == sum(map(int, parts[1:])), provenance.account()


def _same(found: float | None, wanted: float | None, what: str) -> None:
    if wanted is None:
        return
    if isnan(wanted):
        assert found is None, what
    else:
        assert found == pytest.approx(wanted, rel=1e-7, abs=1e-9), what


@pytest.mark.parametrize("batch", range(BATCHES))
def test_given_values_are_shown_as_they_are(tmp_path: Path, batch: int) -> None:
    for seed in range(START + batch, START + REQUESTS // 8, BATCHES):
        random = Random(seed)  # noqa: S311 - nothing here is secret
        survey, asked = given_values(random), random_given(random)
        try:
            table = _table(tmp_path, survey, "table", asked)
        except GrainStackError:
            continue
        rows = [row for row in survey.rows if "only" not in asked or row["grade"] != "middling"]
        shown = {level.label for level in table.dimensions[0].levels}
        for (cell, _, _), row in _found(table).items():
            towns = [cell[0]] if cell[0] != REST else [name for name in TOWNS if name not in shown]
            mine = [float(one["value"]) for one in rows if one["town"] in towns and one["grade"] == cell[1]]
            if "stat" in asked:
                axes = {"series": [1], "all": []}.get(asked.get("base", "category"), [0])
                alike = [(one, (one["town"] in towns, one["grade"] == cell[1])) for one in rows]
                whole = [one for one, same in alike if all(same[axis] for axis in axes)]
                total = sum(float(one["value"]) for one in whole)
                mine = [sum(mine) / total] if total else []
            _same(row["estimate"], sum(mine) if mine else float("nan"), f"seed {seed}, {asked}, {cell}")
            assert row["low"] is row["standard_error"] is None
            assert row["flags"] == []
        assert f"Base: {len(rows)} given {asked['value_is']}" in table.provenance.sentences()[0]


@pytest.mark.parametrize("batch", range(BATCHES))
def test_changes_and_tests_rest_on_what_was_drawn(tmp_path: Path, batch: int) -> None:
    tried = Counter[str]()
    for seed in range(START + batch, START + REQUESTS // 2, BATCHES):
        random = Random(seed)  # noqa: S311 - nothing here is secret
        survey, asked = random_survey(random), random_change(random)
        plain = {name: value for name, value in asked.items() if name not in ("compare", "relative_to", "as_")}
        try:
            table, levels = _table(tmp_path, survey, "table", asked), _table(tmp_path, survey, "table", plain)
        except GrainStackError as error:
            tried[f"refused: {error}"] += 1
            continue
        tried["compared"] += 1
        try:
            (_compare_tests if "compare" in asked else _compare_changes)(table, levels, survey, asked, plain)
        except (AssertionError, ArithmeticError) as error:
            raise AssertionError(f"seed {seed}, {asked}: {error}") from error
    assert tried["compared"] > 0.5 * tried.total(), tried


def _compare_changes(table: SummaryTable, levels: SummaryTable, survey: Survey, asked: Asked, plain: Asked) -> None:
    order = [level.label for level in levels.dimensions[1].levels]
    for (town, *changed), row in ((cell, row) for (cell, _, _), row in _found(table).items()):
        cell = (town, *(changed or order[1:]))  # the lone level that changed goes without saying
        if cell[1] == order[0]:
            continue
        before = order[order.index(cell[1]) - 1] if asked["relative_to"] == "previous" else order[0]
        pair = paired(survey, plain, cell, (cell[0], before))
        estimate, error = _change(pair, asked["as_"], 100 if asked["stat"] == ("share",) else 1)
        _same(row["estimate"], estimate, f"{cell} change")
        _same(row["standard_error"], None if isnan(estimate) else error, f"{cell} standard error")
        if error is not None and row["standard_error"] is not None:
            _same(row["degrees_of_freedom"], pair.degrees, f"{cell} degrees of freedom")


def _change(pair: Pair, told: str, scale: float) -> tuple[float, float | None]:
    """A change as it is told, with its standard error; of shares a difference is told in points."""
    if told == "difference":
        error = pair.error * scale if pair.error is not None else None
        return scale * (pair.first - pair.second), float("nan") if error is not None and error < 1e-9 else error
    ratio = pair.first / pair.second if pair.second > 0 and pair.first >= 0 else float("nan")
    times = 1 if told == "ratio" else 100
    estimate = 100 * (ratio - 1) if told == "percent" else times * ratio
    error = None if pair.log_error is None else times * ratio * pair.log_error
    return estimate, float("nan") if error is not None and error < 1e-9 else error


def _compare_tests(table: SummaryTable, levels: SummaryTable, survey: Survey, asked: Asked, plain: Asked) -> None:  # noqa: ARG001 - as `_compare_changes`
    assert table.comparison is not None
    for one in table.comparison.differences:
        assert one.other is not None
        cells = [tuple(level.label for level in table.levels_of(cell)) for cell in (one.cell, one.other)]
        pair = paired(survey, plain, *cells)
        _same(one.estimate, pair.first - pair.second, f"{cells} difference")
        if not isnan(one.low):  # what stands in a row never disagrees, adjusted or not
            level = 1 - table.comparison.level / 100
            assert (one.adjusted < level) == (one.low > 0 or one.high < 0), f"{cells} p-value and limits"
        if "limits" in one.test:  # a share of 0 or 1 varies not at all: its test is that of the limits
            assert (one.p < 0.05 / one.tests) == (one.low > 0 or one.high < 0), f"{cells} limits"
        elif pair.error:
            _same(one.p, pair.p, f"{cells} p-value")


def _dimensions(table: SummaryTable) -> list[Dimension]:
    """The columns that were asked for."""
    return [dimension for dimension in table.dimensions if dimension.variable.name != EVERYTHING]


def _label(dimension: Dimension, level: Level) -> Label:
    """A level as the slow computation calls it: a band by its place, anything else by its label."""
    banded = dimension.variable.order is LevelOrder.BANDS and level.role is LevelRole.PLAIN
    return int(level.code.removeprefix("band ")) if banded else level.label


def _found(table: SummaryTable) -> dict[tuple[Cell, str, str | None], dict[str, Any]]:
    rows = cell_rows(table)
    found = {}
    for number, row in enumerate(rows):
        levels = table.levels_of(number % len(table.keys))
        named = zip(table.dimensions, levels, strict=True)
        cell = tuple(_label(one, level) for one, level in named if one.variable.name != EVERYTHING)
        found[cell, row["statistic"], row.get("measure")] = row
    return found


def _goes_without(table: SummaryTable, wanted: Expected, cell: Cell) -> bool:
    """Whether a cell of nested categories need not be shown: there are none such, or it is a total over outer ones."""
    axes = [axis for axis, one in enumerate(_dimensions(table)) if one.role is Role.CATEGORY]
    nested = tuple(cell[axis] for axis in axes)
    outer_total = any(label == ALL for label in nested[:-1]) and nested[-1] != ALL
    nothing = any(one.variable.name == "used" for one in table.dimensions) and any(
        one.several for one in table.dimensions
    )
    return nothing or (len(axes) > 1 and (outer_total or nested not in wanted.nested))


def _check_order(table: SummaryTable, wanted: Expected) -> None:
    """Levels that stand by size do so, and those of the records stand before No answer, the rest and the total."""
    for axis, dimension in enumerate(_dimensions(table)):
        roles = [level.role for level in dimension.levels]
        last = [LevelRole.PLAIN, LevelRole.NO_ANSWER, LevelRole.REST, LevelRole.NET, LevelRole.TOTAL]
        assert roles == sorted(roles, key=last.index), f"{dimension.variable.name}: what stands last"
        if axis not in wanted.sizes or "first" not in dimension.ordered_by:
            continue
        labels = [_label(dimension, level) for level in dimension.levels if level.role is LevelRole.PLAIN]
        sizes = [wanted.sizes[axis][label] for label in labels]
        known = [size for size in sizes if not isnan(size)]
        falling = dimension.ordered_by.startswith("largest")
        assert known == sorted(known, reverse=falling), f"{dimension.variable.name}: {dimension.ordered_by}"
        assert known == sizes[: len(known)], f"{dimension.variable.name}: without a figure comes last"


def _check_sums(table: SummaryTable, found: dict[tuple[Cell, str, str | None], dict[str, Any]]) -> None:
    """What the note says to add to 100 % does."""
    said = next((one for one in table.provenance.sentences() if "100 %" in one), "")
    if not said or "may add to more" in said:
        return
    names = [dimension.variable.in_sentence for dimension in _dimensions(table)]
    parts = re.fullmatch(r"(?:Within each (.+), each|Each) (.+) adds to 100 %\.", said)
    whole = [part for text in (parts.groups() if parts else ()) if text for part in text.split(" × ")]
    axes = [names.index(name) for name in whole]
    sums: dict[tuple[Cell, str | None], float] = {}
    for (cell, statistic, measure), row in found.items():
        inner = [label for axis, label in enumerate(cell) if axis not in axes]
        if statistic == "share" and not {ALL, *NETS} & set(inner) and row["estimate"] is not None:
            group = tuple(cell[axis] for axis in axes), measure
            sums[group] = sums.get(group, 0.0) + row["estimate"]
    for group, total in sums.items():
        assert total == pytest.approx(1), f"{said} {group}"
