"""Advice proves itself: what it recommends can be typed, is not what was typed, and makes it go away."""

import re
import shlex
from pathlib import Path
from random import Random

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.program.conftest import Run
from tests.soak import SOAK

# Advice on the records themselves, or on what only the maker can settle: no option makes it untrue.
_TOLD = {"sampled-within", "clusters-across-strata", "clusters-numbered-anew", "same-people", "left-out", "good-end"}
_STEP = r"--[a-z-]+ (?:'[^']*'|\"[^\"]*\"|[^\s,.;:()]+(?:\.\d+)?)"
_RECOMMENDED = re.compile(rf"(?:grainstack (?P<kind>\w+)(?: {_STEP})*)|{_STEP}(?: {_STEP})*")
_SWITCHES = {"--swap", "--opposite", "--panel"}


def write_files(folder: Path) -> None:
    """Records of several shapes beside those of the demo."""
    random = Random(8)  # noqa: S311 - made-up records
    stops = [f"Stop {n}" for n in range(60)]
    rows = [
        f"{random.choice('ABCDEFGHIJKL')},{random.choice(stops)},{random.choice([0, 0, 0, 12, 15, 40, 41])},{n},"
        f"{random.choice(['low', 'low', 'low', 'low', 'high'])}"
        for n in range(400)
    ]
    (folder / "stops.csv").write_text("pier,stop,wait,number,tide\n" + "\n".join(rows) + "\n", "utf-8")
    counts = [f"{pier},{tide},{random.randint(3, 90)}" for pier in "ABCD" for tide in ("low", "high", "slack")]
    (folder / "counts.csv").write_text("pier,tide,Freq\n" + "\n".join(counts) + "\n", "utf-8")
    means = [f"P{n},{20 + 7 * n},{3 + n}" for n in range(9)]
    (folder / "means.csv").write_text("pier,cost,years\n" + "\n".join(means) + "\n", "utf-8")


COLUMNS = {
    "passengers.csv": (("route", "season", "ticket", "purpose", "cleanliness"), ("wait", "spend", "age")),
    "stops.csv": (("pier", "stop", "tide", "number"), ("wait",)),
    "counts.csv": (("pier", "tide"), ("Freq",)),
    "means.csv": (("pier",), ("cost", "years")),
}


@st.composite
def commands(draw: st.DrawFn) -> list[str]:
    file = draw(st.sampled_from(list(COLUMNS)))
    columns, measures = COLUMNS[file]
    kind = draw(st.sampled_from(["bar", "bar", "dot", "pie", "treemap", "table"]))
    typed = [kind, file, "--by", draw(st.sampled_from(columns))]
    others = [one for one in columns if one != typed[-1]]
    if kind in ("bar", "dot", "table") and others and draw(st.booleans()):
        typed += ["--split", draw(st.sampled_from(others))]
    elif kind == "treemap" and others:
        typed += ["--by", draw(st.sampled_from(others))]
    if draw(st.booleans()):
        typed += ["--measure", draw(st.sampled_from(measures))]
        typed += ["--stat", "sum" if kind in ("pie", "treemap") else draw(st.sampled_from(["mean", "median", "sum"]))]
    if kind == "bar" and draw(st.booleans()):
        typed += ["--layout", draw(st.sampled_from(["stacked", "percent", "grouped"]))]
    if kind == "bar" and draw(st.integers(0, 3)) == 0:
        typed += ["--value-range", "3,"]
    if draw(st.integers(0, 3)) == 0:
        typed += ["--keep-top", str(draw(st.integers(3, 12)))]
    if draw(st.integers(0, 2)) == 0 and kind != "pie":
        typed += ["--error-bars", "confidence"]
    return typed


def advised(stderr: str) -> list[tuple[str, str]]:
    """The names and texts of advice."""
    return re.findall(r"^Advice \(([a-z-]+)\): (.*)$", stderr, re.MULTILINE)


def without_figures(advice: list[tuple[str, str]]) -> set[tuple[str, str]]:
    """What advice is about, whatever figures stand in it."""
    return {(name, re.sub(r"\d[\d.,]*", "", text)) for name, text in advice}


def following(typed: list[str], name: str, advice: str) -> list[list[str]]:
    """The commands that some advice recommends, each in the place of what was typed."""
    found = []
    for match in _RECOMMENDED.finditer(advice):
        words = shlex.split(match[0])
        if match["kind"]:
            continue  # another chart altogether
        steps = list(zip(words[::2], words[1::2], strict=True))
        if any(value.isupper() or option in _SWITCHES for option, value in steps):
            continue  # a place to fill in
        options = dict(steps)
        kept = [
            (option, value)
            for option, value in zip(typed[2::2], typed[3::2], strict=True)
            if option not in options
            and not (name == "already-summarised" and option in ("--measure", "--stat"))
            and not (options.get("--layout") and option == "--layout")
        ]
        found.append([*typed[:2], *(word for step in [*kept, *steps] for word in step)])
    return found


@settings(max_examples=60 * SOAK, deadline=None, suppress_health_check=list(HealthCheck))
@given(command=commands())
def test_what_advice_recommends_makes_it_go_away(run: Run, folder: Path, command: list[str]) -> None:
    write_files(folder)
    done = run(*command)
    if done.returncode:
        return
    for name, text in advised(done.stderr):
        for followed in following(command, name, text) if name not in _TOLD else ():
            assert followed != command, f"{command} is told to do as typed: {text}"
            again = run(*followed)
            assert again.returncode == 0, f"{command} is told {text}\n{followed}: {again.stderr}"
            left = without_figures(advised(again.stderr))
            assert not without_figures([(name, text)]) & left, f"{command} is told {text}\n{followed}: {again.stderr}"


@pytest.mark.parametrize(
    ("command", "name", "recommended"),
    [
        (["bar", "counts.csv", "--by", "pier"], "already-summarised", "--times Freq"),
        (["bar", "means.csv", "--by", "pier"], "already-summarised", "--value cost"),
        (["bar", "stops.csv", "--by", "number"], "too-many", "--band number=auto"),
        (["bar", "stops.csv", "--by", "stop"], "too-many", "--keep-top 1"),
        (["bar", "stops.csv", "--by", "tide", "--split", "pier"], "unequal-groups", "--layout percent"),
    ],
)
def test_advice_names_what_helps(run: Run, folder: Path, command: list[str], name: str, recommended: str) -> None:
    write_files(folder)
    assert any(one == name and recommended in text for one, text in advised(run(*command).stderr))
