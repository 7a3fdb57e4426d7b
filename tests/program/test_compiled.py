"""What was compiled gives the same as what stands in for it."""

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
