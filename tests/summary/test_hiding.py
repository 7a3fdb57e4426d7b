"""What `--hide-small` leaves out cannot be worked out from what it shows: a linear programme tries."""

from itertools import product
from pathlib import Path
from random import Random
from typing import Any

import numpy as np
import pytest
from scipy.optimize import linprog

from grainstack.chart.marks import Text
from grainstack.errors import RequestError
from grainstack.making.kinds import kind_named
from grainstack.making.make import make
from grainstack.paint.terminal import paint
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.report.cells import cell_rows
from grainstack.requests import filled
from grainstack.summary.table import UNKNOWN_BASE, SummaryTable
from tests.soak import SOAK

TABLES = 500 * SOAK
BATCHES = 5
LABELS = {"k": "abcdef", "s": "uvwx", "p": "yz"}
Cell = tuple[str, ...]


@pytest.mark.soak
@pytest.mark.parametrize("batch", range(BATCHES))
def test_no_hidden_count_can_be_worked_out(tmp_path: Path, batch: int) -> None:
    hidden = 0
    for seed in range(batch, TABLES, BATCHES):
        random = Random(seed)  # noqa: S311 - nothing here is secret
        counts, asked = _counts(random), _asked(random)
        table = _table(tmp_path, counts, asked)
        hidden += _attacked(table, asked["min_base"], counts, f"seed {seed}, {asked}")
    assert hidden > TABLES / BATCHES, "there was something to attack"


def _counts(random: Random) -> dict[Cell, int]:
    """How many records there are of each category, series and panel: many small, some none."""
    shape = random.randint(1, 4), random.randint(1, 3), random.randint(1, 2)
    names = [label[:size] for label, size in zip(LABELS.values(), shape, strict=True)]
    sizes = random.choice([(0, 1, 2, 3, 9), (0, 3, 8, 20, 40), (1, 5, 12)])
    counts: dict[Cell, int] = {}
    for cell in product(*names):
        counts[cell] = random.choice(sizes)
    counts["a", "u", "y"] = 30
    return counts


def _asked(random: Random) -> dict[str, Any]:
    asked: dict[str, Any] = {"by": ("k",), "hide_small": True, "min_base": random.choice([3, 5, 10])}
    if random.random() < 0.7:
        asked["split"] = "s"
    if random.random() < 0.3:
        asked["panel"] = "p"
    if random.random() < 0.4:
        asked["totals"] = True
    asked["stat"] = random.choice([("count",), ("share",), ("count", "share"), ("mean",)])
    if asked["stat"] == ("mean",):
        asked["measure"] = ("v",)
    elif "share" in asked["stat"]:
        asked["base"] = random.choice(["category", "all", *(["series"] if "split" in asked else [])])
    if random.random() < 0.2:
        asked["keep_top"] = 2
    return asked


def _table(folder: Path, counts: dict[Cell, int], asked: dict[str, Any]) -> SummaryTable:
    rows = [f"{k},{s},{p},{number % 7}" for (k, s, p), count in counts.items() for number in range(count)]
    (folder / "r.csv").write_text("\n".join(["k,s,p,v", *rows]) + "\n", "utf-8")
    requests = filled(kind_named("table").models, {"file": (str(folder / "r.csv"),), **asked})
    return make(kind_named("table"), requests, open_records(requests[RecordsRequest])).table


def _attacked(table: SummaryTable, least: int, counts: dict[Cell, int], what: str) -> int:
    """Tries to work out each hidden count from every number that is given away; tells how many there were."""
    names = [dimension.variable.name for dimension in table.dimensions]
    levels = [[level.label for level in one.levels if not level.is_total] for one in table.dimensions]
    plain = [tuple(place) for place in np.ndindex(*(len(one) for one in levels))]
    cells = {tuple(levels[axis][at] for axis, at in enumerate(place)): n for n, place in enumerate(plain)}
    equations: list[tuple[list[int], float]] = [(list(cells.values()), table.provenance.used)]
    wanted: set[int] = set()
    for row in cell_rows(table):
        cell = tuple(row[name] for name in names)
        inside = [n for one, n in cells.items() if all(a in ("All", b) for a, b in zip(cell, one, strict=True))]
        count = row["base"] if row["statistic"] != "share" else None
        if row["statistic"] == "share" and row["base"] is not None and row["estimate"] is not None:
            count = row["estimate"] * row["base"]
        if count is not None:
            equations.append((inside, count))
        elif len(inside) == 1 and "All" not in cell and 0 < _count(counts, table, cell) < least:
            wanted.add(inside[0])
    equations += _bases(table, cells)
    known = {inside[0] for inside, _ in equations if len(inside) == 1}
    matrix = np.zeros((len(equations), len(cells)))
    for number, (inside, _) in enumerate(equations):
        matrix[number, inside] = 1
    sizes = [size for _, size in equations]
    for place in wanted - known:
        goal = np.zeros(len(cells))
        goal[place] = 1
        low, high = (linprog(sign * goal, A_eq=matrix, b_eq=sizes) for sign in (1, -1))
        assert low.status == high.status == 0, (what, low.message)
        assert -high.fun - low.fun > least - 1e-6, f"{what}: {list(cells)[place]} is {low.fun} to {-high.fun}"
    return len(wanted - known)


def _count(counts: dict[Cell, int], table: SummaryTable, cell: Cell) -> int:
    """How many records a cell has in truth."""
    axes = ["ksp".index(dimension.variable.name) for dimension in table.dimensions]
    kept = [level.label for level in table.dimensions[axes.index(0)].levels]
    named = {
        one: tuple("Other" if one[axis] not in kept and not axis else one[axis] for axis in axes) for one in counts
    }
    return sum(count for one, count in counts.items() if named[one] == cell)


