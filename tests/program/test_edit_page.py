"""The page of `grainstack edit` worked in a browser: columns, fields, undo, and what is clicked in the picture."""

import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from grainstack.cli.edit import open_page
from tests.report.keyboard import Keyboard
from tests.report.test_accessibility import BROWSER

pytestmark = pytest.mark.skipif(BROWSER is None, reason="Chromium is not installed (Debian's chromium)")
SHOWN = """(() => {
  const part = (role) => [...document.querySelectorAll(`#picture [data-role="${role}"]`)].map((one) => one.textContent);
  const waiting = document.getElementById("picture").classList.contains("waiting");
  const names = ["undo", "redo"].filter((one) => !document.getElementById(one).disabled);
  return { waiting, title: part("title"), legend: part("legend"), bars: part("bar").length, names,
    fault: document.getElementById("fault").textContent, command: document.getElementById("command").textContent,
    focus: (document.activeElement.closest("label") || { dataset: {} }).dataset.option || "" };
})()"""
ENTER = 'dispatchEvent(new KeyboardEvent("keydown", { key: "Enter" }))'


class Page:
    """The page and what somebody does on it; each act gives what is shown afterwards."""

    def __init__(self, browser: Keyboard) -> None:
        self._browser = browser

    def after(self, script: str = "") -> dict[str, Any]:
        self._browser.value(f"(() => {{ {script}; return 1; }})()")
        while True:
            shown: dict[str, Any] = self._browser.value(SHOWN)
            if not shown["waiting"]:
                return shown

    def press(self, selector: str) -> dict[str, Any]:
        return self.after(f"document.querySelector(`{selector}`).click()")

    def fill(self, name: str, value: str) -> dict[str, Any]:
        one = f'document.querySelector(`[data-option="{name}"] input, [data-option="{name}"] select`)'
        return self.after(f'const one = {one}; one.value = "{value}"; one.dispatchEvent(new Event("change"))')

    def click(self, role: str) -> dict[str, Any]:
        part = f'document.querySelector(`#picture [data-role="{role}"]`)'
        return self.after(f'{part}.dispatchEvent(new MouseEvent("click", {{ bubbles: true }}))')

    def choose(self, words: str) -> dict[str, Any]:
        """Presses a button of what has opened over the picture."""
        buttons = '[...document.querySelectorAll("#over button")]'
        return self.after(f'{buttons}.find((one) => one.textContent === "{words}").click()')


@pytest.fixture
def page(folder: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Page]:
    monkeypatch.chdir(folder)
    server = open_page(("passengers.csv",), None)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    with Keyboard(server.address, tmp_path, "#picture svg") as browser:
        yield Page(browser)
    server.shutdown()
    server.server_close()
    thread.join()


def test_columns_and_fields_change_the_chart_and_undo_takes_it_back(page: Page) -> None:
    first = page.after()
    assert (first["bars"], first["legend"], first["names"]) == (6, [], [])
    series = page.press('[aria-label="Ticket as series"]')
    assert len(series["legend"]) == 5
    assert series["command"].endswith("--by route --split ticket")
    assert page.fill("title", "Mine")["title"] == ["Mine"]
    kept = page.fill("keep_top", "-3")
    assert "is out of range" in kept["fault"]
    assert kept["title"] == ["Mine"], "what was drawn before stays"
    undone = page.press("#undo")
    assert (undone["fault"], undone["names"]) == ("", ["undo", "redo"])
    assert page.press("#undo")["title"] != ["Mine"]
    assert page.press("#redo")["title"] == ["Mine"]
    sized = page.after('const one = document.getElementById("size"); one.value = "80x60mm"; one.onchange()')
    assert "--size 80x60mm" in sized["command"]


def test_forms_that_do_not_suit_say_why(page: Page) -> None:
    page.press('[aria-label="Ticket as series"]')
    assert page.press('#kinds [value="pie"]')["fault"], "a pie has no series"
    dots = page.press('#kinds [value="dot"]')
    assert not dots["fault"]
    assert dots["command"].startswith("grainstack dot passengers.csv --by route --split ticket")


def test_words_are_typed_and_colours_chosen_where_they_stand(page: Page) -> None:
    page.press('[aria-label="Ticket as series"]')
    page.click("title")
    typed = page.after(f'const one = document.querySelector("#over input"); one.value = "Yours"; one.{ENTER}')
    assert typed["title"] == ["Yours"]
    page.click("legend-swatch")
    assert "Agent=#" in page.press('#over [aria-label^="Agent in #"]')["command"]
    page.click("bar")
    left_out = page.choose("Leave out")
    assert "--except ticket=App" in left_out["command"]
    assert len(left_out["legend"]) == 4
    assert page.click("value")["focus"] == "label", "what has no place of its own leads to its option"


def test_levels_are_put_in_order_where_they_stand(page: Page) -> None:
    page.press('[aria-label="Ticket as series"]')
    page.click("category")
    assert "--order 'Osk Harbour, Pell Isle, Hallow Ness" in page.choose("Later")["command"]
    page.click("legend")
    assert "--split-order alphabetical" in page.choose("alphabetical")["command"]
