"""Codebooks: read, checked against themselves and the records, drafted, and written in both forms."""

import tomllib
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from grainstack.errors import RecordsError, RequestError
from grainstack.records.codebook.check import check_codebook, elsewhere
from grainstack.records.codebook.codebook import Codebook, CodebookVariable
from grainstack.records.codebook.draft import Finding, as_toml, drafted
from grainstack.records.codebook.file import codebook_from_toml, key_lines, read_codebook
from grainstack.records.codebook.table_schema import codebook_from_schema, schema_from_codebook
from grainstack.records.variable import Kind, Level

TEXT = """
[records]
noun = "passengers"

[design]
weight = "w"

[variables.route]
label = "Route"
[variables.route.levels]
2 = "Osk"
1 = { label = "Pell", color = "#0b6" }

[variables.age]
kind = "number"
unit = "years"
missing = [999, "n/a"]
range = [0, 120]
bands = ["under", 18, 65, "over"]
"""


def test_a_codebook_says_labels_in_order_units_and_missing_codes() -> None:
    book = codebook_from_toml(TEXT, "codebook.toml")
    assert book.variable("route").levels == (Level("2", "Osk"), Level("1", "Pell", "#00bb66"))
    age = book.variable("age")
    assert (age.kind, age.unit, age.low, age.high, age.bands) == (Kind.NUMBER, "years", 0, 120, "under,18,65,over")
    assert [age.is_missing(code) for code in ("999", "999.0", "n/a", "99")] == [True, True, True, False]
    assert book.noun("any.csv") == "passengers"
    assert book.design.weight == "w"
    assert book.variable("unsaid").label == ""


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("[variables.a]\nlabel = 3\n", "line 2: `label` must be text, not a number"),
        ('[variables.a]\n\nkind = "numbr"\n', "line 3: there is no kind `numbr`"),
        ('[variables.a]\nlabl = "x"\n', "line 2: there is no key `labl`"),
        ("[variabls.a]\n", "line 1: there is no key `variabls`"),
        ('[variables.a.levels]\n1 = "x"\n2 = "x"\n', "line 3: levels `1` and `2` of `a` have one label, 'x'"),
        ("[variables.a]\nbands = [0, 20, 10]\n", "line 2: The edges of `a` overlap"),
        ("[variables.a]\nbands = true\n", "line 2: `bands` of `a` must be"),
        ("[variables.a]\nrange = [3, 1]\n", "line 2: `range` runs backwards"),
        ("[variables.a]\nrange = 3\n", "line 2: `range` must be two numbers"),
        ("[variables.a]\nmissing = [true]\n", "line 2: `missing` must be a list"),
        ('[variables.a.levels]\n1 = { label = "x", color = "green" }\n', "line 2: `green` is no colour"),
        ("[variables.a.levels]\n1 = 5\n", "line 2: the label of level `1`"),
        ("variables = 3\n", "line 1: `variables` must be a table"),
        ('[records]\ndecimal = ";"\n', "line 2: `decimal` must be"),
        ("[design]\nreplicate_scale = -1\n", "line 2: `replicate_scale`"),
        ("[variables.a\n", "is no TOML: .* line 1"),
    ],
)
def test_what_cannot_be_is_refused_with_its_line(text: str, message: str) -> None:
    with pytest.raises(RecordsError, match=message):
        codebook_from_toml(text, "codebook.toml")


def test_lines_are_found_by_path_quotes_or_not() -> None:
    lines = key_lines('a = 1\n["x y"]\n"k.k" = 2\n[b.c]\nd.e = 3\n')
    assert lines == {("a",): 1, ("x y",): 2, ("x y", "k.k"): 3, ("b", "c"): 4, ("b", "c", "d", "e"): 5}


def test_a_missing_codebook_says_how_to_draft_one(tmp_path: Path) -> None:
    with pytest.raises(RequestError) as failure:
        read_codebook(tmp_path / "codebook.toml")
    assert "codebook FILE out" in str(failure.value)


def test_a_table_schema_keeps_everything() -> None:
    book = codebook_from_toml(TEXT, "codebook.toml")
    again = codebook_from_schema(schema_from_codebook(book).decode(), "schema.json")
    assert dict(again.variables) == {
        name: said if said.kind else replace(said, kind=Kind.CATEGORY) for name, said in book.variables.items()
    }
    assert again.design == book.design
    assert again.noun("x") == "passengers"


