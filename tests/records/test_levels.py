"""Levels: labels, recodes, missing answers, known orders, several answers, long form."""

from typing import TYPE_CHECKING

import pytest
from msgspec.structs import replace

from grainstack.errors import RecordsError, RequestError
from grainstack.records.known_orders import known_order
from grainstack.records.readers.recode import recode
from grainstack.summary.options import DesignRequest, SpreadRequest
from grainstack.summary.summary_request import SummaryRequest
from tests.conftest import figures, first_labels

if TYPE_CHECKING:
    from tests.conftest import Records

BY = SummaryRequest(by=("x",))
BOOK = """
[variables.x]
label = "Ex"
missing = [9]
[variables.x.levels]
3 = "Three"
1 = "One"
2 = "Two"
"""


def test_codes_get_their_labels_in_the_order_of_the_codebook(records: "Records") -> None:
    table = records.table({"x": ["1", "3.0", "9", "1", "7"]}, BY, codebook=BOOK)
    assert figures(table) == {("Three",): 1, ("One",): 2, ("7",): 1}
    assert table.dimensions[0].ordered_by == "codebook order"
    assert table.provenance.unanswered == (("ex", 1),)


def test_levels_without_records_are_shown_only_on_purpose(records: "Records") -> None:
    table = records.table({"x": ["1", "1"]}, BY, codebook=BOOK, keep_empty=True)
    assert figures(table) == {("Three",): 0, ("One",): 2, ("Two",): 0}


def test_missing_answers_can_be_a_level_at_the_end(records: "Records") -> None:
    table = records.table({"x": ["", "1", "9", "3"]}, BY, codebook=BOOK, missing="show")
    assert figures(table) == {("Three",): 1, ("One",): 1, ("No answer",): 2}


@pytest.mark.parametrize(
    ("found", "order"),
    [
        (["Mar", "Jan", "Feb"], ["Jan", "Feb", "Mar"]),
        (["Sunday", "monday", "Wednesday"], ["monday", "Wednesday", "Sunday"]),
        (
            ["Agree", "Strongly agree", "Disagree", "Neither agree nor disagree"],
            ["Disagree", "Neither agree nor disagree", "Agree", "Strongly agree"],
        ),
        (["no", "yes"], ["yes", "no"]),
        (["winter", "spring", "summer"], ["spring", "summer", "winter"]),
        (["65 and over", "18–34", "under 18", "35–64"], ["under 18", "18–34", "35–64", "65 and over"]),
        (["2025-02", "2024-11"], ["2024-11", "2025-02"]),
        (["Often", "Never", "Sometimes"], ["Never", "Sometimes", "Often"]),
        (["high", "middling", "low"], ["low", "middling", "high"]),
        (["large", "small", "very large", "medium"], ["small", "medium", "large", "very large"]),
        (["better", "worse", "much worse"], ["much worse", "worse", "better"]),
    ],
)
def test_words_with_a_known_order_stand_in_it(records: "Records", found: list[str], order: list[str]) -> None:
    assert first_labels(records.table({"x": found}, BY)) == order


def test_words_without_a_known_order_have_none() -> None:
    assert known_order(["Dunmar", "Osk"]) is None
    assert known_order(["Jan", "Dunmar"]) is None
    assert known_order(["May"]) is None


def test_levels_are_merged_and_renamed_by_label_or_code(records: "Records") -> None:
    table = records.table({"x": ["1", "2", "3", "3"]}, BY, codebook=BOOK, recode=("x: One, 3 -> Odd; Two -> Even",))
    assert figures(table) == {("Odd",): 3, ("Even",): 1}
    alone = records.table({"x": ["a", "b", "c"]}, BY, recode=('x: a, "b" -> z',))
    assert figures(alone) == {("z",): 2, ("c",): 1}


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("x", "names no column"),
        ("x: a", "what becomes what"),
        ("x: a -> b; a -> c", "two names"),
        ("x:", "changes nothing"),
    ],
)
def test_recodes_that_cannot_be_are_refused(text: str, message: str) -> None:
    with pytest.raises(RequestError, match=message):
        recode(text)


def test_a_recode_of_a_level_nobody_has_is_refused(records: "Records") -> None:
    with pytest.raises(RequestError) as failure:
        records.table({"x": ["Dunmar"]}, BY, recode=("x: Dunmer -> D",))
    assert "`Dunmar`" in failure.value.remedy


