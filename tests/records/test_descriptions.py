"""Open descriptions of surveys: what is written is read again without loss, and those of others are understood."""

import json
import re
from contextlib import suppress
from math import isfinite
from pathlib import Path
from tempfile import TemporaryDirectory
from types import MappingProxyType

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from grainstack.errors import RecordsError
from grainstack.records.codebook.codebook import Codebook, CodebookVariable, Design
from grainstack.records.codebook.descriptions import codebook_from_description, description_of
from grainstack.records.codebook.file import read_codebook
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.records.variable import Kind, Level

FORMS = ("x.xml", "x.sss", "x.csv-metadata.json", "x.json")
NAMES = ("route", "wait", "q1", "ticket office", "Zufriedenheit")
TEXTS = st.text(st.characters(codec="utf-8", exclude_categories=("Cs", "Cc")), max_size=12) | st.sampled_from(
    ["", "a  b", " Ä <&> ?> ", "5 < 6", "ja;nein", "zwei\nZeilen"]
)
CODES = st.text("0123456789abc.-", min_size=1, max_size=4)
LEVELS = st.lists(st.tuples(CODES, TEXTS, st.none() | st.just("#1a726a")), max_size=4, unique_by=lambda one: one[0])


@st.composite
def variables(draw: st.DrawFn, name: str) -> CodebookVariable:
    levels = draw(LEVELS)
    shown = [Level(code, f"{label} {place}", color) for place, (code, label, color) in enumerate(levels)]
    return CodebookVariable(
        name,
        label=draw(TEXTS),
        kind=draw(st.none() | st.sampled_from(list(Kind))),
        unit=draw(TEXTS),
        levels=tuple(shown),
        missing=frozenset(draw(st.lists(CODES, max_size=3))) - {level.code for level in shown},
        low=draw(st.none() | st.floats(-1e6, 1e6)),
        high=draw(st.none() | st.floats(-1e6, 1e6)),
        separator=draw(st.sampled_from(["", ";", "|"])),
        question=draw(TEXTS),
        note=draw(TEXTS),
        good=draw(st.sampled_from(["", "first", "last"])),
        order=draw(st.sampled_from(["listed", "size"])),
    )


@st.composite
def codebooks(draw: st.DrawFn) -> Codebook:
    names = draw(st.lists(st.sampled_from(NAMES), min_size=1, unique=True))
    known = {name: draw(variables(name)) for name in names}
    if draw(st.booleans()):
        known["facilities"] = CodebookVariable("facilities", "Used", Kind.MULTI, columns=tuple(names[:2]))
    return Codebook(
        nouns=MappingProxyType(draw(st.sampled_from([{}, {"*": "visits"}, {"a.csv": "trips"}]))),
        kinds=MappingProxyType(draw(st.sampled_from([{}, {"*": "complete"}]))),
        dates=draw(st.sampled_from(["", "day-first"])),
        decimal=draw(st.sampled_from(["", ","])),
        variables=MappingProxyType({name: one for name, one in known.items() if one != CodebookVariable(name)}),
        design=draw(st.sampled_from([Design(), Design(weight="wait", strata="q1", cluster=("route",), degrees=4.0)])),
        defaults=MappingProxyType(draw(st.sampled_from([{}, {"order": "largest-first", "decimals": 1}]))),
    )


@pytest.mark.parametrize("form", FORMS[:3])
@given(book=codebooks(), columns=st.sampled_from([(), ("route", "id", "wait"), NAMES]))
def test_nothing_is_lost_on_the_way(form: str, book: Codebook, columns: tuple[str, ...]) -> None:
    assume(columns or any(not one.columns for one in book.variables.values()))
    written = description_of(book, Path(form), "x.csv", columns)
    again = codebook_from_description(written, form, Path(form).suffix)
    assert list(again.variables) == list(book.variables)
    for name, variable in book.variables.items():
        assert again.variables[name] == variable
    for field in ("nouns", "kinds", "dates", "decimal", "design", "defaults"):
        assert getattr(again, field) == getattr(book, field)


