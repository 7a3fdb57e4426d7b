"""Records that come through a pipe, in every command that reads records: read once, kept nowhere."""

import os
import re
import sqlite3
import subprocess
from pathlib import Path

import pytest

from tests.program.conftest import PROGRAM, Run, drawn

EVEN = b"k,v,w\na,1,2\nb,2,2\na,3,2\nb,4,2\n"  # equal counts: the order falls back to how levels were found
COMMANDS = [
    ("look",),
    ("codebook",),
    ("derive", "--band", "v=2", "--out", "derived.csv"),
    ("table", "--by", "k"),
    ("table", "--by", "k", "--measure", "v", "--stat", "sum"),
    ("table", "--by", "k", "--measure", "v", "--weight", "w"),
    ("table", "--by", "v", "--band", "v=auto"),
    ("bar", "--by", "k"),
    ("bar", "--by", "k", "--measure", "v", "--stat", "sum", "--source", "none", "--out", "made.svg"),
    ("dot", "--by", "k", "--measure", "v", "--source", "none", "--out", "made.svg"),
    ("pie", "--by", "k", "--source", "none", "--out", "made.svg"),
    ("treemap", "--by", "k", "--source", "none", "--out", "made.svg"),
    ("distribution", "--by", "k", "--measure", "v", "--form", "histogram", "--source", "none", "--out", "made.svg"),
]


def without_source(text: str) -> str:
    named = text.replace("standard input", "SOURCE").replace("even.csv", "SOURCE")
    return re.sub(r"^(  grainstack \w+) - ", r"\1 SOURCE ", named, flags=re.MULTILINE)


@pytest.mark.soak
@pytest.mark.usefixtures("bare")
@pytest.mark.parametrize("command", COMMANDS, ids=" ".join)
def test_a_pipe_gives_what_the_file_gives(run_process: Run, folder: Path, command: tuple[str, ...]) -> None:
    (folder / "even.csv").write_bytes(EVEN)
    name, *asked = command
    outputs = []
    for source in ("even.csv", "-"):
        for made in ("made.svg", "derived.csv"):
            (folder / made).unlink(missing_ok=True)
        done = run_process(name, source, *asked, stdin=EVEN)
        assert done.returncode == 0, done.stderr
        files = [drawn(folder / made).decode() for made in ("made.svg", "derived.csv") if (folder / made).exists()]
        outputs.append([without_source(text) for text in (done.stdout, *files)])
    assert outputs[0] == outputs[1]


@pytest.mark.usefixtures("bare")
def test_a_process_can_stand_for_a_file(folder: Path) -> None:
    (folder / "even.csv").write_bytes(EVEN)
    script = f"'{PROGRAM}' table <(cat even.csv) --by k --measure v --stat sum"
    done = subprocess.run(["bash", "-c", script], cwd=folder, capture_output=True, text=True, check=True)
    assert [line.split()[-1] for line in done.stdout.splitlines()[2:4]] == ["6", "4"]


@pytest.mark.usefixtures("bare")
def test_a_database_from_a_pipe_leaves_nothing_behind(folder: Path) -> None:
    connection = sqlite3.connect(folder / "even.sqlite")
    with connection:
        connection.execute("create table answers (k text, v integer)")
        connection.executemany("insert into answers values (?, ?)", [("a", 1), ("b", 2), ("a", 3)])
    connection.close()
    kept = folder / "kept"
    kept.mkdir()
    for asked in (("--by", "k"), ("--by", "nothing")):
        done = subprocess.run(
            [PROGRAM, "table", "-", *asked],
            cwd=folder,
            input=(folder / "even.sqlite").read_bytes(),
            env=os.environ | {"TMPDIR": str(kept)},
            capture_output=True,
            check=False,
        )
        assert done.returncode == (2 if "nothing" in asked else 0), done.stderr
        assert list(kept.iterdir()) == []