def test_values_in_no_band_are_counted_apart_from_missing_ones(records: "Records") -> None:
    columns = {"x": ["5", "25", "", "99", "-3", "6"], "k": ["a", "a", "a", "b", "", "b"]}
    table = records.table(columns, SummaryRequest(by=("x",), split="k"), band=("x=0,10,20,30",))
    assert first_labels(table) == ["0–9", "10–19", "20–29"]
    assert figures(table)["10–19", "a"] == 0
    [lost] = table.provenance.no_band
    assert (lost.records, lost.examples) == (1, ("99", "-3"))
    assert dict(table.provenance.unanswered) == {"x": 1, "k": 1}
    assert table.provenance.account() == (
        "6 records read = 3 used + 1 without an answer on x + 1 without an answer on k + 1 in no band of x"
        " + 0 filtered away"
    )


ANSWERS = {
    "used": ["cafe;deck", "cafe", "", "deck; deck;shop", "cafe"],
    "route": ["1", "1", "1", "2", ""],
}


def test_several_answers_are_shares_of_respondents(records: "Records") -> None:
    table = records.table(ANSWERS, SummaryRequest(by=("used",), stat=("share",)), answers=("used",))
    assert figures(table) == {("cafe",): 3 / 4, ("deck",): 2 / 4, ("shop",): 1 / 4}
    assert table.columns[0].base.tolist() == [4, 4, 4]
    assert table.provenance.used == 4
    assert "more than 100 %" in " ".join(table.provenance.sentences())


def test_several_answers_split_and_as_series(records: "Records") -> None:
    by_route = records.table(ANSWERS, SummaryRequest(by=("used",), split="route", stat=("share",)), answers=("used",))
    assert figures(by_route)["cafe", "1"] == 1
    assert figures(by_route)["deck", "1"] == 1 / 2
    assert figures(by_route)["deck", "2"] == 1
    as_series = records.table(ANSWERS, SummaryRequest(by=("route",), split="used", stat=("share",)), answers=("used",))
    assert figures(as_series)["1", "deck"] == 1 / 2
    within = records.table(
        ANSWERS, SummaryRequest(by=("used",), split="route", stat=("share",), base="category"), answers=("used",)
    )
    assert figures(within)["deck", "1"] == 1 / 2


def test_a_set_of_zero_one_columns_is_one_question(records: "Records") -> None:
    columns = {"cafe": ["1", "0", "", "1"], "deck": ["1", "no", "", ""]}
    table = records.table(columns, SummaryRequest(by=("used",), stat=("share",)), answers=("used=cafe,deck",))
    assert figures(table) == {("cafe",): 2 / 3, ("deck",): 1 / 3}
    with pytest.raises(RecordsError, match="`deck` should hold 0 or 1"):
        records.table(columns | {"deck": ["2", "0", "", ""]}, SummaryRequest(by=("used",)), answers=("used=cafe,deck",))


def test_merged_answers_count_a_respondent_once(records: "Records") -> None:
    table = records.table(
        ANSWERS, SummaryRequest(by=("used",)), answers=("used",), recode=("used: cafe, deck -> open",)
    )
    assert figures(table) == {("open",): 4, ("shop",): 1}


def test_columns_side_by_side_become_rows(records: "Records") -> None:
    wide = {"route": ["a", "b"], "2024": ["1", "2"], "2025": ["3", ""]}
    request = SummaryRequest(by=("route",), split="year", value="n")
    table = records.table(wide, request, to_long="year,n=20*")
    assert figures(table)["a", "2025"] == 3
    assert [level.label for level in table.dimensions[1].levels] == ["2024", "2025"]
    assert table.dimensions[1].ordered_by == "as listed"
    with pytest.raises(RecordsError, match="line 3, column `2025`"):
        records.table(wide | {"2025": ["3", "soon"]}, request, to_long="year,n=2024,2025")
    with pytest.raises(RequestError, match="is incomplete"):
        records.table(wide, request, to_long="year=2024")
    with pytest.raises(RequestError, match="no column `2026`"):
        records.table(wide, request, to_long="year,n=2026")


def test_filters_on_labels_leave_no_empty_levels(records: "Records") -> None:
    table = records.table({"x": ["1", "2", "3"]}, BY, codebook=BOOK, only=("x=One,Two",))
    assert first_labels(table) == ["One", "Two"]
    assert table.provenance.origin.filters == ("with ex One or Two",)


