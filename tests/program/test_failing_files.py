"""Disks that fail, fill up and lose their power: outputs are whole or not there, and the next run makes them all."""

import json
import re
import resource
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path
from random import Random

import pytest

from tests.program.conftest import PROGRAM, folder
from tests.soak import SOAK

pytestmark = pytest.mark.soak

__all__ = ["folder"]

DRIVER = Path(__file__).with_name("failing_files.py")
PLAN = """[records]
file = "passengers.csv"
[report]
formats = ["html", "md"]
[[report.part]]
show = ["a", "b"]
[[chart]]
name = "a"
kind = "bar"
by = "route"
split = "ticket"
formats = ["svg", "html"]
[[table]]
name = "b"
by = "route"
formats = ["csv", "xlsx"]
"""
COMMANDS = {
    "look": "look passengers.csv",
    "table": "table passengers.csv --by route "
    + " ".join(f"--out a.{ending}" for ending in ("csv", "json", "md", "xlsx", "parquet", "html")),
    "bar": "bar passengers.csv --by route --out a.svg --out a.png --out a.html",
    "build": "build small.toml --out new/deep",
    "weigh": "weigh passengers.csv --target targets.csv --out w.csv",
    "derive": "derive passengers.csv --where age>30 --out d.csv",
    "derive to Parquet": "derive passengers.csv --where age>30 --out d.parquet",
    "topline": "topline costs.csv --out t.html --save-plan t.toml",
    "codebook": "codebook costs.csv --out drafted.toml",
    "style": "palettes --style-draft drafted.toml",
    "palettes": "palettes --out pal.png",
    "check": "check small.toml",
}
UNREAD = {"style", "palettes"}  # what they show is their own


@pytest.fixture
def disk(folder: Path) -> Path:
    (folder / "small.toml").write_text(PLAN, "utf-8")
    return folder


@pytest.mark.parametrize("name", COMMANDS)
def test_one_failure_of_the_disk_anywhere_is_one_message_and_loses_nothing(disk: Path, name: str) -> None:
    command = [sys.executable, str(DRIVER), str(disk), *COMMANDS[name].split()]
    done = subprocess.run(command, capture_output=True, text=True, timeout=300, check=True)
    whole, *failures = map(json.loads, done.stdout.splitlines())
    assert whole["code"] == 0, whole["said"]
    assert len(failures) == whole["count"] > 0
    assert any(one["code"] for one in failures)
    written = {"write", "flush", "close", "os.rename"} if " --out " in COMMANDS[name] else set()
    assert {one["failed"] for one in failures} >= written | {"open", "read"} - ({"read"} if name in UNREAD else set())
    for one in failures:
        assert one["code"] in (0, 1, 2), one
        assert "nobody foresaw" not in one["said"], one
        assert "[Errno" not in one["said"], one
        assert not one["lost"], one
        assert not one["odd"], one  # neither halves nor temporary files
        assert one["same"], one
        if one["code"] and name != "check":  # it tells faults where it tells that there are none
            assert one["said"].count("grainstack: ") == 1, one


def _command(text: str) -> list[str]:
    return [str(PROGRAM), *text.split()]


def _files(folder: Path) -> dict[str, bytes]:
    return {path.relative_to(folder).as_posix(): path.read_bytes() for path in folder.rglob("*") if path.is_file()}


@pytest.mark.parametrize("name", ["table", "bar", "build", "weigh", "derive", "derive to Parquet", "topline"])
def test_a_disk_that_fills_up_leaves_what_was_there(disk: Path, name: str) -> None:
    every = PLAN.replace('"html", "md"', '"html", "docx", "pptx", "pdf", "xlsx", "md"')
    (disk / "small.toml").write_text(every, "utf-8")
    command = _command(COMMANDS[name])
    before = _files(disk)
    subprocess.run(command, cwd=disk, check=True, capture_output=True)
    after = _files(disk)
    made = sorted(set(after) - set(before))
    largest = max(len(after[one]) for one in made)
    for limit in (0, largest // 3, largest - 1):
        for one in made:
            (disk / one).unlink(missing_ok=True)

        def filled(limit: int = limit) -> None:
            resource.setrlimit(resource.RLIMIT_FSIZE, (limit, limit))

        done = subprocess.run(command, cwd=disk, capture_output=True, text=True, preexec_fn=filled, check=False)
        assert done.returncode == 1, (limit, done.stderr)
        assert "Cannot write" in done.stderr or "cannot be used" in done.stderr
        assert "Traceback" not in done.stderr
        there = _files(disk)
        assert {one: len(there[one]) for one in there} == {one: len(after[one]) for one in there}
    for one in made:
        (disk / one).unlink(missing_ok=True)
    subprocess.run(command, cwd=disk, check=True, capture_output=True)
    assert _files(disk) == after


def test_records_that_cannot_be_read_to_their_end_are_told(disk: Path) -> None:
    (disk / "broken.csv").symlink_to("/proc/self/mem")  # which opens, and then cannot be read
    for command in ("look broken.csv", "table broken.csv --by a", "derive broken.csv --out d.csv"):
        done = subprocess.run([PROGRAM, *command.split()], cwd=disk, capture_output=True, text=True, check=False)
        assert done.returncode == 1
        assert "nobody foresaw" not in done.stderr, done.stderr
        assert "broken.csv" in done.stderr or "Input/output error" in done.stderr
    assert not (disk / "d.csv").exists()


def test_a_killed_run_leaves_old_or_whole_files_and_the_next_makes_them(disk: Path) -> None:
    chance = Random(7 if SOAK == 1 else None)  # noqa: S311 - no secret
    names = [name for name in COMMANDS if name not in ("look", "check", "codebook", "style")]
    before = _files(disk)
    for name in names:
        command = _command(re.sub("--save-plan \\S+", "", COMMANDS[name]))
        begin = time.perf_counter()
        subprocess.run(command, cwd=disk, check=True, capture_output=True)
        lasts = time.perf_counter() - begin
        after = _files(disk)
        for _ in range(1 if SOAK == 1 else 6 * SOAK):
            for one in set(_files(disk)) - set(before):
                (disk / one).unlink()
            running = subprocess.Popen(command, cwd=disk, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
            time.sleep(lasts * chance.uniform(0.2, 1.05))
            running.send_signal(signal.SIGKILL)
            running.wait()
            there = {one: content for one, content in _files(disk).items() if not one.endswith(".part")}
            assert all(content == after[one] for one, content in there.items()), name
            subprocess.run(command, cwd=disk, check=True, capture_output=True)
            assert _files(disk) == after, name
        for one in set(after) - set(before):
            (disk / one).unlink()
        shutil.rmtree(disk / "new", ignore_errors=True)


def test_twenty_builds_at_once_into_one_folder_end_whole(disk: Path) -> None:
    subprocess.run([PROGRAM, "build", "small.toml", "--out", "alone"], cwd=disk, check=True, capture_output=True)
    command = _command("build small.toml --fresh --out shared")
    running = [
        subprocess.Popen(command, cwd=disk, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE) for _ in range(20)
    ]
    said = [one.communicate(timeout=200)[1] for one in running]
    assert [one.returncode for one in running] == [0] * 20, said
    assert _files(disk / "shared") == _files(disk / "alone")
