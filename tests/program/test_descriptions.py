"""Codebooks in open standards: written beside the records, read in the place of a codebook, and turned into one."""

import tomllib
from pathlib import Path

import pytest

from tests.program.conftest import Run


@pytest.mark.parametrize("name", ["p.xml", "p.sss", "passengers.csv-metadata.json"])
def test_a_description_says_what_the_codebook_says(run: Run, folder: Path, name: str) -> None:
    written = run("codebook", "passengers.csv", "--codebook", "codebook.toml", "--out", name)
    assert written.returncode == 0, written.stderr
    asked = ("table", "passengers.csv", "--by", "route", "--split", "season", "--measure", "wait")
    assert run(*asked, "--codebook", name).stdout == run(*asked).stdout
    assert run("codebook", name, "--out", "back.toml").returncode == 0
    assert run("codebook", "codebook.toml", "--out", "plain.toml").returncode == 0
    back, plain = (tomllib.loads((folder / one).read_text("utf-8")) for one in ("back.toml", "plain.toml"))
    assert back == plain


def test_records_are_read_by_their_description(run: Run) -> None:
    run("codebook", "passengers.csv", "--codebook", "codebook.toml", "--out", "p.sss")
    asked = ("--by", "route", "--measure", "wait")
    by_description = run("table", "p.sss", *asked)
    assert by_description.stdout == run("table", "passengers.csv", *asked).stdout
    assert "Read the records of p.sss from passengers.csv." in by_description.stderr


@pytest.mark.parametrize("name", ["p.sss", "p.xml"])
def test_the_data_of_a_description_are_never_overwritten(run: Run, folder: Path, name: str) -> None:
    run("codebook", "passengers.csv", "--codebook", "codebook.toml", "--out", "p.sss")
    (folder / "p.sss").rename(folder / name)
    before = (folder / "passengers.csv").read_bytes()
    for command in ("table", "derive"):
        shape = ("--by", "route") if command == "table" else ("--compute", "late = wait > 10")
        done = run(command, name, *shape, "--out", "passengers.csv")
        assert done.returncode != 0
        assert "passengers.csv" in done.stderr
        assert (folder / "passengers.csv").read_bytes() == before


def test_a_column_that_holds_no_values_is_told_of(run: Run, folder: Path) -> None:
    (folder / "n.jsonl").write_text('{"a": 1, "b": {"c": 2}}\n{"a": 2, "b": {"c": 3}}\n', "utf-8")
    (folder / "n.toml").write_text('[variables.a]\nlabel = "A"\n[variables.b]\nlabel = "B"\n', "utf-8")
    done = run("codebook", "n.jsonl", "--codebook", "n.toml")
    assert (done.returncode, done.stdout) == (0, "n.toml fits n.jsonl.\n")
    assert "`b` holds structures, not single values" in done.stderr
    assert "[variables.b]" not in run("codebook", "n.jsonl").stdout


def test_a_description_without_records_is_told(run: Run) -> None:
    run("codebook", "passengers.csv", "--codebook", "codebook.toml", "--out", "p.xml")
    done = run("look", "p.xml")
    assert done.returncode == 1
    assert "grainstack codebook p.xml --out codebook.toml" in done.stderr
