"""Options go by their earlier names too: typed, in plans, in defaults and in calls."""

from pathlib import Path
from typing import Any

import grainstack as gs
from tests.program.conftest import Run

ASKED = ("table", "passengers.csv", "--by", "route", "--measure", "wait")


def test_an_earlier_name_gives_the_same(run: Run, folder: Path) -> None:
    now = run(*ASKED, "--confidence", "80")
    assert "80 % limits" in now.stdout
    assert run(*ASKED, "--level", "80").stdout == run(*ASKED, "--level=80").stdout == now.stdout
    book = folder / "codebook.toml"
    book.write_text(f"{book.read_text('utf-8')}\n[defaults]\nlevel = 80\n", "utf-8")
    assert run(*ASKED).stdout == now.stdout


def test_plans_and_calls_know_it(run: Run, folder: Path) -> None:
    entry = '[records]\nfile = "passengers.csv"\n[defaults]\nlevel = 70\n[[table]]\nname = "t"\n'
    entry += 'by = "route"\nmeasure = "wait"\n'
    (folder / "p.toml").write_text(f'{entry}formats = ["csv"]\nlevel = 80\n', "utf-8")
    done = run("build", "p.toml", "--out", "made")
    assert done.returncode == 0, done.stderr
    run(*ASKED, "--confidence", "80", "--out", "t.csv")
    assert (folder / "made/t.csv").read_bytes() == (folder / "t.csv").read_bytes()
    asked: dict[str, Any] = {"data": folder / "passengers.csv", "by": "route", "measure": "wait"}
    earlier = asked | {"level": 80}
    assert gs.table(**earlier).figures == gs.table(**asked, confidence=80).figures