DDI = """<?xml version="1.0" encoding="ISO-8859-1"?>
<codeBook xmlns="ddi:codebook:2_5"><stdyDscr/><dataDscr>
  <varGrp ID="VG1" type="multipleResp" var="V3 V4" name="used"><labl>Used on board</labl></varGrp>
  <var ID="V1" name="route" intrvl="discrete"><labl>
      Route of the   ferry</labl>
    <qstn><preQTxt>Now</preQTxt><qstnLit>Which route?</qstnLit></qstn>
    <invalrng><range min="97" max="98"/></invalrng>
    <catgry><catValu>1</catValu><labl>Dunmar</labl><catStat type="freq">12</catStat></catgry>
    <catgry><catValu>2</catValu><labl>Pell</labl></catgry>
    <catgry><catValu>3</catValu><labl>Pell</labl></catgry>
    <catgry missing="Y"><catValu>9</catValu><labl>No answer</labl></catgry>
    <varFormat type="numeric"/></var>
  <var ID="V2" name="age" intrvl="contin" wgt="not-wgt"><valrng><range UNITS="REAL" min="15" max="99"/></valrng></var>
  <var ID="V3" name="cafe"/><var ID="V4" name="shop"/>
  <var ID="V5" name="w" wgt="wgt" intrvl="contin"/>
  <var ID="V6" name="day"><varFormat type="numeric" category="date"/></var>
</dataDscr></codeBook>"""


def test_a_ddi_codebook_of_somebody_else_is_read() -> None:
    book = codebook_from_description(DDI.encode("latin-1"), "x.xml", ".xml")
    route = book.variable("route")
    assert (route.label, route.question, route.kind) == ("Route of the ferry", "Which route?", Kind.CATEGORY)
    assert [level.label for level in route.levels] == ["Dunmar", "Pell (2)", "Pell (3)"]
    assert route.missing == {"9", "97", "98"}
    age = book.variable("age")
    assert (age.kind, age.low, age.high) == (Kind.NUMBER, 15.0, 99.0)
    assert book.variable("used").columns == ("cafe", "shop")
    assert book.variable("day").kind is Kind.DATE
    assert book.design.weight == "w"


TRIPLE_S = """<?xml version="1.0"?>
<sss version="2.0"><survey><title>Ferry</title><record ident="A">
<variable ident="1" type="single"><name>Q1</name><label>Route</label><position start="1"/>
  <values><value code="1">Dunmar</value><value code="2">Pell</value></values></variable>
<variable ident="2" type="quantity"><name>Q2</name><label><text mode="interview">Wait?</text></label>
  <position start="2" finish="4"/><values><range from="0" to="200"/></values></variable>
<variable ident="3" type="multiple"><name>Q3</name><label>Used</label><position start="5" finish="7"/>
  <values><value code="1">Shop</value><value code="2">Deck</value><value code="3">Lounge</value></values></variable>
<variable ident="4" type="multiple"><name>Q4</name><label>First</label><position start="8" finish="9"/>
  <spread subfields="2"/><values><value code="1">A</value><value code="2">B</value></values></variable>
</record></survey></sss>"""


def test_a_survey_with_its_data_is_read(tmp_path: Path) -> None:
    (tmp_path / "f.sss").write_text(TRIPLE_S, "utf-8")
    (tmp_path / "f.asc").write_text("1 12101 1\n2  510021\n1  7000 0\n", "utf-8")
    opened = open_records(RecordsRequest(file=(str(tmp_path / "f.sss"),)))
    [batch] = opened.source.batches(opened.source.columns)
    assert batch.to_pydict() == {
        "Q1": ["1", "2", "1"],
        "Q2": ["12", "5", "7"],
        "Q3": ["1;3", "1", ""],
        "Q4": ["1", "2;1", ""],
    }
    assert opened.codebook.variable("Q1").levels == (Level("1", "Dunmar"), Level("2", "Pell"))
    assert opened.codebook.variable("Q2").label == "Wait?"
    assert opened.codebook.variable("Q3").kind is Kind.MULTI


@pytest.mark.parametrize(
    ("data", "message"), [(None, "which is not there"), ("1 12101 1\n2\n", "line 2 ends before column 2")]
)
def test_data_that_do_not_fit_are_refused(tmp_path: Path, data: str | None, message: str) -> None:
    (tmp_path / "f.sss").write_text(TRIPLE_S, "utf-8")
    if data is not None:
        (tmp_path / "f.asc").write_text(data, "utf-8")
    with pytest.raises(RecordsError, match=message):
        open_records(RecordsRequest(file=(str(tmp_path / "f.sss"),)))


