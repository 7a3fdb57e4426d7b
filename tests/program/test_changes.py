"""What differs between two builds, and what is to be known of a plan before it is built."""

import csv
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from grainstack.plan.build_changes import Difference, changes_between
from grainstack.plan.building.record import BuildRecord, EntryRecord, FigureRecord
from tests.program.conftest import Run

PLAN = """[records]
file = "records.csv"

[[table]]
name = "share"
by = "place"
split = "kind"
stat = "share"

[[chart]]
name = "mean"
kind = "bar"
by = "place"
measure = "x"
formats = "svg"
"""
Rows = list[dict[str, Any]]
ROWS: Rows = [
    {"place": place, "kind": kind, "x": number + 10 * (place == "b")}
    for place in "abc"
    for kind in ("k", "l")
    for number in range(40)
]


def _build(run: Run, folder: Path, rows: Rows, out: str) -> None:
    with (folder / "records.csv").open("w", encoding="utf-8", newline="") as file:
        writer = csv.DictWriter(file, ["place", "kind", "x"])
        writer.writeheader()
        writer.writerows(rows)
    (folder / "plan.toml").write_text(PLAN, "utf-8")
    done = run("build", "plan.toml", "--out", out)
    assert done.returncode == 0, done.stderr


CHANGES: dict[str, tuple[Callable[[Rows], Rows], list[str]]] = {
    "nothing": (lambda rows: rows, []),
    "the order of the records": (lambda rows: rows[::-1], []),
    "less than is shown": (lambda rows: [{**rows[0], "x": 0.01}, *rows[1:]], []),
    "a figure": (
        lambda rows: [{**row, "x": row["x"] + (row["place"] == "b")} for row in rows],
        ["mean / figure / b / Mean x / 29.5 / 30.5"],
    ),
    "a new level": (
        lambda rows: [*rows, *({**row, "place": "d"} for row in rows[:80])],
        ["share / new level / place d / / / ", "mean / new level / place d / / / "],
    ),
    "a level that is gone": (
        lambda rows: [row for row in rows if row["place"] != "c"],
        ["share / level gone / place c / / / ", "mean / level gone / place c / / / "],
    ),
    "a base that fell": (
        lambda rows: [row for row in rows if (row["place"], row["x"]) != ("a", 39)],
        [
            "share / base fell / a / / 80 / 78",
            "mean / figure / a / Mean x / 19.5 / 19.0",
            "mean / base fell / a / / 80 / 78",
        ],
    ),
    "a base too small": (
        lambda rows: [row for row in rows if row["place"] != "a" or row["x"] in (19, 20)],
        [
            *("share / new flag / a, k / Share of records / / small-base",),
            *("share / new flag / a, l / Share of records / / small-base", "share / base fell / a / / 80 / 4"),
            *("mean / new flag / a / Mean x / / small-base", "mean / base fell / a / / 80 / 4"),
        ],
    ),
}


@pytest.mark.parametrize("name", CHANGES)
def test_every_change_is_told_once(run: Run, folder: Path, name: str) -> None:
    change, expected = CHANGES[name]
    (folder / "codebook.toml").unlink()
    _build(run, folder, ROWS, "old")
    _build(run, folder, change(ROWS), "new")
    done = run("changes", "old", "new", "--json")
    found = [
        " / ".join(row[key] or "" for key in ("entry", "what", "where", "figure", "before", "after"))
        for row in json.loads(done.stdout)
    ]
    assert [one.replace("  ", " ") for one in found] == expected
    assert run("changes", "old", "new").returncode == 0
    assert run("changes", "old", "new", "--strict").returncode == (1 if expected else 0)
    if not expected:
        assert run("changes", "old", "new").stdout == "Nothing is different in 2 entries.\n"


def test_entries_that_came_and_went_are_told(run: Run, folder: Path) -> None:
    (folder / "codebook.toml").unlink()
    _build(run, folder, ROWS, "old")
    (folder / "plan.toml").write_text(PLAN.replace('name = "mean"', 'name = "average"'), "utf-8")
    run("build", "plan.toml", "--out", "new")
    said = run("changes", "old", "new").stdout
    assert "average\n  the entry is new\nmean\n  the entry is gone\n" in said
    assert "2 of 2 entries differ" in said


@pytest.mark.parametrize(("folders", "said"), [(("old",), "Name both"), (("old", "nowhere"), "has no build.json")])
def test_two_builds_are_needed(run: Run, folder: Path, folders: tuple[str, ...], said: str) -> None:
    _build(run, folder, ROWS, "old")
    done = run("changes", *folders)
    assert done.returncode == 2
    assert said in done.stderr


FIGURES = st.builds(
    FigureRecord,
    st.fixed_dictionaries({"a": st.sampled_from("xyz"), "b": st.sampled_from("pq")}),
    st.sampled_from(("Mean", "Share")),
    st.one_of(st.none(), st.floats(-10, 10)),
    st.text("0123", max_size=2),
    st.one_of(st.none(), st.integers(0, 99)),
    st.sampled_from([(), ("small-base",)]),
)


