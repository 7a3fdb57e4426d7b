"""Answers of the same people are tested as such: by record, as if each record were a cluster of its own."""

from pathlib import Path
from random import Random
from typing import Any

import pytest
from scipy import stats

from grainstack.making.kinds import kind_named
from grainstack.making.make import make
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import filled
from grainstack.summary.table import SummaryTable
from tests.soak import SOAK


def table(folder: Path, **asked: Any) -> SummaryTable:  # noqa: ANN401
    kind = kind_named("table")
    requests = filled(kind.models, {"file": (str(folder / "p.csv"),), "compare": "pairs", **asked})
    return make(kind, requests, open_records(requests[RecordsRequest])).table


def written(folder: Path, random: Random, *, gaps: bool) -> None:
    lines = ["person,town,weight,q1,q2,q3,used,grade"]
    for person in range(random.choice([12, 40, 90])):
        mood = random.randint(0, 2)
        marks = [str(min(5, 1 + mood + random.randint(0, 2))) if random.random() > 0.1 * gaps else "" for _ in range(3)]
        used = ";".join(one for one in ("cafe", "deck", "shop") if random.random() < 0.3 + 0.2 * mood)
        row = (person, random.choice("AB"), random.choice([0.5, 1, 2]), *marks, used, random.choice("xyz"))
        lines.append(",".join(map(str, row)))
    (folder / "p.csv").write_text("\n".join(lines) + "\n", "utf-8")


LONG = {"to_long": "item,mark=q1,q2,q3", "by": ("item",)}
ASKED: dict[str, dict[str, Any]] = {
    "means of questions": {**LONG, "measure": ("mark",)},
    "shares of questions": {**LONG, "split": "mark", "stat": ("share",)},
    "questions by town": {**LONG, "by": ("town", "item"), "measure": ("mark",)},
    "several answers": {"by": ("used",), "stat": ("share",), "answers": ("used",)},
    "several answers by town": {"by": ("used",), "split": "town", "stat": ("share",), "answers": ("used",)},
    "categories of one whole": {"by": ("grade",), "stat": ("share",)},
    "categories of one series": {"by": ("grade",), "split": "town", "stat": ("share",), "base": "series"},
    "shares of all": {"by": ("grade",), "split": "town", "stat": ("share",), "base": "all"},
}


@pytest.mark.parametrize("name", list(ASKED))
@pytest.mark.parametrize("gaps", [False, True])
def test_differences_are_those_of_records_as_clusters(tmp_path: Path, name: str, gaps: bool) -> None:  # noqa: FBT001
    for seed in range(3 * SOAK):
        written(tmp_path, Random(seed), gaps=gaps)  # noqa: S311 - nothing here is secret
        by_record = table(tmp_path, weight="weight", **ASKED[name]).comparison
        by_cluster = table(tmp_path, weight="weight", cluster=("person",), **ASKED[name]).comparison
        assert by_record is not None
        assert by_cluster is not None
        for one, other in zip(by_record.differences, by_cluster.differences, strict=True):
            assert (one.cell, one.other) == (other.cell, other.other)
            assert one.p == pytest.approx(other.p, rel=1e-6)
            assert (one.low, one.high) == pytest.approx((other.low, other.high), rel=1e-6, abs=1e-9, nan_ok=True)


def test_means_of_two_questions_are_tested_by_the_differences_within_people(tmp_path: Path) -> None:
    written(tmp_path, Random(4), gaps=False)  # noqa: S311 - nothing here is secret
    found = table(tmp_path, to_long="item,mark=q1,q2", by=("item",), measure=("mark",)).comparison
    assert found is not None
    rows = [line.split(",") for line in (tmp_path / "p.csv").read_text("utf-8").splitlines()[1:]]
    first, second = ([float(row[place]) for row in rows] for place in (3, 4))
    expected = stats.ttest_rel(first, second)
    assert found.differences[0].p == pytest.approx(expected.pvalue)
    interval = expected.confidence_interval(0.95)
    assert (found.differences[0].low, found.differences[0].high) == pytest.approx((interval.low, interval.high))


@pytest.mark.parametrize("count", [14, 200])
def test_shares_of_two_questions_are_tested_by_those_who_answer_differently(tmp_path: Path, count: int) -> None:
    random = Random(count)  # noqa: S311 - nothing here is secret
    rows = [(random.random() < 0.6, random.random() < 0.4) for _ in range(count)]
    lines = ["q1,q2", *(f"{'ny'[one]},{'ny'[other]}" for one, other in rows)]
    (tmp_path / "p.csv").write_text("\n".join(lines) + "\n", "utf-8")
    found = table(tmp_path, to_long="item,mark=q1,q2", by=("item",), split="mark", stat=("share",)).comparison
    assert found is not None
    first, second = sum(one and not other for one, other in rows), sum(other and not one for one, other in rows)
    pooled = stats.chi2.sf((first - second) ** 2 / (first + second), 1)  # McNemar (1947), which it is near to
    mine = found.differences[0]
    assert stats.norm.isf(mine.p / 2) == pytest.approx(stats.norm.isf(pooled / 2), abs=0.3)
    assert (mine.p < 0.05) == (mine.low > 0 or mine.high < 0)
    assert found.differences[0].adjusted == found.differences[0].p  # yes and no are one test


def test_families_are_rows_of_the_answer_unless_the_table_is_asked_for(tmp_path: Path) -> None:
    written(tmp_path, Random(1), gaps=False)  # noqa: S311 - nothing here is secret
    asked: dict[str, Any] = {"by": ("grade",), "split": "q1", "stat": ("share",)}
    by_row, whole = table(tmp_path, **asked).comparison, table(tmp_path, **asked, family="table").comparison
    assert by_row is not None
    assert whole is not None
    smallest = min(whole.differences, key=lambda one: one.p)
    same = next(one for one in by_row.differences if (one.cell, one.other) == (smallest.cell, smallest.other))
    assert same.adjusted <= 3 * same.p * (1 + 1e-9)
    assert smallest.adjusted == pytest.approx(min(1, len(whole.differences) * smallest.p))
    assert "in each line" in by_row.words
    assert "with limits of the same steps" in whole.words