@pytest.mark.parametrize(
    ("before", "after", "message"),
    [
        ('start="2"', 'start="two"', "line 6: `start` is 'two', and not a number of at least 1"),
        ('start="1"', 'start="0"', "line 3: `start` is '0', and not a number of at least 1"),
        ('finish="4"', 'finish="1"', "line 6: `finish` is '1', and not a number of at least 2"),
        ('subfields="2"', 'width="1.5"', "line 10: `width` is '1.5'"),
        ('<position start="1"/>', "", "variable `Q1` has no position"),
        ('ident="A"', 'ident="A" skip="-1"', "line 2: `skip` is '-1', and not a number of at least 0"),
    ],
)
def test_a_place_that_is_no_number_is_refused(tmp_path: Path, before: str, after: str, message: str) -> None:
    (tmp_path / "f.sss").write_text(TRIPLE_S.replace(before, after, 1), "utf-8")
    (tmp_path / "f.asc").write_text("1 12101 1\n", "utf-8")
    with pytest.raises(RecordsError, match=re.escape(message)):
        open_records(RecordsRequest(file=(str(tmp_path / "f.sss"),)))


ATTRIBUTES = {name: list(re.finditer(r'="([^"]*)"', text)) for name, text in (("f.xml", DDI), ("f.sss", TRIPLE_S))}


@given(
    place=st.sampled_from([(name, found) for name, every in ATTRIBUTES.items() for found in every]),
    odd=st.sampled_from(["", "x", "-1", "0", "2.5", "nan", "inf", "1e400", "\u0663", "99999999999999999999", "a b"]),
)
def test_whatever_an_attribute_says_is_read_or_refused(place: tuple[str, re.Match[str]], odd: str) -> None:
    name, found = place
    text = DDI if name == "f.xml" else TRIPLE_S
    changed = text[: found.start(1)] + odd + text[found.end(1) :]
    with TemporaryDirectory() as folder, suppress(RecordsError):
        path = Path(folder) / name
        path.write_text(changed.replace("ISO-8859-1", "UTF-8"), "utf-8")
        path.with_suffix(".asc").write_text("1 12101 1\n2  510021\n", "utf-8")
        for variable in read_codebook(path).variables.values():
            assert all(end is None or isfinite(end) for end in (variable.low, variable.high))
        open_records(RecordsRequest(file=(str(path),)))


def test_metadata_of_somebody_else_is_read() -> None:
    columns = [
        {"titles": {"en": "Route"}, "datatype": "string", "null": "9"},
        {"name": "wait", "titles": ["Wait", "W"], "datatype": {"base": "decimal", "minimum": 0}, "null": ["", "-"]},
        {"name": "used", "separator": ";"},
    ]
    content = {
        "@context": "http://www.w3.org/ns/csvw",
        "tables": [{"url": "x.csv", "tableSchema": {"columns": columns}}],
    }
    book = codebook_from_description(json.dumps(content).encode(), "x.json", ".json")
    assert book.variable("Route").missing == {"9"}
    wait = book.variable("wait")
    assert (wait.label, wait.kind, wait.low) == ("Wait", Kind.NUMBER, 0)
    assert wait.missing == {"-"}
    assert book.variable("used").kind is Kind.MULTI


@pytest.mark.parametrize(
    ("name", "content", "message"),
    [
        ("x.xml", "<codeBook", "x.xml is no XML"),
        ("x.xml", "<html/>", "begins with `html`"),
        ("x.xml", '<codeBook xmlns="ddi:codebook:2_5"/>', "describes no variables"),
        ("x.sss", "<sss><survey/></sss>", "describes no record"),
        ("x.sss", "<sss><survey><record><variable/></record><record/></survey></sss>", "describes 2 records"),
        ("x-metadata.json", '{"tableSchema": {"columns": [1]}}', "describes no columns"),
        ("x.xml", '<codeBook><dataDscr><var ID="V1" name="a"><?codebook [1]?></var></dataDscr></codeBook>', "extras"),
        (
            "x.xml",
            '<codeBook><dataDscr><var ID="V1"><?codebook {"low": "x"}?></var></dataDscr></codeBook>',
            "cannot be",
        ),
    ],
)
def test_what_is_no_description_is_refused(tmp_path: Path, name: str, content: str, message: str) -> None:
    (tmp_path / name).write_text(content, "utf-8")
    with pytest.raises(RecordsError, match=message):
        read_codebook(tmp_path / name)


def test_entities_are_not_followed(tmp_path: Path) -> None:
    (tmp_path / "secret").write_text("hidden", "utf-8")
    text = f'<!DOCTYPE c [<!ENTITY e SYSTEM "file://{tmp_path}/secret"><!ENTITY f "{"long " * 50}">]>'
    body = '<codeBook><dataDscr><var ID="V1" name="a"><labl>x&e;&f;</labl></var></dataDscr></codeBook>'
    (tmp_path / "x.xml").write_text(text + body, "utf-8")
    assert read_codebook(tmp_path / "x.xml").variable("a").label == "x&e;&f;"