def _record(figures: list[FigureRecord]) -> BuildRecord:
    unique = {(*one.cell.values(), one.figure): one for one in figures}
    return BuildRecord({}, {"e": EntryRecord("", {}, tuple(unique.values()))})


@given(st.lists(FIGURES), st.lists(FIGURES))
def test_a_build_differs_from_itself_in_nothing_and_both_ways_alike(
    one: list[FigureRecord], other: list[FigureRecord]
) -> None:
    before, after = _record(one), _record(other)
    assert changes_between(before, before) == []
    there, back = changes_between(before, after), changes_between(after, before)
    for what, opposite in (
        (Difference.FIGURE, Difference.FIGURE),
        (Difference.NEW_LEVEL, Difference.LEVEL_GONE),
    ):
        forth = {(found.where, found.figure, found.before, found.after) for found in there if found.what is what}
        assert forth == {(f.where, f.figure, f.after, f.before) for f in back if f.what is opposite}


def _check(run: Run, folder: Path, text: str, *options: str) -> tuple[int, Any]:
    (folder / "plan.toml").write_text(text, "utf-8")
    done = run("check", "plan.toml", "--json", *options)
    return done.returncode, json.loads(done.stdout)


RECORDS = '[records]\nfile = "passengers.csv"\n'


def test_a_check_lists_advice_notes_and_small_bases_and_writes_nothing(run: Run, folder: Path) -> None:
    codebook = folder / "codebook.toml"
    codebook.write_text(codebook.read_text("utf-8").replace('web = "Website"\n', ""), "utf-8")
    entry = '[[chart]]\nname = "n"\nkind = "bar"\nby = "ticket"\n'
    wait = '[[chart]]\nname = "wait"\nkind = "bar"\nby = "route"\nmeasure = "wait"\n'
    code, remarks = _check(run, folder, RECORDS + entry + entry.replace('"n"', '"m"') + wait)
    assert code == 0
    assert [one["text"] for one in remarks if one["sort"] == "note"] == ["Not in the codebook: web of `ticket`."]
    assert {one["advice"] for one in remarks if one["sort"] == "advice"} == {"hidden-shape"}
    assert [one["text"] for one in remarks if one["sort"] == "small base"] == ["Vey Sands (27)."]
    assert not (folder / "out").exists()
    assert _check(run, folder, RECORDS + wait, "--strict")[0] == 3
    quiet = f'{RECORDS}{wait}no_advice = "hidden-shape"\n'
    assert [one["sort"] for one in _check(run, folder, quiet)[1]] == ["small base"]
    assert "hidden-shape" not in run("build", "plan.toml").stderr
    assert run("check", "plan.toml").stdout == "wait: small base: Vey Sands (27).\n\n1 entry checked: 1 × small base.\n"


def test_a_check_lists_every_fault_wherever_it_lies(run: Run, folder: Path) -> None:
    chart = '[[chart]]\nname = "{}"\nkind = "bar"\n{}\n'
    entries = {
        "fine": 'by = "route"',
        "column": 'by = "rout"',
        "level": 'by = "route"\nonly = "route=Dunmark"',
        "color": 'by = "route"\nsplit = "ticket"\ncolor = "Webb=#0b6"',
        "small": 'by = "route"\nsize = "8x8mm"',
        "nowhere": 'records = "gone"\nby = "route"',
        "text": 'records = "words"\nby = "a"\nmeasure = "b"',
    }
    (folder / "words.csv").write_text("a,b\nx,one\ny,two\n", "utf-8")
    sources = '[records.gone]\nfile = "gone.csv"\n[records.words]\nfile = "words.csv"\n'
    code, remarks = _check(
        run, folder, RECORDS + sources + "".join(chart.format(name, words) for name, words in entries.items())
    )
    faults = [one["text"] for one in remarks if one["sort"] == "fault"]
    assert code == 2
    assert [name for name in entries if not any(f"chart {name}:" in fault for fault in faults)] == ["fine"], faults
    assert all("plan.toml, line " in fault for fault in faults)
    code, remarks = _check(run, folder, RECORDS + "[[chart]]\nkind = 3\n[[table]]\nbye = 1\n")
    assert code == 2
    assert [one["sort"] for one in remarks] == ["fault"] * 2


def test_colours_that_look_alike_are_told(run: Run, folder: Path) -> None:
    entry = '[[chart]]\nname = "n"\nkind = "bar"\nby = "route"\nsplit = "season"\n'
    near = 'color = ["Spring=#0a8060", "Summer=#0b8161", "Autumn=#d04040", "Winter=#806000"]\n'
    _, remarks = _check(run, folder, RECORDS + entry + near)
    told = [one["text"] for one in remarks if one["advice"] == "colors-alike"]
    assert len(told) == 1
    assert "Summer and Spring (to anybody)" in told[0]
    assert not [one for one in _check(run, folder, RECORDS + entry)[1] if one["advice"] == "colors-alike"]
    hatched = _check(run, folder, RECORDS + entry + near + "hatch = true\n")[1]
    assert not [one for one in hatched if one["advice"] == "colors-alike"]
