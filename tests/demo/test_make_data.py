"""The shipped demo data is what the script makes, and holds what it promises."""

import csv
import statistics
from importlib.resources import files
from pathlib import Path

import pytest

from grainstack.demo.make_data import write_all

DATA = files("grainstack.demo").joinpath("data")


def test_the_script_makes_the_shipped_files(tmp_path: Path) -> None:
    write_all(tmp_path)
    for path in tmp_path.iterdir():
        assert path.read_bytes() == DATA.joinpath(path.name).read_bytes(), path.name


@pytest.fixture(scope="module")
def waits() -> dict[str, list[int]]:
    by_route: dict[str, list[int]] = {}
    for row in csv.DictReader(DATA.joinpath("passengers.csv").read_text("utf-8").splitlines()):
        if row["wait"]:
            by_route.setdefault(row["route"], []).append(int(row["wait"]))
    return by_route


def test_the_effects_are_there(waits: dict[str, list[int]]) -> None:
    means = {route: statistics.mean(values) for route, values in waits.items()}
    assert means["3"] > 1.4 * means["1"]
    assert means["1"] == pytest.approx(means["2"], rel=0.06)
    assert means["4"] > 1.5 * statistics.median(waits["4"])
    assert sum(10 <= wait <= 24 for wait in waits["5"]) < 0.1 * len(waits["5"])
    assert len(waits["6"]) < 30
