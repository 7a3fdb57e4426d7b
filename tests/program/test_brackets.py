"""Brackets tell the differences the table tests, stand over nothing, and are told where they cannot stand."""

import json
import re
from pathlib import Path

import pytest

from grainstack.chart.bars.bar_request import BarRequest
from grainstack.chart.marks import Line, MarkRole, Text
from grainstack.chart.scene import Scene
from grainstack.making.kinds import kind_named
from grainstack.making.make import make
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import filled
from tests.chart.scenes import check
from tests.program.conftest import Run

MEANS = ("bar", "passengers.csv", "--by", "season", "--measure", "wait")
SEASONS = ("Spring", "Summer", "Autumn", "Winter")


def drawn(folder: Path, **asked: object) -> Scene:
    kind = kind_named("bar")
    requests = filled(kind.models, {"file": (str(folder / "passengers.csv"),), **asked})
    assert requests[BarRequest].bracket
    return make(kind, requests, open_records(requests[RecordsRequest])).picture()


def differences(scene: Scene) -> list[Text]:
    return [mark for mark in scene.marks if isinstance(mark, Text) and mark.role is MarkRole.DIFFERENCE]


@pytest.mark.parametrize("pair", [("Spring", "Summer"), ("Winter", "Summer"), ("Autumn", "Winter")])
def test_a_bracket_tells_the_difference_of_the_table(run: Run, folder: Path, pair: tuple[str, str]) -> None:
    run("table", *MEANS[1:], "--compare", "pairs", "--out", "t.json")
    tested = json.loads((folder / "t.json").read_text("utf-8"))["differences"]
    one = next(one for one in tested if {one["season"], one["compared_with"]} == set(pair))
    estimate = one["difference"] if one["season"] == pair[1] else -one["difference"]
    done = run(*MEANS, "--bracket", ", ".join(pair), "--out", "b.svg")
    assert done.returncode == 0, done.stderr
    text = (folder / "b.svg").read_text("utf-8")
    p_value = "&lt; 0.001" if one["adjusted_p"] < 0.001 else f"= {one['adjusted_p']:.3f}"
    wanted = f"{estimate:+.1f} minutes, p {p_value}".replace("-", "−")
    assert f">{wanted}</text>" in text
    assert f"{pair[1]} less {pair[0]}: {wanted}." in text, "for readers who cannot see it"
    assert "6 comparisons adjusted by Holm" in text


@pytest.mark.parametrize("size", ["160x100mm", "90x70mm", "250x140mm"])
@pytest.mark.parametrize("direction", ["vertical", "horizontal"])
@pytest.mark.parametrize("several", [False, True])
def test_brackets_stand_over_nothing(folder: Path, size: str, direction: str, *, several: bool) -> None:
    every = tuple(f"{a}, {b}" for place, a in enumerate(SEASONS) for b in SEASONS[place + 1 :])
    split = {"split": "route", "only": ("route=1,2,4",)} if several else {}
    wanted = ("Spring, Summer, Pell Isle", "Autumn, Winter, Dunmar") if several else every
    scene = drawn(
        folder,
        by=("season",),
        measure=("wait",),
        bracket=wanted,
        size=size,
        direction=direction,
        label="value",
        **split,
    )
    check(scene)
    found = differences(scene)
    missing = dict(scene.left_out).get(MarkRole.DIFFERENCE, 0)
    assert len(found) + missing == len(wanted)
    assert found or size == "90x70mm"
    assert missing == 0 or len(wanted) > 2
    lines = [mark for mark in scene.marks if isinstance(mark, Line) and mark.role is MarkRole.BRACKET]
    assert len(lines) == 3 * len(found)
    for text in found:
        left, top, right, bottom = text.box
        for line in lines:
            across = min(right, max(line.x1, line.x2)) - max(left, min(line.x1, line.x2))
            assert across < 0 or min(bottom, max(line.y1, line.y2)) - max(top, min(line.y1, line.y2)) < 0


def test_a_bracket_of_series_stands_in_each_group_that_has_both(folder: Path) -> None:
    scene = drawn(
        folder, by=("season",), split="route", only=("route=1,2",), measure=("wait",), bracket=("Spring, Summer",)
    )
    assert len(differences(scene)) == 2


@pytest.mark.parametrize(
    ("typed", "message"),
    [
        ((*MEANS, "--bracket", "Spring"), "goes from one bar to another"),
        ((*MEANS, "--bracket", "Spring, Sumer"), "no bar of `Sumer` is shown"),
        (("bar", "passengers.csv", "--by", "season", "--bracket", "Spring, Summer"), "two means, shares or rates"),
        ((*MEANS, "--compare", "rest", "--bracket", "Spring, Summer"), "not compared with each other here"),
        ((*MEANS, "--split", "route", "--bracket", "Pell Isle, Dunmar"), "Compared are levels of Season"),
        (
            ("bar", "passengers.csv", "--by", "season", "--split", "staff", "--layout", "percent", "--bracket", "a, b"),
            "stand on",
        ),
    ],
)
def test_what_cannot_be_bracketed_is_told(run: Run, folder: Path, typed: tuple[str, ...], message: str) -> None:
    done = run(*typed, "--out", "x.svg")
    assert done.returncode == 2
    assert message in re.sub(r"\s+", " ", done.stderr)
    assert not (folder / "x.svg").exists()


def test_a_difference_of_shares_is_told_in_points_whatever_the_pattern_of_figures(run: Run, folder: Path) -> None:
    typed = ("bar", "passengers.csv", "--by", "season", "--split", "ticket", "--stat", "share", "--layout", "grouped")
    more = ("--compare", "pairs", "--format", "0.0 %", "--bracket", "Spring, Summer, Website", "--out", "x.svg")
    done = run(*typed, *more)
    assert done.returncode == 0, done.stderr
    assert re.search(r">[+−][\d.]+ points, p [=&]", (folder / "x.svg").read_text("utf-8"))
