"""The tutorial: every command in it works, and prints what is shown."""

import os
import re
import subprocess
from pathlib import Path

import pytest

from tests.program.conftest import PROGRAM

pytestmark = pytest.mark.soak

DOCS = Path(__file__).parents[2] / "docs"
GUIDES = ("tutorial.md",)


def _commands(text: str) -> list[tuple[str, list[str]]]:
    """The commands of a page, each with the lines shown below it."""
    found: list[tuple[str, list[str]]] = []
    for block in re.findall(r"```console\n(.*?)```", text, re.DOTALL):
        for line in block.splitlines():
            if line.startswith("$ "):
                found.append((line[2:], []))
            else:
                found[-1][1].append(line)
    return found


def _fits(shown: list[str], printed: list[str]) -> bool:
    """Whether lines are as shown, where `…` stands for any number of them."""
    if not shown:
        return not printed
    if shown[0] == "…":
        return any(_fits(shown[1:], printed[start:]) for start in range(len(printed) + 1))
    return bool(printed) and printed[0].rstrip() == shown[0].rstrip() and _fits(shown[1:], printed[1:])


@pytest.mark.parametrize("name", GUIDES)
def test_every_command_works_and_prints_what_is_shown(folder: Path, name: str) -> None:
    place = folder
    path = f"{PROGRAM.parent}{os.pathsep}{os.environ['PATH']}"
    commands = _commands((DOCS / name).read_text("utf-8"))
    assert len(commands) > 15
    for command, shown in commands:
        if command.startswith("cd "):
            place /= command.removeprefix("cd ")
            continue
        done = subprocess.run(
            ["bash", "-c", command],
            cwd=place,
            env={**os.environ, "PATH": path, "COLUMNS": "100"},
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            check=False,
            text=True,
        )
        assert done.returncode == 0, f"{command}\n{done.stdout}"
        printed = [
            line for line in done.stdout.splitlines() if not re.match(r"Read [\d,]+ records of \S+\.", line)
        ]  # told if it takes a second
        assert _fits(shown, printed), f"{command}\n{done.stdout}"


def test_what_is_shown_is_compared() -> None:
    assert _fits(["a", "…", "c"], ["a", "b", "b", "c"])
    assert _fits(["a", "…"], ["a"])
    assert not _fits(["a", "c"], ["a", "b", "c"])
    assert not _fits([], ["a"])
