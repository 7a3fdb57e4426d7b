"""Runs the installed program in a folder of its own."""

import subprocess
import sys
from collections.abc import Callable
from importlib.resources import files
from pathlib import Path

import pytest

PROGRAM = Path(sys.executable).parent / "grainstack"
Run = Callable[..., "subprocess.CompletedProcess[str]"]


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A folder with the demo data."""
    for item in files("grainstack.demo").joinpath("data").iterdir():
        (tmp_path / item.name).write_bytes(item.read_bytes())
    return tmp_path


@pytest.fixture
def bare(folder: Path) -> Path:
    """The same folder without its codebook."""
    (folder / "codebook.toml").unlink()
    return folder


@pytest.fixture
def run(folder: Path) -> Run:
    """Runs `grainstack` there and gives its exit code and what it said."""

    def running(*arguments: str, stdin: bytes | None = None) -> "subprocess.CompletedProcess[str]":
        finished = subprocess.run(  # noqa: PLW1510 - the exit code is what tests look at
            [PROGRAM, *arguments], cwd=folder, input=stdin, capture_output=True, timeout=120
        )
        return subprocess.CompletedProcess(
            finished.args, finished.returncode, finished.stdout.decode(), finished.stderr.decode()
        )

    return running
