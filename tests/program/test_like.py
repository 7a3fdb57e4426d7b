"""--like takes the looks of another chart, of its picture or its plan, and nothing of what it shows."""

import re
from pathlib import Path
from typing import Any

import pytest

import grainstack as gs
from tests.program.conftest import Run, drawn

LOOKS = (
    "--palette",
    "kiln",
    "--bar-width",
    "0.4",
    "--size",
    "120x80mm",
    "--direction",
    "horizontal",
    "--label",
    "value",
)
FIRST = ("bar", "passengers.csv", "--by", "route", "--measure", "wait", "--title", "One", *LOOKS)
SECOND = ("bar", "passengers.csv", "--by", "season", "--measure", "spend")


@pytest.mark.parametrize("ending", ["svg", "png", "pdf"])
def test_looks_of_a_picture_are_taken_over(run: Run, folder: Path, ending: str) -> None:
    run(*FIRST, "--touch", "names: bold", "--out", f"one.{ending}")
    done = run(*SECOND, "--like", f"one.{ending}", "--out", "two.svg")
    assert done.returncode == 0, done.stderr
    assert "Looks of one" in done.stderr
    run(*SECOND, *LOOKS, "--touch", "names: bold", "--out", "typed.svg")
    assert drawn(folder / "two.svg") == drawn(folder / "typed.svg")
    run(*SECOND, "--like", f"one.{ending}", "--palette", "furrow", "--out", "other.svg")
    assert "kiln" not in (folder / "other.svg").read_text("utf-8"), "what is typed goes before"


def test_a_look_that_does_not_suit_is_left_aside_and_said(run: Run) -> None:
    run(*FIRST, "--color", "Dunmar=teal", "--out", "one.svg")
    done = run(*SECOND, "--like", "one.svg", "--out", "two.svg")
    assert done.returncode == 0
    assert "Look --color of one.svg left aside: --color: no level `Dunmar` is shown." in done.stderr


def test_entries_of_a_plan_are_like_each_other(run: Run, folder: Path) -> None:
    run(*FIRST, "--touch", "names: bold", "--out", "one.svg", "--save-plan", "p.toml", "--name", "one")
    run(*SECOND, *LOOKS, "--touch", "names: bold", "--out", "typed.svg")
    assert run(*SECOND, "--like", "p.toml:one", "--out", "two.svg").returncode == 0
    assert drawn(folder / "two.svg") == drawn(folder / "typed.svg")
    plan = (folder / "p.toml").read_text("utf-8")
    entry = '[[chart]]\nname = "two"\nkind = "bar"\nlike = "one"\nby = "season"\nmeasure = "spend"\nformats = ["svg"]\n'
    (folder / "p.toml").write_text(f"{plan}\n{entry}", "utf-8")
    assert run("build", "p.toml", "--out", "made").returncode == 0
    assert drawn(folder / "made/two.svg") == drawn(folder / "typed.svg")


@pytest.mark.parametrize(
    ("like", "message"),
    [
        ("passengers.csv", "is of no kind that carries where it comes from"),
        ("nowhere.svg", "no file|cannot be read"),
        ("p.toml:two", "has no chart `two`. There are: one"),
        ("q.toml:two", "q.toml cannot be read"),
    ],
)
def test_what_has_no_looks_is_told(run: Run, folder: Path, like: str, message: str) -> None:
    run(*FIRST, "--out", "one.svg", "--save-plan", "p.toml", "--name", "one")
    done = run(*SECOND, "--like", like, "--out", "two.svg")
    assert done.returncode != 0
    assert re.search(message, " ".join(done.stderr.split())), done.stderr
    assert not (folder / "two.svg").exists()


def test_an_entry_that_is_like_none_there_is_is_told(run: Run, folder: Path) -> None:
    text = '[records]\nfile = "passengers.csv"\n[[chart]]\nname = "a"\nkind = "bar"\nby = "route"\nlike = "b"\n'
    (folder / "p.toml").write_text(text, "utf-8")
    done = run("build", "p.toml", "--out", "made")
    assert done.returncode != 0
    assert "like b: there is no chart of that name" in done.stderr


def test_a_call_takes_looks_over_as_the_command_does(run: Run, folder: Path) -> None:
    run(*FIRST, "--color", "Dunmar=teal", "--touch", "names: bold", "--out", "one.svg")
    run(*SECOND, *LOOKS, "--touch", "names: bold", "--out", "typed.svg")
    asked: dict[str, Any] = {"by": "season", "measure": "spend"}
    result = gs.bar(folder / "passengers.csv", **asked, like=folder / "one.svg")
    result.save(folder / "two.svg")
    assert drawn(folder / "two.svg") == drawn(folder / "typed.svg")
    assert any("no level `Dunmar` is shown" in sentence for sentence in result.advice)
    wider = gs.bar(folder / "passengers.csv", **asked, like=folder / "one.svg", bar_width=0.9)
    wider.save(folder / "wider.svg")
    assert drawn(folder / "wider.svg") != drawn(folder / "two.svg")
    with pytest.raises(TypeError, match="no argument 'like'"):
        gs.table(folder / "passengers.csv", by="season", like="one.svg")  # type: ignore[call-arg]
