"""What was compiled gives the same as what stands in for it."""

import subprocess
import sys
from pathlib import Path

import pytest

from tests.program.conftest import Run

REQUESTS = [
    ("--by", "route", "--split", "ticket"),
    ("--by", "route", "--measure", "wait", "--weight", "weight"),
    ("--by", "route", "--measure", "wait", "--stat", "median"),
    ("--by", "route", "--stat", "share", "--where", "wait > 4"),
    ("--by", "wait", "--band", "wait=5"),
    ("--by", "facilities", "--stat", "share"),
]


def _without_progress(text: str) -> list[str]:
    """Messages but for how far reading is, which is told where it takes over a second."""
    return [line for line in text.splitlines() if not line.startswith("Read ")]


@pytest.mark.soak
@pytest.mark.parametrize("request_", REQUESTS)
def test_tables_are_the_same(run_process: Run, monkeypatch: pytest.MonkeyPatch, request_: tuple[str, ...]) -> None:
    compiled = run_process("table", "passengers.csv", *request_)
    assert compiled.returncode == 0, compiled.stderr
    monkeypatch.setenv("GRAINSTACK_PURE", "1")
    pure = run_process("table", "passengers.csv", *request_)
    assert pure.stdout == compiled.stdout
    assert _without_progress(pure.stderr) == _without_progress(compiled.stderr)


def test_the_program_works_where_nothing_was_compiled(folder: Path) -> None:
    code = (
        "import sys\n"
        "for name in ('grainstack.records.kernel', 'grainstack.summary.sums.kernel'):\n"
        "    sys.modules[name] = None  # as if it were not there\n"
        "sys.argv = 'grainstack table passengers.csv --by route --measure wait --stat median'.split()\n"
        "from grainstack.cli.main import run\n"
        "sys.exit(run())\n"
    )
    done = subprocess.run([sys.executable, "-c", code], cwd=folder, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert "Median waiting time" in done.stdout
