"""What each command prints and writes, on the demo data."""

import csv
import json
import signal
import subprocess
import time
from pathlib import Path
from xml.etree import ElementTree as ET

import pytest

from grainstack.cli.demo import TOUR
from tests.program.conftest import PROGRAM, Run


def test_help_lists_the_commands_and_groups_their_options(run: Run) -> None:
    assert [name for name in ("look", "table", "bar", "demo") if f"\n  {name}" in run("--help").stdout] == [
        *("look", "table", "bar", "demo")
    ]
    text = run("bar", "--help").stdout
    headings = ["Records:", "Summary:", "Order:", "Bars:", "Words on the chart:", "Picture:", "Output:"]
    assert [line for line in text.splitlines() if line in headings] == headings


def test_look_tells_what_is_there(run: Run) -> None:
    text = run("look", "passengers.csv", "--rows", "2").stdout
    assert "2,415 records, 16 columns" in text
    assert "perhaps no answer: 999" in " ".join(text.split())
    assert "app (879)" in text
    assert "multi" in text
    assert text.count("P0000") == 3
    command = next(line.strip() for line in text.splitlines() if line.startswith("  grainstack bar"))
    assert run(*command.split()[1:]).returncode == 0


def test_table_prints_figures_bases_and_what_was_left_out(run: Run) -> None:
    text = run("table", "passengers.csv", "--by", "route", "--measure", "wait", "--stat", "mean").stdout
    assert [line.split()[:3] for line in text.splitlines()[2:4]] == [["1", "684", "12.8"], ["2", "584", "13.0"]]
    assert "Base: 2,395 records; left out: 20 without wait." in text


def test_table_files_hold_the_same_figures_unrounded(run: Run, folder: Path) -> None:
    arguments = ("table", "passengers.csv", "--by", "route", "--split", "ticket", "--stat", "share")
    done = run(*arguments, "--out", "t.csv", "--out", "t.json", "--out", "t.md")
    assert done.returncode == 0
    rows = list(csv.DictReader((folder / "t.csv").read_text().splitlines()))
    content = json.loads((folder / "t.json").read_text())
    assert len(rows) == len(content["cells"]) == 30
    assert list(rows[0]) == [
        *("route", "ticket", "statistic", "estimate", "low", "high", "standard_error", "base", "flags")
    ]
    for row, cell in zip(rows, content["cells"], strict=True):
        assert float(row["estimate"]) == cell["estimate"]
        assert cell["low"] <= cell["estimate"] <= cell["high"]
    by_route: dict[str, float] = {}
    for row in rows:
        by_route[row["route"]] = by_route.get(row["route"], 0) + float(row["estimate"])
    assert list(by_route.values()) == pytest.approx([1] * 6)
    assert content["provenance"]["records_without_answer"] == {"route": 0, "ticket": 26}
    printed = run(*arguments).stdout
    assert [line.split()[1] for line in printed.splitlines()[2:8]] == [
        line.split("|")[2].strip() for line in (folder / "t.md").read_text().splitlines()[2:8]
    ]


def test_bar_draws_in_the_terminal(run: Run) -> None:
    lines = run("bar", "passengers.csv", "--by", "ticket").stdout.splitlines()
    assert lines[0] == "Number of records by ticket"
    bars = [line for line in lines if "█" in line]
    assert [line.split()[0] for line in bars] == ["app", "web", "board", "desk", "agent"]
    assert [line.split()[-1] for line in bars] == ["879", "621", "378", "376", "135"]
    assert bars[0].count("█") > bars[1].count("█") > bars[4].count("█")


def test_pictures_are_the_same_on_every_run_and_all_marks_are_found(run: Run, folder: Path) -> None:
    outs = [word for name in ("a.svg", "a.png", "a.pdf") for word in ("--out", name)]
    arguments = ("bar", "passengers.csv", "--by", "route", "--split", "ticket", "--layout", "percent", *outs)
    assert run(*arguments).returncode == 0
    first = [(folder / name).read_bytes() for name in ("a.svg", "a.png", "a.pdf")]
    assert run(*arguments).returncode == 0
    assert first == [(folder / name).read_bytes() for name in ("a.svg", "a.png", "a.pdf")]
    root = ET.fromstring(first[0])  # noqa: S314 - our own output
    bars = [item for item in root if item.get("data-role") == "bar"]
    assert len(bars) == 30
    assert {bar.get("data-series") for bar in bars} == {"app", "web", "board", "desk", "agent"}


def test_standard_input_gives_the_same_table_as_the_file(run: Run, folder: Path) -> None:
    content = (folder / "passengers.csv").read_bytes()
    piped = run("table", "-", "--by", "ticket", stdin=content).stdout
    assert piped == run("table", "passengers.csv", "--by", "ticket").stdout


def test_filters_are_said_in_the_note(run: Run) -> None:
    text = run("table", "passengers.csv", "--by", "ticket", "--only", "season=summer", "--except", "route=6").stdout
    assert "Only season: summer; Without route: 6." in text
    assert "filtered away" in text


def test_demo_builds_everything_it_names(run: Run, folder: Path) -> None:
    done = run("demo", "out")
    assert done.returncode == 0
    assert done.stdout.count("\n$ grainstack ") == len(TOUR)
    wanted = {word for _, command in TOUR for word in command.split() if word.endswith((".png", ".svg", ".pdf"))}
    assert wanted <= {item.name for item in (folder / "out").iterdir()}


def test_an_interrupt_leaves_nothing_half_written(folder: Path) -> None:
    program = subprocess.Popen(
        [PROGRAM, "table", "-", "--by", "a", "--out", "t.csv"],
        cwd=folder,
        stdin=subprocess.PIPE,
        stderr=subprocess.PIPE,
    )
    assert program.stdin is not None
    program.stdin.write(b"a,b\n1,2\n")
    program.stdin.flush()
    time.sleep(1.5)
    program.send_signal(signal.SIGINT)
    _, said = program.communicate(timeout=60)
    assert program.returncode == 130
    assert b"interrupted" in said
    assert not list(folder.glob("*t.csv*"))
