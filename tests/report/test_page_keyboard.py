"""A chart of each kind, read and changed by nothing but keys."""

from pathlib import Path

import pytest

from tests.program.conftest import Run, folder, run
from tests.report.keyboard import Keyboard
from tests.report.test_accessibility import BROWSER

__all__ = ["folder", "run"]

pytestmark = [
    pytest.mark.soak,
    pytest.mark.skipif(BROWSER is None, reason="Chromium is not installed (Debian's chromium)"),
]
ROUTE = ("passengers.csv", "--by", "route")
FILES = ["Save as SVG", "Save as PNG", "Show as table"]
TICKETS = [f"switch {one}" for one in ("App", "Website", "Ticket desk", "On board", "Agent")]
SEASONS = [f"switch {one}" for one in ("Spring", "Summer", "Autumn", "Winter")]
STAFF = [f"switch {one}" for one in ("Very poor", "Poor", "Fair", "Good", "Very good")]
PURPOSES = [f"switch {one}" for one in ("Work", "Day trip", "School", "Visiting", "Medical", "Carrying goods")]
CHARTS = {
    "bars": (("bar", *ROUTE, "--measure", "wait"), [], ["order"]),
    "percent": (("bar", *ROUTE, "--split", "ticket", "--layout", "percent"), TICKETS, ["order", "form"]),
    "stacked": (("bar", *ROUTE, "--split", "ticket"), TICKETS, ["order", "of", "form"]),
    "diverging": (("bar", *ROUTE, "--split", "staff", "--layout", "diverging"), STAFF, ["order"]),
    "panels": (("bar", *ROUTE, "--split", "ticket", "--panel", "season"), TICKETS, ["order", "of", "form"]),
    "dots": (("dot", *ROUTE, "--split", "season", "--measure", "wait"), SEASONS, []),
    "boxes": (("distribution", *ROUTE, "--split", "season", "--measure", "wait"), SEASONS, []),
    "points": (("distribution", *ROUTE, "--measure", "wait", "--form", "points"), [], []),
    "histograms": (("distribution", *ROUTE, "--measure", "wait", "--form", "histogram"), [], []),
    "pie": (("pie", "passengers.csv", "--by", "purpose", "--legend", "right"), PURPOSES, []),
    "treemap": (("treemap", "costs.csv", "--by", "department", "--by", "item", "--measure", "amount"), [], []),
}
VALUES = """[...document.querySelectorAll("figure")].filter((one) => one.getBoundingClientRect().width)[0]
  .querySelector("svg.chart").outerHTML"""


@pytest.mark.parametrize("name", CHARTS)
def test_everything_is_reached_and_done_by_keys(name: str, run: Run, folder: Path) -> None:
    command, switches, choices = CHARTS[name]
    done = run(*command, "--out", "a.html")
    assert done.returncode == 0, done.stderr
    with Keyboard(folder / "a.html", folder) as keys:
        stops = keys.stops()
        assert sorted(stops) == sorted(["chart", *switches, *choices, *FILES])
        assert stops[0] == "chart"
        keys.go_to("chart")
        told = []
        for key in ("ArrowRight", "ArrowDown", "End"):
            keys.press(key)
            told.append(keys.said)
        assert all(told)
        assert len(set(told)) == 3
        keys.press("Escape")
        before = keys.value(VALUES)
        for stop in switches[:1]:
            keys.go_to(stop)
            keys.press("Enter")
            assert stop.removeprefix("switch ") in keys.said
            assert keys.value('document.activeElement.getAttribute("aria-checked")') == "false"
            keys.press("Shift+Enter")
            keys.press("Escape")
            assert keys.value('document.activeElement.getAttribute("aria-checked")') == "true"
            assert keys.value("location.hash") == ""
        for choice in choices:
            keys.go_to(choice)
            keys.press("ArrowDown")
            assert keys.value("location.hash").startswith("#show=chart~")
            assert keys.value(VALUES) != before
            keys.go_to("Reset")
            keys.press("Enter")
            assert keys.value("location.hash") == ""
        keys.go_to("Show as table")
        keys.press("Enter")
        keys.go_to("Copy the table")
        keys.press("Enter")
        assert keys.hear("Copied the table.")


def test_a_treemap_is_opened_and_left_by_keys(run: Run, folder: Path) -> None:
    assert run(*CHARTS["treemap"][0], "--out", "a.html").returncode == 0
    with Keyboard(folder / "a.html", folder) as keys:
        keys.go_to("chart")
        keys.press("ArrowRight", "Enter")
        assert keys.said == "All › Crew"
        keys.press("Backspace")
        assert keys.said == "All"
        keys.press("ArrowRight", "Enter")
        keys.go_to("All")  # the first step of the path
        keys.press("Enter")
        assert keys.value("location.hash") == ""