def _bases(table: SummaryTable, cells: dict[Cell, int]) -> list[tuple[list[int], float]]:
    """What the bases of shares tell: how many records the cells of one base have together."""
    found: dict[Cell, tuple[list[int], float]] = {}
    for column in table.columns:
        if not column.is_share:
            continue
        for number, base in enumerate(column.base.tolist()):
            group = [n for n, whole in enumerate(column.whole.tolist()) if whole == column.whole[number]]
            members = [tuple(level.label for level in table.levels_of(n)) for n in group]
            inside = [cells[one] for one in members if one in cells]
            shown = {one for one in members if "All" not in one}
            if base >= 0 and inside and len(inside) == len(shown):
                found[tuple(map(str, inside))] = (inside, base)
    return list(found.values())


def test_a_figure_that_is_left_out_leaves_no_base_limit_or_letter(tmp_path: Path) -> None:
    counts: dict[Cell, int] = {("a", "u", "y"): 30, ("b", "u", "y"): 30, ("c", "u", "y"): 4, ("d", "u", "y"): 25}
    asked = {"by": ("k",), "measure": ("v",), "letters": True, "hide_small": True, "min_base": 10}
    table = _table(tmp_path, counts, asked)
    rows = {row["k"]: row for row in cell_rows(table, design_figures=True)}
    assert [name for name, row in rows.items() if row["estimate"] is None] == ["d", "c"]  # the note tells their sum
    for name in ("estimate", "low", "high", "standard_error", "base", "effective_base", "design_effect"):
        assert rows["c"][name] is rows["d"][name] is None, name
    assert not rows["c"]["letters"]
    assert rows["a"]["letters"]
    assert table.comparison is not None
    assert [(one.cell, one.other) for one in table.comparison.differences] == [(0, 1)]


def test_no_difference_tells_of_a_share_that_is_left_out(tmp_path: Path) -> None:
    """A share goes with its cell or with its base, and a difference from the rest tells the total of its series."""
    by_base = compared = 0
    for seed in range(80):
        random = Random(seed)  # noqa: S311 - nothing here is secret
        counts = _counts(random)
        asked: dict[str, Any] = {"by": ("k",), "split": "s", "stat": ("share",), "hide_small": True, "min_base": 5}
        asked["compare"] = random.choice(["pairs", "rest", "a"])
        try:
            table = _table(tmp_path, counts, asked)
        except RequestError as error:
            assert "no two figures to compare" in str(error)  # noqa: PT017 - some tables have one category
            continue
        column = table.columns[0]
        by_base += int((np.isnan(column.estimate) & (column.base == UNKNOWN_BASE)).sum())
        series = table.keys[:, -1]
        for one in table.comparison.differences if table.comparison else ():
            compared += 1
            others = np.flatnonzero(series == series[one.cell]) if one.other is None else [one.other]
            assert not np.isnan(column.estimate[[one.cell, *others]]).any(), f"seed {seed}, {asked}"
    assert by_base
    assert compared


def test_an_association_is_left_out_where_cells_are_and_the_table_says_so(tmp_path: Path) -> None:
    counts: dict[Cell, int] = {("a", "u", "y"): 30, ("a", "v", "y"): 20, ("b", "u", "y"): 25, ("b", "v", "y"): 4}
    asked = {"by": ("k",), "split": "s", "association": True, "hide_small": True}
    open_table, hiding = (_table(tmp_path, counts, {**asked, "min_base": least}) for least in (4, 5))
    assert open_table.associations
    assert not hiding.associations
    told = [text for text in hiding.provenance.sentences() if "association" in text]
    assert told == ["The test of association is left out, as it would give figures away."]


def test_a_distribution_shows_nothing_of_what_is_left_out(tmp_path: Path) -> None:
    rows = [f"a,{number}" for number in range(40)] + [f"b,{number}" for number in range(30)] + ["c,999", "c,998"]
    (tmp_path / "r.csv").write_text("\n".join(["k,v", *rows]) + "\n", "utf-8")
    kind = kind_named("distribution")
    for form in ("box", "histogram", "points"):
        asked = {"by": ("k",), "measure": ("v",), "form": form, "hide_small": True, "min_base": 5}
        requests = filled(kind.models, {"file": (str(tmp_path / "r.csv"),), **asked})
        made = make(kind, requests, open_records(requests[RecordsRequest]))
        drawn = [mark.content for mark in made.picture().marks if isinstance(mark, Text)]
        shown = " ".join([*drawn, paint(made.rows(80), colors=False)])
        assert "40" in shown
        assert "999" not in shown
        assert "1,000" not in shown


def test_one_small_cell_takes_three_others_with_it(tmp_path: Path) -> None:
    random = Random(3)  # noqa: S311 - nothing here is secret
    counts: dict[Cell, int] = {cell: random.randint(40, 90) for cell in product("abcde", "uvwx", "y")}
    counts["b", "v", "y"] = 3
    table = _table(tmp_path, counts, {"by": ("k",), "split": "s", "totals": True, "hide_small": True, "min_base": 10})
    hidden = [row for row in cell_rows(table) if row["estimate"] is None]
    assert len(hidden) == 4
    assert len({row["k"] for row in hidden}) == len({row["s"] for row in hidden}) == 2  # the corners of a rectangle
    assert ("b", "v") in {(row["k"], row["s"]) for row in hidden}
