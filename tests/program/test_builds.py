"""Builds in a row: what would come out the same is left, and whatever it was made of is looked at."""

import os
import re
import signal
import subprocess
from collections.abc import Callable
from contextlib import ExitStack
from itertools import takewhile
from pathlib import Path

import pytest

from tests.program.conftest import PROGRAM, Run

PLAN = """[records]
file = "passengers.csv"

[records.costs]
file = "costs.csv"

[[chart]]
name = "wait"
kind = "bar"
by = "route"
measure = "wait"
title = "Waiting"
formats = ["svg", "png"]

[[table]]
name = "tickets"
by = "ticket"

[[table]]
name = "spending"
records = "costs"
by = "department"
measure = "amount"
"""
NAMES = ["wait", "tickets", "spending"]


@pytest.fixture
def built(run: Run, folder: Path) -> Path:
    """A folder in which the plan has been built once."""
    (folder / "plan.toml").write_text(PLAN, "utf-8")
    assert run("build", "plan.toml").returncode == 0
    return folder


def _made(run: Run, *options: str) -> list[str]:
    """The entries that a build makes, by the names of what it writes."""
    done = run("build", "plan.toml", *options)
    assert done.returncode == 0, done.stderr
    lines = [line for line in done.stderr.splitlines() if line.startswith("Wrote")]
    unchanged = next((line for line in done.stderr.splitlines() if line.startswith("Unchanged")), "")
    made = [name for name in NAMES if any(f"/{name}." in line for line in lines)]
    assert all((name in unchanged) != (name in made) for name in NAMES)
    return made


def _replace(name: str, old: str, new: str) -> Callable[[Path], None]:
    def change(folder: Path) -> None:
        path = folder / name
        text = path.read_text("utf-8")
        assert old in text
        path.write_text(text.replace(old, new, 1), "utf-8")

    return change


def _append(name: str, text: str) -> Callable[[Path], None]:
    def change(folder: Path) -> None:
        with (folder / name).open("a", encoding="utf-8") as file:
            file.write(text)

    return change


CHANGES: dict[str, tuple[Callable[[Path], object], list[str]]] = {
    "nothing": (lambda _: None, []),
    "a comment": (_replace("plan.toml", "[records]", "# Ours.\n[records]"), []),
    "the order of entries": (lambda folder: _reversed(folder / "plan.toml"), []),
    "only the time of the records": (lambda folder: os.utime(folder / "passengers.csv", (1e9, 1e9)), []),
    "a title": (_replace("plan.toml", "Waiting", "How long they wait"), ["wait"]),
    "a format": (_replace("plan.toml", '"png"', '"pdf"'), ["wait"]),
    "a filter of some records": (
        _replace("plan.toml", '"passengers.csv"', '"passengers.csv"\nwhere = "age > 20"'),
        ["wait", "tickets"],
    ),
    "one figure of the records": (_replace("costs.csv", "Marrow Gull", "Marrow Hull"), ["spending"]),
    "the codebook": (_append("codebook.toml", "\n# Checked.\n"), NAMES),
    "a style beside the records": (
        lambda folder: (folder / "style.toml").write_text('base = "print"\n', "utf-8"),
        ["wait"],
    ),
    "a style in the plan": (_replace("plan.toml", "[[chart]]", '[style]\nbase = "print"\n[[chart]]'), ["wait"]),
    "a missing output": (lambda folder: (folder / "out/wait.png").unlink(), ["wait"]),
    "an output changed by hand": (_append("out/tickets.csv", "more"), ["tickets"]),
    "a missing record": (lambda folder: (folder / "out/build.json").unlink(), NAMES),
    "a broken record": (_replace("out/build.json", "{", "["), NAMES),
}


def _reversed(plan: Path) -> None:
    records, *entries = plan.read_text("utf-8").split("[[")
    plan.write_text("[[".join([records, *entries[::-1]]), "utf-8")


@pytest.mark.parametrize("name", CHANGES)
def test_what_would_come_out_the_same_is_left(run: Run, built: Path, name: str) -> None:
    change, expected = CHANGES[name]
    change(built)
    assert _made(run) == expected
    assert _made(run) == []
    after = {path.name: path.read_bytes() for path in (built / "out").iterdir()}
    assert _made(run, "--fresh") == NAMES
    assert {path.name: path.read_bytes() for path in (built / "out").iterdir()} == after


def test_a_plan_that_is_named_otherwise_is_the_same_plan(run: Run, built: Path) -> None:
    done = run("build", str(built.resolve() / "plan.toml"))
    assert "Wrote" not in done.stderr


def test_records_on_standard_input_are_read_each_time(run: Run, built: Path) -> None:
    _replace("plan.toml", '"passengers.csv"', '"-"')(built)
    content = (built / "passengers.csv").read_bytes()
    for _ in range(2):
        done = run("build", "plan.toml", "--only", "tickets", stdin=content)
        assert "Wrote" in done.stderr, done.stderr


def test_what_the_plan_has_no_more_is_left_and_said_once(run: Run, built: Path) -> None:
    _replace("plan.toml", '[[table]]\nname = "tickets"\nby = "ticket"\n', "")(built)
    assert "In the plan no more, left as they are: out/tickets.csv." in run("build", "plan.toml").stderr
    assert (built / "out/tickets.csv").exists()
    assert "no more" not in run("build", "plan.toml").stderr


