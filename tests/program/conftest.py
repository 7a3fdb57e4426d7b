"""Runs the installed program in a folder of its own."""

import re
import subprocess
import sys
from collections.abc import Callable
from importlib.resources import files
from io import BytesIO, TextIOWrapper
from pathlib import Path

import pytest
from PIL import Image

from grainstack.cli.main import run as program
from grainstack.making.trace import KEYWORD

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
def run(folder: Path, monkeypatch: pytest.MonkeyPatch) -> Run:
    """Runs `grainstack` there, in this process, and gives its exit code and what it said."""
    monkeypatch.chdir(folder)

    def running(*arguments: str, stdin: bytes = b"") -> "subprocess.CompletedProcess[str]":
        buffers = (BytesIO(), BytesIO())
        with monkeypatch.context() as patched:
            patched.setattr(sys, "argv", ["grainstack", *arguments])
            patched.setattr(sys, "stdin", TextIOWrapper(BytesIO(stdin), encoding="utf-8"))
            streams = [TextIOWrapper(buffer, encoding="utf-8", write_through=True) for buffer in buffers]
            patched.setattr(sys, "stdout", streams[0])
            patched.setattr(sys, "stderr", streams[1])
            code = program()
        output, messages = (buffer.getvalue().decode() for buffer in buffers)
        return subprocess.CompletedProcess(arguments, code, output, messages)

    return running


@pytest.fixture
def run_process(folder: Path) -> Run:
    """The same in a process of its own, with a pipe as standard input."""

    def running(*arguments: str, stdin: bytes | None = None) -> "subprocess.CompletedProcess[str]":
        finished = subprocess.run(  # noqa: PLW1510 - the exit code is what tests look at
            [PROGRAM, *arguments], cwd=folder, input=stdin, capture_output=True, timeout=120
        )
        return subprocess.CompletedProcess(
            finished.args, finished.returncode, finished.stdout.decode(), finished.stderr.decode()
        )

    return running


def drawn(path: Path) -> bytes:
    """A picture or table without where it comes from: what is seen of it."""
    content = path.read_bytes()
    if path.suffix == ".png":
        with Image.open(path) as picture:
            about = {key: value for key, value in picture.info.items() if key != KEYWORD}
            return repr(about).encode() + picture.tobytes()
    return re.sub(rb"<metadata>.*?</metadata>\n", b"", content, flags=re.DOTALL)
