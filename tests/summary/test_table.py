"""From records to a table: figures, bases, order, and what is left out."""

from typing import TYPE_CHECKING

import numpy as np
import pytest

from grainstack.errors import RequestError
from grainstack.summary.options import DesignRequest, SpreadRequest
from grainstack.summary.order import OrderRequest
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.table import Flag
from tests.conftest import figures

if TYPE_CHECKING:
    from tests.conftest import Records

PEOPLE: dict[str, list[object]] = {
    "route": ["Osk", "Osk", "Osk", "Dun", "Dun", "Pell", "Pell", "Pell", "Pell", ""],
    "ticket": ["app", "app", "web", "app", "web", "web", "web", "web", "", "app"],
    "wait": [10, 20, "", 5, 7, 1, 2, 3, 4, 99],
}


def test_counts_stand_largest_first(records: "Records") -> None:
    table = records.table(PEOPLE, SummaryRequest(by=("route",)))
    assert figures(table) == {("Pell",): 4, ("Osk",): 3, ("Dun",): 2}
    assert [key[0] for key in figures(table)] == ["Pell", "Osk", "Dun"]
    assert table.dimensions[0].ordered_by == "largest first"
    assert table.provenance.used == 9
    assert table.provenance.unanswered == (("route", 1),)


def test_a_split_table_has_every_series_in_every_category(records: "Records") -> None:
    table = records.table(PEOPLE, SummaryRequest(by=("route",), split="ticket"))
    assert figures(table)["Pell", "app"] == 0
    assert len(table.keys) == 6
    assert table.provenance.unanswered == (("route", 1), ("ticket", 1))


@pytest.mark.parametrize(
    ("base", "share"), [("category", 2 / 3), ("series", 2 / 3), ("all", 2 / 8), (None, 2 / 3), ("panel", 2 / 8)]
)
def test_shares_are_of_the_base_asked_for(records: "Records", base: str | None, share: float) -> None:
    table = records.table(PEOPLE, SummaryRequest(by=("route",), split="ticket", stat=("share",), base=base))
    assert figures(table)["Osk", "app"] == pytest.approx(share)


def test_shares_of_a_base_add_to_one(records: "Records") -> None:
    table = records.table(PEOPLE, SummaryRequest(by=("route",), split="ticket", stat=("share",)))
    np.testing.assert_allclose(table.columns[0].estimate.reshape(3, 2).sum(axis=1), 1)
    assert table.columns[0].base.reshape(3, 2)[:, 0].tolist() == [3, 3, 2]


def test_means_leave_out_records_without_an_answer(records: "Records") -> None:
    table = records.table(PEOPLE, SummaryRequest(by=("route",), measure=("wait",)))
    assert figures(table) == {("Osk",): 15, ("Dun",): 6, ("Pell",): 2.5}
    assert (table.provenance.unanswered, table.provenance.unmeasured) == ((("route", 1),), (("wait", 1),))
    column = table.columns[0]
    assert column.base.tolist() == [2, 2, 4]
    # Student's t with 3 degrees of freedom: 2.5 ± 3.182 · 1.291 / 2
    assert column.low[2] == pytest.approx(0.4457, abs=1e-3)
    assert column.high[2] == pytest.approx(4.5543, abs=1e-3)


def test_a_lone_record_has_a_mean_but_no_interval_and_an_empty_cell_has_neither(records: "Records") -> None:
    waits: dict[str, list[object]] = {"route": ["a", "a", "b", "c"], "wait": [1, 3, 7, ""]}
    table = records.table(waits, SummaryRequest(by=("route",), measure=("wait",)))
    column = table.columns[0]
    flags = dict(zip([key[0] for key in figures(table)], column.flags.tolist(), strict=True))
    assert flags == {"b": Flag.NO_INTERVAL | Flag.SMALL_BASE, "a": Flag.SMALL_BASE, "c": 0}
    assert np.isnan(column.low[0])
    assert np.isnan(column.estimate[2])
    assert column.base[2] == 0


def test_several_statistics_of_several_measures(records: "Records") -> None:
    columns: dict[str, list[object]] = {"k": ["a", "b"], "x": [1, 2], "y": [30, 40]}
    table = records.table(columns, SummaryRequest(by=("k",), measure=("x", "y"), stat=("count", "sum", "mean")))
    assert [column.title for column in table.columns] == [
        *("Number of records", "Total x", "Total y", "Mean x", "Mean y")
    ]
    assert table.columns[2].estimate.tolist() == [30, 40]