def test_decimal_commas_are_read_as_the_column_shows_or_somebody_says(records: "Records") -> None:
    columns = {"x": ["a", "a"], "n": ["1.234,5", "0,5"]}
    table = records.table(columns, SummaryRequest(by=("x",), measure=("n",), stat=("sum",)), decimal="comma")
    assert figures(table) == {("a",): 1235.0}
    asked = SummaryRequest(by=("x",), measure=("n",), stat=("sum",))
    assert figures(records.table(columns, asked)) == {("a",): 1235.0}
    doubtful = {"x": ["a", "a"], "n": ["1.234", "2.500"]}
    with pytest.raises(RecordsError, match=r"has 1\.234 thousands or decimals"):
        records.table(doubtful, asked)
    assert figures(records.table(doubtful, asked, decimal="comma")) == {("a",): 3734.0}
    assert figures(records.table(doubtful, asked, decimal="point")) == {("a",): 3.734}


def test_a_row_can_stand_for_many_records(records: "Records") -> None:
    columns = {"x": ["a", "b", "a"], "n": ["3", "1", "2"], "v": ["1", "5", "6"]}
    counts = records.table(columns, SummaryRequest(by=("x",), times="n"))
    assert figures(counts) == {("a",): 5, ("b",): 1}
    mean = SummaryRequest(by=("x",), measure=("v",), spread=SpreadRequest(error_bars="confidence"))
    means = records.table(columns, replace(mean, times="n"))
    spelled = records.table({"x": list("aaabaa"), "v": [1, 1, 1, 5, 6, 6]}, mean)
    assert figures(means) == figures(spelled)
    assert means.columns[0].low.tolist() == pytest.approx(spelled.columns[0].low.tolist(), nan_ok=True)
    with pytest.raises(RecordsError, match="must be whole"):
        records.table(columns | {"n": ["1.5", "1", "1"]}, SummaryRequest(by=("x",), times="n"))


@pytest.mark.parametrize(
    ("weight", "said"), [("-3", "line 3 of records.csv has -3"), ("", "line 3 of records.csv has no value")]
)
def test_weights_are_never_negative_or_missing(records: "Records", weight: str, said: str) -> None:
    with pytest.raises(RecordsError, match=said):
        records.table(
            {"x": ["a", "b"], "w": ["1", weight]}, SummaryRequest(by=("x",), design=DesignRequest(weight="w"))
        )


def test_ready_made_figures_are_drawn_as_they_are(records: "Records") -> None:
    columns = {"x": ["a", "b"], "v": ["2", "4"], "e": ["0.5", ""], "year": ["1", "1"]}
    table = records.table(columns, SummaryRequest(by=("x",), value="v", error_size="e"))
    column = table.columns[0]
    assert column.estimate.tolist() == [4, 2]
    assert column.low[1] == 1.5
    assert column.title == "v"
    limits = records.table(columns, SummaryRequest(by=("x",), value="v", error_low="e", error_high="year"))
    assert (limits.columns[0].low[1], limits.columns[0].high[1]) == (0.5, 1)
    with pytest.raises(RequestError, match="2 rows stand for one bar \\(year = 1\\)"):
        records.table(columns, SummaryRequest(by=("year",), value="v"))


@pytest.mark.parametrize(
    ("asked", "said"),
    [
        ({"error_size": "e"}, "error_size belongs to"),
        ({"value": "v", "error_low": "e"}, "needs its counterpart"),
        ({"value": "v", "error_low": "e", "error_size": "e"}, "say the same twice"),
        ({"value": "v", "stat": ("sum",)}, "have no part"),
    ],
)
def test_ready_made_figures_that_cannot_be_are_refused(asked: dict[str, object], said: str) -> None:
    with pytest.raises(RequestError, match=said):
        SummaryRequest(by=("x",), **asked)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("names", "order"),
    [
        (("B-", "A", "C+"), ("A", "B-", "C+")),
        (("A", "A*", "B"), ("A*", "A", "B")),
        (("merit", "fail", "distinction", "pass"), ("fail", "pass", "merit", "distinction")),
        (("fair", "very good", "good"), ("fair", "good", "very good")),
        (("F", "A", "B"), None),
    ],
)
def test_grades_have_an_order_everybody_knows(names: tuple[str, ...], order: tuple[str, ...] | None) -> None:
    places = known_order(names)
    assert (None if places is None else tuple(names[place] for place in places)) == order