def test_a_table_schema_of_somebody_else_is_read() -> None:
    text = """{"missingValues": ["", "-9"], "fields": [
        {"name": "q1", "type": "integer", "title": "Question 1", "categoriesOrdered": true,
         "categories": [{"value": 1, "label": "Low"}, {"value": 2, "label": "High"}]},
        {"name": "age", "type": "number", "constraints": {"minimum": 0, "maximum": 99}}]}"""
    book = codebook_from_schema(text, "schema.json")
    assert book.variable("q1").kind is Kind.ORDERED
    assert book.variable("q1").levels == (Level("1", "Low"), Level("2", "High"))
    assert book.variable("age").is_missing("-9")
    with pytest.raises(RecordsError, match="is no Table Schema"):
        codebook_from_schema("[]", "schema.json")


def test_a_codebook_is_held_against_the_records() -> None:
    book = codebook_from_toml(
        TEXT + '[variables.rout2]\nlabel = "x"\n[variables.other]\nlabel = "y"\n', "codebook.toml"
    )
    counts = {
        "route": {"1": 5, "3": 2},
        "age": {"30": 4, "999": 1, "130": 1, "old": 1},
        "route2": {"x": 1},
        "w": {"1": 8},
    }
    assert check_codebook(book, list(counts), counts, ".") == [
        "`route`: codes without a label: 3 (2).",
        "`route`: labels never used: 2 = Osk.",
        "`age`: not numbers: old (1).",
        "`age`: values outside 0 to 120: 130 (1).",
        "`age`: missing codes never used: n/a.",
        "`rout2` is not among the columns. Did you mean `route2`?",
    ]
    assert elsewhere(book, list(counts)) == ["rout2", "other"]
    assert check_codebook(book, ["route"], {"route": {"1": 1, "2": 1}}, ".") == [
        "[design] weight: there is no column `w`."[:-1] + ". There are: route."
    ]


def test_a_draft_is_a_codebook_with_every_guess_beside_it() -> None:
    findings = [
        Finding("month", Kind.CATEGORY, {"Mar": 4, "Jan": 2, "Feb": 1}, ()),
        Finding("rating", Kind.NUMBER, {"5": 9, "1": 3, "2": 1, "3": 1, "4": 2, "9": 2}, ("9",)),
        Finding("has car", Kind.NUMBER, {"1": 3, "0": 4}, ()),
        Finding("wait", Kind.NUMBER, {str(n): 1 for n in range(40)}, ()),
        Finding("uses", Kind.MULTI, {"a;b": 2, "a": 3}, ()),
        Finding('odd "name"', Kind.TEXT, {"x\ty": 1}, ()),
    ]
    text = as_toml(drafted(findings), findings, "Drafted.").decode()
    said = tomllib.loads(text)["variables"]
    assert list(said["month"]["levels"]) == ["Jan", "Feb", "Mar"]
    assert said["rating"] | {"levels": 0} == {"label": "rating", "kind": "ordered", "missing": ["9"], "levels": 0}
    assert said["has car"]["levels"] == {"0": "No", "1": "Yes"}
    assert said["wait"] == {"label": "wait", "kind": "number"}
    assert said["uses"] == {"label": "uses", "kind": "multi", "separator": ";"}
    assert "2 records; these look like `no answer`" in text
    again = codebook_from_toml(text, "draft.toml")
    assert as_toml(again) == as_toml(codebook_from_toml(as_toml(again).decode(), "again.toml"))


@given(st.dictionaries(st.text(min_size=1, max_size=8), st.text(max_size=8), min_size=1, max_size=4))
def test_whatever_names_and_words_are_written_is_read_back(words: dict[str, str]) -> None:
    levels = tuple(Level(code, label or code) for code, label in words.items())
    name = next(iter(words))
    variable = CodebookVariable(name, label="x", levels=levels, missing=frozenset(words))
    defaults = {"style": "print", "table": {"totals": True, "nested": {name: [1, 2.5]}}}
    written = as_toml(Codebook(variables={name: variable}, defaults=defaults), about="Drafted.").decode()
    content = tomllib.loads(written)
    assert content["variables"][name]["levels"] == {level.code: level.label for level in levels}
    assert content["variables"][name]["missing"] == sorted(words)
    assert content["defaults"] == defaults
