"""Entries for each level of a column, and colours that stay the same through a plan."""

import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from grainstack.plan.building.each import folder_names
from tests.program.conftest import Run, drawn

EACH = """[records]
file = "passengers.csv"

[[chart]]
name = "wait"
kind = "bar"
for_each = "route"
by = "season"
measure = "wait"
title = "To {route}: how long people wait"
formats = "svg"

[[table]]
name = "tickets"
by = "ticket"
"""


def _plan(folder: Path, text: str) -> None:
    (folder / "plan.toml").write_text(text, "utf-8")


def test_a_chart_for_each_level_is_that_of_its_records(run: Run, folder: Path) -> None:
    _plan(folder, EACH)
    done = run("build", "plan.toml")
    assert done.returncode == 0, done.stderr
    folders = sorted(path.name for path in (folder / "out").iterdir() if path.is_dir())
    assert folders == ["dunmar", "hallow-ness", "lower-tarn", "osk-harbour", "pell-isle", "vey-sands"]
    command = ("bar", "passengers.csv", "--by", "season", "--measure", "wait", "--only", "route=Dunmar")
    run(*command, "--title", "To Dunmar: how long people wait", "--out", "one.svg")
    assert drawn(folder / "out/dunmar/wait.svg") == drawn(folder / "one.svg")
    again = run("build", "plan.toml")
    assert "Wrote" not in again.stderr
    assert "dunmar/wait" in again.stderr


def test_the_command_line_names_the_column_too(run: Run, folder: Path) -> None:
    _plan(folder, EACH)
    done = run("build", "plan.toml", "--for-each", "season", "--only", "tickets")
    assert done.returncode == 0, done.stderr
    assert sorted(path.parent.name for path in (folder / "out").glob("*/tickets.csv")) == [
        *("autumn", "spring", "summer", "winter")
    ]
    assert "tickets: table, csv, for each season" in run("build", "plan.toml", "--list", "--for-each", "season").stdout


def test_a_level_that_is_gone_leaves_its_folder_and_is_said(run: Run, folder: Path) -> None:
    _plan(folder, EACH)
    run("build", "plan.toml")
    _plan(folder, EACH.replace('"passengers.csv"', '"passengers.csv"\nexcept = "route=Dunmar"'))
    said = run("build", "plan.toml").stderr
    assert "In the plan no more, left as they are: out/dunmar/wait.svg." in said
    assert "Wrote out/pell-isle/wait.svg" in said


@pytest.mark.parametrize(
    ("column", "said"),
    [
        ("rout", "Did you mean `route`?"),
        ("age", "for_each takes a column of categories, and age is cut into bands"),
        ("passenger", "has 2,415 levels; for_each takes up to 500"),
        ("year", "year is a param too"),
    ],
)
def test_columns_that_cannot_be_are_refused(run: Run, folder: Path, column: str, said: str) -> None:
    _plan(
        folder,
        "[params]\nyear = 1\n" + EACH.replace('for_each = "route"', f'for_each = "{column}"').replace("{route}", "all"),
    )
    done = run("build", "plan.toml")
    assert done.returncode == 2
    assert said in done.stderr
    assert "line 6, chart wait" in done.stderr
    assert not (folder / "out").exists()


def test_a_link_among_the_folders_of_levels_is_not_followed(run: Run, folder: Path, tmp_path: Path) -> None:
    _plan(folder, EACH)
    (folder / "out").mkdir()
    (tmp_path / "elsewhere").mkdir()
    (folder / "out/dunmar").symlink_to(tmp_path / "elsewhere", target_is_directory=True)
    done = run("build", "plan.toml")
    assert done.returncode == 1
    assert "leads out of out" in done.stderr
    assert list((tmp_path / "elsewhere").iterdir()) == []


@given(st.lists(st.text(max_size=90), max_size=12, unique=True))
def test_folders_are_safe_and_each_another(labels: list[str]) -> None:
    names = folder_names(labels)
    assert len({name.casefold() for name in names}) == len(labels)
    for name in names:
        assert re.fullmatch(r"[\w-]+", name)
        assert not name.startswith("-")
        assert len(name) <= 70
        assert name not in {"con", "nul", "aux", "prn", "com1"}


SHARED = """[records.one]
file = "one.csv"
[records.two]
file = "two.csv"
[[chart]]
name = "one"
records = "one"
kind = "bar"
by = "place"
split = "kind"
formats = "svg"
[[chart]]
name = "two"
records = "two"
kind = "bar"
by = "place"
split = "kind"
formats = "svg"
"""


def _colors(picture: Path) -> dict[str, str]:
    """The colour of each series, by its code."""
    marks = re.findall(r"<[a-z]+[^>]*data-series=\"(\w+)\"[^>]*>", picture.read_text("utf-8"))
    found = re.findall(
        r'fill="(#\w{6})"[^>]*data-series="(\w+)"|data-series="(\w+)"[^>]*fill="(#\w{6})"', picture.read_text("utf-8")
    )
    assert marks
    return {one or other: color or last for color, one, other, last in found if (color or last) != "#1f2a33"}


def test_a_level_has_one_colour_in_charts_of_several_sources(run: Run, bare: Path) -> None:
    (bare / "one.csv").write_text("place,kind\n" + "a,tea\na,milk\nb,tea\nb,beer\n" * 20, "utf-8")
    (bare / "two.csv").write_text("place,kind\n" + "a,beer\nb,rum\na,milk\nb,tea\n" * 20, "utf-8")
    _plan(bare, SHARED)
    assert run("build", "plan.toml").returncode == 0
    one, two = (_colors(bare / f"out/{name}.svg") for name in ("one", "two"))
    assert set(one) == {"tea", "milk", "beer"}
    assert set(two) == {"tea", "milk", "beer", "rum"}
    assert all(one[kind] == two[kind] for kind in one)
    assert len(set(two.values())) == 4
    assert run("build", "plan.toml", "--only", "two", "--out", "alone").returncode == 0
    assert (bare / "alone/two.svg").read_bytes() == (bare / "out/two.svg").read_bytes()
    assert "Wrote" not in run("build", "plan.toml").stderr
    (bare / "one.csv").write_text("place,kind\n" + "a,rum\na,milk\nb,tea\nb,beer\n" * 20, "utf-8")
    assert "Wrote out/two.svg." in run("build", "plan.toml").stderr
    assert _colors(bare / "out/one.svg").items() <= _colors(bare / "out/two.svg").items()


@pytest.mark.parametrize(
    ("block", "said"),
    [
        ("out", "out is no folder"),
        ("out/dunmar", "out/dunmar is no folder"),
        ("out/dunmar/wait.svg/", "it is a folder"),
    ],
)
def test_what_stands_where_outputs_go_is_said_before_anything_is_made(
    run: Run, folder: Path, block: str, said: str
) -> None:
    _plan(folder, EACH)
    place = folder / block
    place.parent.mkdir(parents=True, exist_ok=True)
    if block.endswith("/"):
        place.mkdir()
    else:
        place.write_text("ours", "utf-8")
    done = run("build", "plan.toml")
    assert done.returncode == 1
    assert said in done.stderr
    assert list(folder.glob("out/**/*.csv")) == []
    assert place.is_dir() or place.read_text("utf-8") == "ours"