@pytest.mark.parametrize(
    ("rule", "expected"),
    [
        ("largest-first", ["Pell", "Osk", "Dun"]),
        ("smallest-first", ["Dun", "Osk", "Pell"]),
        ("alphabetical", ["Dun", "Osk", "Pell"]),
        ("as-found", ["Osk", "Dun", "Pell"]),
        ("Dun, Pell", ["Dun", "Pell", "Osk"]),
    ],
)
def test_categories_stand_in_the_order_asked_for(records: "Records", rule: str, expected: list[str]) -> None:
    table = records.table(PEOPLE, SummaryRequest(by=("route",)), OrderRequest(order=rule))
    assert [key[0] for key in figures(table)] == expected


def test_numbers_keep_their_own_order_unless_told_otherwise(records: "Records") -> None:
    columns = {"grade": [10, 10, 9, 2, 10]}
    natural = records.table(columns, SummaryRequest(by=("grade",)))
    assert [key[0] for key in figures(natural)] == ["2", "9", "10"]
    sorted_ = records.table(columns, SummaryRequest(by=("grade",)), OrderRequest(order="largest-first"))
    assert [key[0] for key in figures(sorted_)] == ["10", "2", "9"]


def test_an_unknown_level_in_an_order_is_refused(records: "Records") -> None:
    with pytest.raises(RequestError) as failure:
        records.table(PEOPLE, SummaryRequest(by=("route",)), OrderRequest(order="Duns"))
    assert "`Dun`" in failure.value.remedy


def test_small_bases_of_shares_are_flagged(records: "Records") -> None:
    columns = {"k": ["a"] * 10 + ["b"] * 19}
    table = records.table(columns, SummaryRequest(by=("k",), stat=("share",)))
    assert [Flag(int(flag)).words() for flag in table.columns[0].flags] == [["small-base"]] * 2


@pytest.mark.parametrize(("kind", "reach"), [("standard-error", 1.0), ("standard-deviation", 2.0)])
def test_other_spreads_take_the_place_of_confidence_limits(records: "Records", kind: str, reach: float) -> None:
    columns: dict[str, list[object]] = {"k": ["a"] * 4, "x": [-1.7320508, -1.7320508, 1.7320508, 1.7320508]}
    request = SummaryRequest(by=("k",), measure=("x",), spread=SpreadRequest(error_bars=kind))
    column = records.table(columns, request).columns[0]
    assert column.high[0] == pytest.approx(reach)
    assert column.low[0] == pytest.approx(-reach)


@pytest.mark.parametrize(
    ("request_", "message"),
    [
        ({"by": ("a", "a")}, "used twice"),
        ({"by": ("a",), "split": "a"}, "used twice"),
        ({"by": ("a",), "stat": ("mean",)}, "needs a number"),
        ({"by": ("a",), "measure": ("x",), "stat": ("count",)}, "no part in a count"),
        ({"by": ("a",), "stat": ("meen",)}, "no statistic `meen`"),
        ({"by": ("a",), "base": "series"}, "needs series"),
    ],
)
def test_requests_that_cannot_be_are_refused_at_once(request_: dict[str, object], message: str) -> None:
    with pytest.raises(RequestError, match=message):
        SummaryRequest(**request_)  # type: ignore[arg-type]


def test_no_records_and_no_answers_say_so(records: "Records") -> None:
    with pytest.raises(RequestError, match="holds no records"):
        records.table({"k": []}, SummaryRequest(by=("k",)))
    with pytest.raises(RequestError, match="has an answer in `k`"):
        records.table({"k": ["", ""], "x": [1, 2]}, SummaryRequest(by=("k",)))
    weighted = SummaryRequest(by=("k",), design=DesignRequest(weight="w"))
    with pytest.raises(RequestError, match="stands for anybody: every weight is 0"):
        records.table({"k": ["a", "b"], "w": [0, 0]}, weighted)
    with pytest.raises(RequestError, match="has an answer in `k` and a weight above 0"):
        records.table({"k": ["a", ""], "w": [0, 1]}, weighted)


@pytest.mark.parametrize("asked", [{"measure": ("x", "x")}, {"measure": ("x",), "stat": ("mean", "median", "mean")}])
def test_a_figure_is_asked_for_once(asked: "dict[str, tuple[str, ...]]") -> None:
    with pytest.raises(RequestError, match="is asked for twice"):
        SummaryRequest(by=("k",), **asked)  # type: ignore[arg-type]
