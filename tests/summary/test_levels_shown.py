"""Which levels are shown, in which order, and what becomes of the rest."""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from grainstack.errors import RequestError
from grainstack.requests import Requests
from grainstack.summary.order import OrderRequest
from grainstack.summary.statistics import STATISTICS
from grainstack.summary.summary_request import Figure, Purpose, SummaryRequest
from grainstack.summary.table import REST, total_level
from tests.conftest import figures, first_labels
from tests.soak import SOAK

if TYPE_CHECKING:
    from tests.conftest import Records

PEOPLE: Mapping[str, Sequence[object]] = {
    "route": ["A"] * 5 + ["B"] * 4 + ["C"] * 3 + ["D"] * 2 + ["E"] * 2 + ["F"],
    "ticket": ["app", "app", "web", "web", "web", "app", "web", "web", "web", "app", "app", "app", "web"] + ["app"] * 4,
    "wait": [1, 2, 3, 4, 5, 50, 60, 70, 80, 7, 8, 9, 20, 30, 2, 2, 900],
}


def test_the_largest_are_kept_and_the_others_put_together(records: "Records") -> None:
    table = records.table(PEOPLE, SummaryRequest(by=("route",)), OrderRequest(keep_top=3))
    assert figures(table) == {("A",): 5, ("B",): 4, ("C",): 3, ("Other",): 5}
    assert table.dimensions[0].levels[-1].code == REST
    assert "3 smaller ones (5 records) together as Other" in table.provenance.rest


def test_shares_keep_their_full_base(records: "Records") -> None:
    shares = SummaryRequest(by=("route",), stat=("share",))
    kept = records.table(PEOPLE, shares, OrderRequest(keep_top=2, rest_label="Everything else"))
    assert sum(figures(kept).values()) == pytest.approx(1)
    assert figures(kept)["A",] == pytest.approx(5 / 17)
    dropped = records.table(PEOPLE, shares, OrderRequest(keep_top=2, drop_rest=True))
    assert figures(dropped) == {("A",): pytest.approx(5 / 17), ("B",): pytest.approx(4 / 17)}
    assert "left out but counted in every base" in dropped.provenance.rest


def test_ties_at_the_cut_are_kept_together_and_said(records: "Records") -> None:
    table = records.table(PEOPLE, SummaryRequest(by=("route",)), OrderRequest(keep_top=4))
    assert first_labels(table) == ["A", "B", "C", "D", "E", "Other"]
    assert "(5 because of a tie)" in table.provenance.rest


def test_nothing_is_put_together_where_everything_is_kept(records: "Records") -> None:
    table = records.table(PEOPLE, SummaryRequest(by=("route",)), OrderRequest(keep_top=6))
    assert first_labels(table) == list("ABCDEF")
    assert table.provenance.rest == ""


def test_the_rest_has_the_mean_of_its_records(records: "Records") -> None:
    table = records.table(PEOPLE, SummaryRequest(by=("route",), measure=("wait",)), OrderRequest(keep_top=2))
    assert first_labels(table)[-1] == "Other"
    assert first_labels(table)[0] == "F"
    total = sum(float(str(value)) for value in PEOPLE["wait"])
    kept = {"F": [900.0], "B": [50.0, 60, 70, 80]}
    others = (total - sum(map(sum, kept.values()))) / (17 - 5)
    assert figures(table)["Other",] == pytest.approx(others)


def test_a_rest_stands_before_the_total(records: "Records") -> None:
    table = records.table(PEOPLE, SummaryRequest(by=("route",), totals=True), OrderRequest(keep_top=2))
    assert table.dimensions[0].levels[-1] == total_level()
    assert figures(table)["All",] == 17


def test_several_answers_have_no_rest(records: "Records") -> None:
    several: Mapping[str, Sequence[object]] = {"x": ["a;b", "b;c", "c", "a", "d"], "n": [1, 2, 3, 4, 5]}
    asked = SummaryRequest(by=("x",), stat=("share",))
    with pytest.raises(RequestError, match="count a record several times"):
        records.table(several, asked, OrderRequest(keep_top=2), answers=("x",))


def test_ready_made_figures_have_no_rest(records: "Records") -> None:
    ready: Mapping[str, Sequence[object]] = {"k": ["a", "b", "c"], "n": [1, 2, 3]}
    with pytest.raises(RequestError, match="nobody said what those of `n` are"):
        records.table(ready, SummaryRequest(by=("k",), value="n"), OrderRequest(keep_top=1))
    dropped = records.table(ready, SummaryRequest(by=("k",), value="n"), OrderRequest(keep_top=1, drop_rest=True))
    assert figures(dropped) == {("c",): 3}


