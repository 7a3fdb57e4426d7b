"""Looks asked for by hand: colours, names at marks, two sides; what a small picture leaves out is said."""

from pathlib import Path
from typing import TYPE_CHECKING

import pytest

from tests.program.conftest import Run

if TYPE_CHECKING:
    import subprocess

MEANS = ("bar", "p.csv", "--by", "route", "--measure", "wait")
ROWS = [
    f"{route},{kind},{wait}"
    for route in ("Pell Isle", "Osk Harbour", "Dunmar")
    for kind, waits in (("Work", (4, 8)), ("Visit", (10, 20)))
    for wait in waits
]


@pytest.fixture
def asked(run: Run, bare: Path) -> Run:
    """The program beside a small file of waits, its exit code checked."""
    bare.joinpath("p.csv").write_text("\n".join(["route,kind,wait", *ROWS]), "utf-8")

    def running(*arguments: str, code: int = 0) -> "subprocess.CompletedProcess[str]":
        done = run(*arguments)
        assert done.returncode == code, done.stderr
        return done

    return running


def _svg(folder: Path) -> str:
    return (folder / "x.svg").read_text("utf-8")


def test_colours_have_names(asked: Run, folder: Path) -> None:
    asked(*MEANS, "--color", "Dunmar=rebeccapurple", "--out", "x.svg")
    assert "#663399" in _svg(folder)
    failed = asked(*MEANS, "--color", "Dunmar=notacolour", "--out", "x.svg", code=2)
    assert "by its name in CSS" in failed.stderr


def test_categories_can_be_their_own_series(asked: Run, folder: Path) -> None:
    asked(*MEANS, "--split", "route", "--out", "x.svg")
    by_split = _svg(folder)
    asked(*MEANS, "--color-by-category", "--out", "x.svg")
    assert _svg(folder) == by_split
    assert len({color for color in ("#1a726a", "#ddb227", "#414076") if color in by_split}) == 3


def test_names_can_stand_at_marks_and_then_nowhere_else(asked: Run, folder: Path) -> None:
    asked(*MEANS, "--label", "name, value", "--out", "x.svg")
    assert "Dunmar 10.5" in _svg(folder)
    assert 'data-role="category"' not in _svg(folder)
    assert asked(*MEANS, "--label", "name, value").stdout == asked(*MEANS).stdout  # a terminal has them at the left


def test_means_of_two_series_stand_back_to_back(asked: Run, folder: Path) -> None:
    asked(*MEANS, "--split", "kind", "--stat", "mean", "--layout", "diverging", "--out", "x.svg")
    assert _svg(folder).count('data-role="bar"') == 6


def test_what_had_no_room_is_counted(asked: Run) -> None:
    done = asked(
        *MEANS, "--title", "A title that is much too long for so small a picture", "--size", "40x36mm", "--out", "x.svg"
    )
    assert "Advice (left-out)" in done.stderr
    quiet = asked(*MEANS, "--size", "40x36mm", "--no-advice", "left-out", "--out", "x.svg")
    assert "left-out" not in quiet.stderr


def test_a_picture_too_small_for_its_names_is_refused_with_one_that_works(asked: Run, folder: Path) -> None:
    rows = "\n".join(f"place {n}" for n in range(60))
    folder.joinpath("many.csv").write_text(f"place\n{rows}\n", "utf-8")
    failed = asked("bar", "many.csv", "--by", "place", "--size", "60x45mm", "--out", "x.png", code=2)
    assert "categories would have no name" in failed.stderr
    size = failed.stderr.partition("works is --size ")[2].partition(";")[0]
    asked("bar", "many.csv", "--by", "place", "--size", size, "--out", "x.png")
    assert (folder / "x.png").exists()


def test_a_legend_that_has_no_room_where_it_was_asked_for_is_said(asked: Run) -> None:
    crowded = asked(
        *MEANS,
        "--split",
        "kind",
        "--stat",
        "mean",
        "--legend",
        "direct",
        "--layout",
        "grouped",
        "--direction",
        "vertical",
        "--out",
        "x.svg",
    )
    assert "so it stands at the top" in crowded.stderr
