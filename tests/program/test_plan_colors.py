"""Colours through a whole plan: each level has one in every chart, in this build and in the next."""

import re
from pathlib import Path

from tests.program.conftest import Run

PLAN = """[records]
file = "stops.csv"

[[chart]]
name = "largest"
kind = "bar"
by = "season"
split = "stop"
split_keep_top = 4
layout = "percent"
formats = ["svg"]

[[chart]]
name = "some"
kind = "bar"
by = "season"
split = "stop"
only = ["stop=Amble, Lynn, Kirk, Dene"]
layout = "percent"
formats = ["svg"]

[[chart]]
name = "all"
kind = "bar"
by = "season"
split = "stop"
layout = "percent"
formats = ["svg"]
"""
STOPS = ("Amble", "Burn", "Corby", "Dene", "Esk", "Firth", "Garth", "Holm", "Inch", "Jura", "Kirk", "Lynn")
PALE = "#c9ced2"


def write_stops(folder: Path, stops: tuple[str, ...]) -> None:
    rows = [
        f"{season},{stop}" for season in ("Spring", "Autumn") for n, stop in enumerate(stops) for _ in range(30 - n)
    ]
    (folder / "stops.csv").write_text("\n".join(["season,stop", *rows]) + "\n", "utf-8")


def fills(folder: Path, *names: str) -> dict[str, set[str]]:
    """The fills of each level in some pictures."""
    found: dict[str, set[str]] = {}
    for name in names:
        picture = (folder / "out" / f"{name}.svg").read_text("utf-8")
        for color, stop in re.findall(r'fill="(#\w{6})"[^>]*>\s*<title>\w+, (\w+): ', picture):
            found.setdefault(stop, set()).add(color)
    return found


def test_a_level_has_one_colour_in_every_chart_of_a_plan(run: Run, folder: Path) -> None:
    write_stops(folder, STOPS)
    (folder / "plan.toml").write_text(PLAN, "utf-8")
    built = run("build", "plan.toml", "--out", "out")
    assert built.returncode == 0, built.stderr
    found = fills(folder, "largest", "some", "all")
    assert set(STOPS[:8]) < set(found)
    assert all(len(colors) == 1 for colors in found.values()), found
    ordinary = [color for stop, colors in found.items() if stop != "Other" for color in colors if color != PALE]
    assert len(set(ordinary)) == len(ordinary) == 8
    assert "colors-spent" in built.stderr


def test_no_colour_changes_in_the_next_quarter(run: Run, folder: Path) -> None:
    write_stops(folder, STOPS)
    (folder / "plan.toml").write_text(PLAN, "utf-8")
    assert run("build", "plan.toml", "--out", "out").returncode == 0
    before = fills(folder, "largest", "some", "all")
    write_stops(folder, ("Newby", *STOPS[::-1]))
    assert run("build", "plan.toml", "--out", "out").returncode == 0
    after = fills(folder, "largest", "some", "all")
    assert {stop: after[stop] for stop in before if stop in after} == {
        stop: colors for stop, colors in before.items() if stop in after
    }
    assert after["Newby"] == {PALE}