@pytest.mark.parametrize(
    ("rule", "expected"),
    [
        ("largest-first", "ABCDEF"),
        ("smallest-first", "FDECBA"),
        ("alphabetical", "ABCDEF"),
        ("largest-first: app", "CADEBF"),
        ("smallest-first: web", "CEFDAB"),
        ("D, B", "DBACEF"),
    ],
)
def test_categories_stand_by_any_rule(records: "Records", rule: str, expected: str) -> None:
    request = SummaryRequest(by=("route",), split="ticket")
    table = records.table(PEOPLE, request, OrderRequest(order=rule))
    found = "".join(first_labels(table))
    if ":" in rule:
        series = rule.partition(":")[2].strip()
        counts = {label: figures(table)[label, series] for label in found}
        wanted = sorted(counts.values(), reverse=rule.startswith("largest"))
        assert [counts[label] for label in found] == wanted
    else:
        assert found == expected


def test_shares_can_be_ordered_by_one_series(records: "Records") -> None:
    request = SummaryRequest(by=("route",), split="ticket", stat=("share",))
    table = records.table(PEOPLE, request, OrderRequest(order="largest-first: web"))
    shares = [figures(table)[label, "web"] for label in first_labels(table)]
    assert shares == sorted(shares, reverse=True)
    assert table.dimensions[0].ordered_by == "largest first by web"


def test_medians_are_ordered_by_medians(records: "Records") -> None:
    pulled: Mapping[str, Sequence[object]] = {"k": ["a"] * 3 + ["b"] * 3, "n": [1, 2, 300, 10, 11, 12]}
    request = SummaryRequest(by=("k",), measure=("n",), stat=("median",))
    table = records.table(pulled, request, OrderRequest(order="largest-first"))
    assert figures(table) == {("b",): 11, ("a",): 2}
    assert first_labels(table) == ["b", "a"]


def test_an_order_by_a_series_needs_series_and_a_name(records: "Records") -> None:
    with pytest.raises(RequestError, match="needs series"):
        records.table(PEOPLE, SummaryRequest(by=("route",)), OrderRequest(order="largest-first: app"))
    with pytest.raises(RequestError, match="has no level `post`"):
        records.table(PEOPLE, SummaryRequest(by=("route",), split="ticket"), OrderRequest(order="largest-first: post"))


def test_what_keeps_nothing_is_refused() -> None:
    with pytest.raises(RequestError, match="keep_top 0 is out of range"):
        OrderRequest(keep_top=0)
    with pytest.raises(RequestError, match="drop_rest makes no difference without keep_top"):
        Requests(OrderRequest(drop_rest=True)).check()


def test_figures_for_labels_change_nothing_else(records: "Records") -> None:
    plain = records.table(PEOPLE, SummaryRequest(by=("route",), measure=("wait",)))
    also = (Figure(STATISTICS["count"], None, purpose=Purpose.LABEL),)
    more = records.table(PEOPLE, SummaryRequest(by=("route",), measure=("wait",), also=also))
    assert figures(plain) == figures(more)
    assert len(more.shown) == 1
    label = more.column_for(Purpose.LABEL, "count")
    assert label is not None
    counts = dict(zip(first_labels(more), label.estimate.tolist(), strict=True))
    assert counts == {"A": 5, "B": 4, "C": 3, "D": 2, "E": 2, "F": 1}
    assert plain.provenance == more.provenance


def test_values_are_kept_cell_by_cell_where_they_are_wanted(records: "Records") -> None:
    table = records.table(PEOPLE, SummaryRequest(by=("route",), measure=("wait",), keep_values=True))
    place = first_labels(table).index("A")
    values, counts, _ = table.values["wait"][place]
    assert values.tolist() == [1, 2, 3, 4, 5]
    assert counts.tolist() == [1] * 5
    assert records.table(PEOPLE, SummaryRequest(by=("route",), measure=("wait",))).values == {}


@settings(max_examples=60 * SOAK, suppress_health_check=list(HealthCheck))
@given(st.lists(st.sampled_from("abcdefgh"), min_size=1, max_size=40), st.integers(1, 8), st.booleans())
def test_nothing_is_lost_in_the_rest(records: "Records", codes: list[str], keep: int, several: bool) -> None:  # noqa: FBT001
    columns: Mapping[str, Sequence[object]] = {
        "k": list(codes),
        "s": ["x" if n % 3 else "y" for n in range(len(codes))],
    }
    request = SummaryRequest(by=("k",), split="s" if several else None)
    table = records.table(columns, request, OrderRequest(keep_top=keep))
    assert sum(figures(table).values()) == len(codes)
    shares = SummaryRequest(by=("k",), stat=("share",))
    assert sum(figures(records.table(columns, shares, OrderRequest(keep_top=keep))).values()) == pytest.approx(1)
