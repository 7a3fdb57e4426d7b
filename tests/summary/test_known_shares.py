"""Limits of shares where a finite population or strata leave little to chance, or nothing."""

from math import sqrt
from pathlib import Path

import pytest
from scipy import stats

from grainstack.making.kinds import kind_named
from grainstack.making.make import make
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import filled
from grainstack.summary.table import SummaryTable


def table_of(folder: Path, rows: list[str], **asked: object) -> SummaryTable:
    (folder / "r.csv").write_text("\n".join(rows) + "\n", "utf-8")
    wanted = {"file": (str(folder / "r.csv"),), "stat": ("share",), "error_bars": "confidence", **asked}
    requests = filled(kind_named("table").models, wanted)
    return make(kind_named("table"), requests, open_records(requests[RecordsRequest])).table


def sample(drawn: int, of: int) -> list[str]:
    return ["a,N", *(f"{'no' if number % 14 == 0 else 'yes'},{of}" for number in range(drawn))]


def test_a_finite_population_narrows_the_limits_of_a_share(tmp_path: Path) -> None:
    table = table_of(tmp_path, sample(397, 410), by=("a",), population=("N",))
    column, share = table.columns[0], 29 / 397
    place = int(column.estimate.argmin())
    # Cochran (1977), Sampling Techniques, theorem 3.2: v(p) = (1 - f) p (1 - p) / (n - 1).
    error = sqrt((1 - 397 / 410) * share * (1 - share) / 396)
    assert column.standard_error[place] == pytest.approx(error)
    effective = share * (1 - share) / error**2  # Korn & Graubard (1998); degrees of freedom are n - 1
    low = stats.beta.ppf(0.025, share * effective, effective - share * effective + 1)
    high = stats.beta.ppf(0.975, share * effective + 1, effective - share * effective)
    assert (column.low[place], column.high[place]) == (pytest.approx(low), pytest.approx(high))
    assert column.high[place] - column.low[place] < 0.012


@pytest.mark.parametrize("stat", ["share", "mean"])
def test_of_all_there_is_no_figure_has_limits_and_the_note_says_why(tmp_path: Path, stat: str) -> None:
    rows = ["a,N,v", *(f"{'no' if number % 14 == 0 else 'yes'},410,{number % 7}" for number in range(410))]
    of_what = {"measure": ("v",)} if stat == "mean" else {}
    table = table_of(tmp_path, rows, by=("a",), population=("N",), stat=(stat,), **of_what)
    [column] = table.columns
    assert not (column.low < column.high).any()
    assert not column.flags.any()
    assert any("No limits: nothing was left to chance" in line for line in table.provenance.sentences())


def test_the_share_of_a_stratum_is_known(tmp_path: Path) -> None:
    rows = ["h,w", *(f"{stratum},{weight}" for stratum, weight in [("A", 2)] * 20 + [("B", 3)] * 30)]
    table = table_of(tmp_path, rows, by=("h",), strata="h", weight="w")
    [column] = table.columns
    assert not (column.low < column.high).any()
    assert any("No limits: nothing was left to chance" in line for line in table.provenance.sentences())


def test_shares_that_happen_to_be_alike_in_all_clusters_are_not_known(tmp_path: Path) -> None:
    rows = ["c,a", *(f"{cluster},{'yes' if record < 3 else 'no'}" for cluster in range(12) for record in range(7))]
    table = table_of(tmp_path, rows, by=("a",), cluster=("c",))
    assert (table.columns[0].low < table.columns[0].high).all()