@pytest.mark.parametrize(
    ("name", "said"),
    [
        *(("costs", "it is being read"), ("passengers", "it is being read")),  # by itself, and by other entries
        ("build", "where the build keeps its record"),
    ],
)
def test_nothing_that_is_needed_is_written_over(run: Run, built: Path, name: str, said: str) -> None:
    ending = "json" if name == "build" else "csv"
    _replace("plan.toml", 'name = "spending"', f'name = "{name}"\nformats = "{ending}"')(built)
    before = [(built / file).read_bytes() for file in ("costs.csv", "passengers.csv")]
    done = run("build", "plan.toml", "--out", ".")
    assert done.returncode == 1
    assert said in done.stderr
    assert [(built / file).read_bytes() for file in ("costs.csv", "passengers.csv")] == before
    assert not (built / "wait.svg").exists()


def test_the_same_bytes_come_from_any_number_of_workers(run_process: Run, folder: Path) -> None:
    (folder / "plan.toml").write_text(PLAN, "utf-8")
    for workers in ("1", "3"):
        done = run_process("build", "plan.toml", "--out", workers, "--workers", workers)
        assert done.returncode == 0, done.stderr
    names = {path.name for path in (folder / "1").iterdir()}
    assert names == {"wait.svg", "wait.png", "tickets.csv", "spending.csv", "build.json"}
    assert all((folder / "1" / name).read_bytes() == (folder / "3" / name).read_bytes() for name in names)


def test_a_fault_met_by_a_worker_is_told_as_any_other(run_process: Run, folder: Path) -> None:
    (folder / "plan.toml").write_text(PLAN.replace('formats = ["svg"', 'size = "8x8mm"\nformats = ["svg"'), "utf-8")
    told = [run_process("build", "plan.toml", "--workers", workers) for workers in ("1", "2")]
    assert told[0].returncode == told[1].returncode == 2
    assert "plan.toml, line 7, chart wait:" in told[0].stderr
    assert told[0].stderr == told[1].stderr
    assert not (folder / "out").exists()


def test_a_quiet_build_says_nothing_unless_it_fails(run: Run, built: Path) -> None:
    assert run("build", "plan.toml", "--fresh", "--quiet").stderr == ""
    _replace("plan.toml", '"ticket"', '"tikcet"')(built)
    assert "Did you mean `ticket`?" in run("build", "plan.toml", "--quiet").stderr


def test_an_interrupted_build_leaves_what_was_there(built: Path) -> None:
    before = {path.name: path.read_bytes() for path in (built / "out").iterdir()}
    _replace("plan.toml", '"passengers.csv"', '"-"')(built)
    with subprocess.Popen([PROGRAM, "build", "plan.toml"], cwd=built, stdin=subprocess.PIPE, stderr=-1) as waiting:
        assert waiting.stdin
        waiting.stdin.write((built / "passengers.csv").read_bytes()[:70_000])  # more than a pipe holds: it reads
        waiting.stdin.flush()
        waiting.send_signal(signal.SIGINT)
        said = waiting.communicate()[1].decode()
    assert waiting.returncode == 130, said
    assert said == "grainstack: interrupted; nothing was left half-written.\n"
    assert {path.name: path.read_bytes() for path in (built / "out").iterdir()} == before


def test_a_watched_plan_is_made_again_when_a_change_is_saved_and_its_records_are_not_read_again(built: Path) -> None:
    records = built / "passengers.csv"
    command = [str(PROGRAM), "build", "plan.toml", "--watch"]
    with subprocess.Popen(command, cwd=built, stderr=-1, text=True) as watching, ExitStack() as stack:
        stack.callback(watching.kill)
        told = _told(watching)
        assert "Unchanged" in told(), "the fixture has built it"
        _replace("plan.toml", "Waiting", "How long")(built)
        assert "Wrote out/wait.svg." in told()
        figures = _tips(built / "out/wait.svg")
        text, state = records.read_text("utf-8"), records.stat()
        records.write_text(text[:-20_000] + re.sub(r"\d", "9", text[-20_000:]), "utf-8")  # it would be seen …
        os.utime(records, ns=(state.st_atime_ns, state.st_mtime_ns))  # … but nothing tells that it changed
        _replace("plan.toml", "How long", "So long")(built)
        assert "Wrote out/wait.svg." in told()
        assert "So long" in (built / "out/wait.svg").read_text("utf-8")
        assert _tips(built / "out/wait.svg") == figures
        _replace("plan.toml", 'kind = "bar"', 'kind = "bra"')(built)
        assert "kind bra is not known" in told()
        _replace("plan.toml", 'kind = "bra"', 'kind = "dot"')(built)
        assert "Wrote out/wait.svg." in told()
        _append("costs.csv", "Tarn Piper,Fuel,Lubricants,1,0\n")(built)
        assert "Wrote out/spending.csv." in told()
        (built / "style.toml").write_text('base = "print"\n', "utf-8")
        assert "Wrote out/wait.svg." in told()
        watching.send_signal(signal.SIGINT)
        assert watching.wait(60) == 130


def _tips(picture: Path) -> list[str]:
    """The figures of a picture, as its tips tell them."""
    tips = [tip for tip in re.findall("<title>.*?</title>", picture.read_text("utf-8")) if re.search(r": \d+", tip)]
    assert len(tips) > 3
    return tips


def _told(watching: "subprocess.Popen[str]") -> Callable[[], str]:
    """Gives what a watching build says about one round."""
    assert watching.stderr
    lines = iter(watching.stderr)
    return lambda: "".join(takewhile(lambda line: not line.startswith("Watching"), lines))
