"""What the guide to adding things shows is applied to a copy of the package, line by line, and run."""

import os
import re
import shutil
import subprocess
import sys
from collections import defaultdict
from pathlib import Path

import pytest

import grainstack

PACKAGE = Path(grainstack.__file__).parent
GUIDE = Path(__file__).parents[2] / "docs" / "extending.md"
MOST_FILES = {"A statistic": 3, "An option for all charts": 2, "A format": 2, "A kind of chart": 4}
RECORDS = "route,wait\nOsk,3\nOsk,9\nOsk,4\nPell,2\nPell,10\n"
BLOCK = re.compile(r"^```(diff|python) (src/\S+)\n(.*?)^```$", re.MULTILINE | re.DOTALL)


def sections() -> dict[str, list[tuple[str, str, str]]]:
    """The changes under each heading: how, to which file, and the lines."""
    parts = re.split(r"^## (.+)$", GUIDE.read_text("utf-8"), flags=re.MULTILINE)[1:]
    return {title: BLOCK.findall(text) for title, text in zip(parts[::2], parts[1::2], strict=True)}


def changed(text: str, hunk: str) -> str:
    """A text with one piece of a change applied: lines with `-` go, lines with `+` come, the others stay."""
    lines = hunk.rstrip("\n").split("\n")
    before = "\n".join(line[1:] for line in lines if not line.startswith("+"))
    after = "\n".join(line[1:] for line in lines if not line.startswith("-"))
    assert text.count(before) == 1, f"these lines are not in the file once:\n{before}"
    return text.replace(before, after)


@pytest.fixture(scope="module")
def extended(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A copy of the package with everything the guide shows."""
    folder = tmp_path_factory.mktemp("extended")
    shutil.copytree(PACKAGE, folder / "src" / "grainstack", ignore=shutil.ignore_patterns("__pycache__"))
    for changes in sections().values():
        for how, name, content in changes:
            target = folder / name
            if how == "python":
                assert not target.exists()
                target.write_text(content, "utf-8")
                continue
            text = target.read_text("utf-8")
            for hunk in content.split("@@\n"):
                text = changed(text, hunk)
            target.write_text(text, "utf-8")
    (folder / "p.csv").write_text(RECORDS, "utf-8")
    return folder


def run(folder: Path, *arguments: str) -> str:
    """What the extended program prints."""
    environment = os.environ | {"PYTHONPATH": str(folder / "src")}
    command = [sys.executable, "-m", "grainstack", *arguments]
    done = subprocess.run(command, cwd=folder, env=environment, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    return done.stdout


def test_each_addition_needs_as_few_files_as_promised() -> None:
    touched: defaultdict[str, set[str]] = defaultdict(set)
    for title, changes in sections().items():
        for _, name, _ in changes:
            touched[title].add(name)
    assert touched.keys() == MOST_FILES.keys()
    for title, files in touched.items():
        assert 0 < len(files) <= MOST_FILES[title], title


def test_a_statistic_can_be_asked_for_in_tables_and_charts(extended: Path) -> None:
    asked = ("p.csv", "--by", "route", "--measure", "wait", "--stat", "midrange")
    table = run(extended, "table", *asked, "--stat", "mean")
    assert "Mid-range of wait" in table
    assert [line.split()[:3] for line in table.splitlines()[2:4]] == [["Osk", "3", "6"], ["Pell", "2", "6"]]
    assert "Mid-range of wait" in run(extended, "bar", *asked)
    assert "midrange" in run(extended, "table", "--help", "all")


@pytest.mark.parametrize("kind", [("bar",), ("pie",), ("dot", "--measure", "wait"), ("tally",)])
def test_an_option_for_all_charts_acts_in_each_of_them(extended: Path, kind: tuple[str, ...]) -> None:
    run(extended, *kind, "p.csv", "--by", "route", "--stamp", "Draft", "--out", "stamped.svg")
    assert ">Draft</text>" in (extended / "stamped.svg").read_text("utf-8")


def test_a_format_is_written_by_its_ending(extended: Path) -> None:
    run(extended, "bar", "p.csv", "--by", "route", "--out", "bars.jsonl")
    marks = (extended / "bars.jsonl").read_text("utf-8").splitlines()
    assert sum('"role": "bar"' in line for line in marks) == 2
    assert ".jsonl" in run(extended, "bar", "--help", "all")


def test_a_kind_has_a_command_with_everything_kinds_have(extended: Path) -> None:
    drawn = run(extended, "tally", "p.csv", "--by", "route", "--order", "smallest-first")
    assert [line.split() for line in drawn.splitlines() if "|" in line] == [["Pell", "||"], ["Osk", "|||"]]
    run(extended, "tally", "p.csv", "--by", "route", "--except", "route=Pell", "--out", "tally.svg")
    assert (extended / "tally.svg").read_text("utf-8").count("<line ") == 3
    assert "tally" in run(extended, "--help")
