"""Saving under a name again replaces the entry, and `grainstack undo` takes that back."""

import tomllib
from pathlib import Path

from tests.program.conftest import Run


def test_saving_under_a_name_again_replaces_and_undo_takes_it_back(run: Run, folder: Path) -> None:
    asked = ("bar", "passengers.csv", "--by", "route", "--out", "a.svg", "--save-plan", "p.toml", "--name", "a")
    run(*asked)
    first = (folder / "p.toml").read_bytes()
    done = run(*asked, "--palette", "kiln", "--by", "season")
    assert done.returncode == 0
    assert (
        "Replaced a in p.toml: by is now ['route', 'season'], before 'route'; palette = 'kiln' is new." in done.stderr
    )
    assert "grainstack undo p.toml" in done.stderr
    assert len(tomllib.loads((folder / "p.toml").read_text("utf-8"))["chart"]) == 1
    assert run("undo", "p.toml").returncode == 0
    assert (folder / "p.toml").read_bytes() == first
    again = run("undo", "p.toml")
    assert again.returncode != 0
    assert "There is no earlier version of p.toml" in again.stderr


def test_no_other_file_is_taken_for_a_plan(run: Run, folder: Path) -> None:
    before = (folder / "codebook.toml").read_bytes()
    (folder / "copy.toml").write_bytes(before)
    asked = ("bar", "passengers.csv", "--by", "route", "--out", "a.svg", "--save-plan")
    for name, reason in (("codebook.toml", "it is being read"), ("copy.toml", "that file is no plan")):
        done = run(*asked, name)
        assert done.returncode == 2
        assert reason in done.stderr
        assert (folder / name).read_bytes() == before
    assert not (folder / "a.svg").exists()
