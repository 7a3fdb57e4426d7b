"""The page of `grainstack edit` worked in a browser: columns, fields, undo, and what is clicked in the picture."""

import json
import threading
import tomllib
from collections.abc import Iterator
from contextlib import contextmanager
from importlib.resources import files
from pathlib import Path
from time import monotonic, sleep
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
  const text = (id) => document.getElementById(id).textContent;
  const menu = [...document.querySelectorAll("#menu button")].map((one) => one.textContent);
  return { waiting, title: part("title"), legend: part("legend"), bars: part("bar").length, names, menu,
    fault: text("fault"), command: document.getElementById("command").value, chips: text("slots"), heard: text("heard"),
    focus: (document.activeElement.closest("[data-option]") || { dataset: {} }).dataset.option || "" };
})()"""
AXE = """axe.run()
  .then((told) => told.violations.map((one) => `${one.id}: ${one.nodes[0].html}`))
  .catch((error) => [String(error)])
  .then((found) => { globalThis.found = found; })"""
PATIENCE = 60.0  # seconds: on a busy machine a browser takes its time
ENTER = 'dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true }))'


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

    def value(self, script: str) -> Any:  # noqa: ANN401 - of the page
        return self._browser.value(script)

    def until(self, script: str) -> Any:  # noqa: ANN401 - of the page
        """What a script gives once it gives anything."""
        end = monotonic() + PATIENCE
        while monotonic() < end:
            found = self.value(f"JSON.stringify(({script}) ?? null)")
            if found != "null":
                return json.loads(found)
            sleep(0.05)
        raise TimeoutError(script)

    def press(self, selector: str) -> dict[str, Any]:
        return self.after(f"document.querySelector(`{selector}`).click()")

    def fill(self, name: str, value: str) -> dict[str, Any]:
        groups = 'for (const one of document.querySelectorAll("#options details")) one.open = true'
        self._browser.value(f"(() => {{ {groups}; return 1; }})()")
        self.after()
        fields = ", ".join(f'[data-option="{name}"] {kind}' for kind in ("input", "select", "textarea"))
        one = f"document.querySelector(`{fields}`)"
        return self.after(f'const one = {one}; one.value = "{value}"; one.dispatchEvent(new Event("change"))')

    def use(self, column: str, slot: str) -> dict[str, Any]:
        """Presses a column and chooses what it is used for."""
        columns = '[...document.querySelectorAll(".column")]'
        self.after(f'{columns}.find((one) => one.querySelector("b").textContent === "{column}").click()')
        return self.choose(slot)

    def type_over(self, text: str) -> dict[str, Any]:
        """Types into what has opened over the picture."""
        return self.after(f'const one = document.querySelector("#menu input"); one.value = "{text}"; one.{ENTER}')

    def drag(self, role: str, place: int, onto: int) -> dict[str, Any]:
        """Drags a part just beyond another of its role."""
        script = f"""
          const every = [...document.querySelectorAll(`#picture [data-role="{role}"]`)];
          const middle = (one) => {{
            const box = one.getBoundingClientRect();
            return [box.left + box.width / 2, box.top + box.height / 2];
          }};
          const [from, to] = [middle(every[{place}]), middle(every[{onto}])];
          const at = (name, [x, y], by) =>
            by.dispatchEvent(new PointerEvent(name, {{ clientX: x, clientY: y, bubbles: true, button: 0 }}));
          at("pointerdown", from, every[{place}]);
          const beyond = to.map((one, axis) => one + 3 * Math.sign(one - from[axis]));
          at("pointermove", beyond, window);
          at("pointerup", beyond, window);
        """
        return self.after(script)

    def keys(self, *keys: str) -> dict[str, Any]:
        """Presses keys where the focus is."""
        self._browser.press(*keys)
        return self.after()

    def click(self, role: str) -> dict[str, Any]:
        part = f'document.querySelector(`#picture [data-role="{role}"]`)'
        return self.after(f'{part}.dispatchEvent(new MouseEvent("click", {{ bubbles: true }}))')

    def choose(self, words: str) -> dict[str, Any]:
        """Presses a button of what has opened over the page."""
        buttons = '[...document.querySelectorAll("#menu button")]'
        return self.after(f'{buttons}.find((one) => one.textContent === "{words}").click()')


@contextmanager
def opened(tmp_path: Path) -> Iterator[Page]:
    server = open_page(("passengers.csv",), None)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    with Keyboard(server.address, tmp_path, "#picture svg") as browser:
        yield Page(browser)
    server.shutdown()
    thread.join()
    server.server_close()


@pytest.fixture
def page(folder: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Page]:
    monkeypatch.chdir(folder)
    with opened(tmp_path) as found:
        yield found


def test_a_few_clicks_lead_from_a_file_to_a_kept_chart(
    bare: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Percent bars with a note and a colour, kept, of a file without a codebook: nine clicks, and no option typed."""
    monkeypatch.chdir(bare)
    (bare / "plan.toml").unlink()
    with opened(tmp_path) as page:
        page.use("ticket", "Series")
        page.press('#forms [value="percent"]')
        page.click("bar")
        page.choose("Note")
        page.type_over("Most by app")
        page.click("legend-swatch")
        page.choose("Colour")
        page.press('#menu [aria-label$="in #ac430e"]')
        page.press("#keep")
        told = page.type_over("tickets")
        assert told["fault"].startswith("Added tickets to plan.toml.")
    [entry] = tomllib.loads((bare / "plan.toml").read_text("utf-8"))["chart"]
    assert (entry["name"], entry["layout"], entry["split"]) == ("tickets", "percent", "ticket")
    assert entry["annotation"].endswith(": Most by app")
    assert entry["color"].endswith("=#ac430e")


def test_columns_and_fields_change_the_chart_and_undo_takes_it_back(page: Page) -> None:
    first = page.after()
    assert (first["bars"], first["legend"], first["names"]) == (6, [], [])
    series = page.use("Ticket", "Series")
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
    assert "--size 80x60mm" in page.press("#sizes button:nth-child(5)")["command"]
    assert "Ticket" not in page.press('[aria-label="Take Ticket out of Series"]')["chips"]


def test_forms_that_do_not_suit_say_why(page: Page) -> None:
    page.use("Ticket", "Series")
    pie = page.press('#forms [value="pie"]')
    assert pie["fault"].startswith("A pie shows the levels of one column.")
    dots = page.press('#forms [value="dots"]')
    assert not dots["fault"]
    assert dots["command"].startswith("grainstack dot passengers.csv --by route --split ticket")
    percent = page.press('#forms [value="percent"]')
    assert percent["command"].endswith("--layout percent")


def test_words_are_typed_and_colours_chosen_where_they_stand(page: Page) -> None:
    page.use("Ticket", "Series")
    page.click("title")
    assert page.type_over("Yours")["title"] == ["Yours"]
    page.click("legend-swatch")
    page.choose("Colour")
    assert "Agent=#" in page.press('#menu [aria-label^="Agent in #"]')["command"]
    page.click("bar")
    left_out = page.choose("Leave out")
    assert "--except ticket=App" in left_out["command"]
    assert len(left_out["legend"]) == 4
    page.click("bar")
    page.choose("Note")
    assert "--annotation 'Pell Isle, Website: busy'" in page.type_over("busy")["command"]
    page.press("#undo")  # a note at a level that is merged would be told
    page.click("bar")
    page.choose("Merge")
    assert "--recode 'ticket: Website -> Net'" in page.type_over("Net")["command"]
    page.click("value")
    assert page.choose("Label place")["focus"] == "label_place", "what has no place of its own leads to its option"


def test_levels_are_put_in_order_where_they_stand(page: Page) -> None:
    page.use("Ticket", "Series")
    page.click("category")
    assert "--order 'Osk Harbour, Pell Isle, Hallow Ness" in page.choose("Later")["command"]
    page.click("legend")
    assert "--split-order alphabetical" in page.choose("alphabetical")["command"]
    page.press("#undo")
    page.press("#undo")
    dragged = page.drag("category", 0, 2)
    assert "--order 'Osk Harbour, Hallow Ness, Pell Isle, Dunmar" in dragged["command"]
    page.press('#forms [value="percent"]')
    assert "--order 'Vey Sands, Osk Harbour" in page.drag("category", 5, 0)["command"]


def test_it_is_worked_by_keys_alone(page: Page) -> None:
    page.after('document.getElementById("picture").focus()')
    assert page.keys("ArrowRight")["heard"].startswith("title Number of passengers")
    page.keys("Enter")
    page.keys("Escape")
    page.after('document.getElementById("picture").focus()')
    assert page.keys("ArrowRight", "ArrowRight", "End")["heard"]
    page.keys("Enter")
    assert not page.after()["fault"]


def test_the_command_is_typed_and_searched(page: Page) -> None:
    typed = "grainstack dot passengers.csv --by season --measure wait"
    told = page.after(f'const one = document.getElementById("command"); one.value = "{typed}"; one.{ENTER}')
    assert told["command"] == typed
    page.press('#forms [value="bars"]')
    search = 'const one = document.getElementById("search"); one.value = "rotate names";'
    page.after(f'{search} one.dispatchEvent(new Event("input"))')
    assert page.until('document.querySelector("#options .found")?.dataset.option') == "turn_names"


def test_nothing_hinders_who_cannot_see_it(page: Page) -> None:
    """axe-core finds nothing in the page as it opens, with a menu and with a dialog."""
    axe = files("axe_core_python") / "axe.min.js"
    page.value(axe.read_text("utf-8") + "; 1")
    for step in ("", 'document.querySelector(".column").click()', 'document.getElementById("history").click()'):
        page.after(step)
        page.value(f"globalThis.found = null; {AXE}; 1")
        found = page.until("globalThis.found")
        assert found == [], step


def test_a_plan_is_built_and_its_text_stands_under_the_chart(
    folder: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(folder)
    chart = '[[chart]]\nname = "a"\nkind = "bar"\nby = "route"\n'
    part = '[report]\n[[report.part]]\ntext = "Dunmar has {{a: count, Dunmar}}, and {{a: nothing}}."\nshow = ["a"]\n'
    (folder / "plan.toml").write_text(f'[records]\nfile = "passengers.csv"\n\n{chart}\n{part}', "utf-8")
    with opened(tmp_path) as page:
        page.press("#entries button")
        assert "It has no figure" in page.until('document.querySelector("#text .fault")?.textContent')
        (folder / "plan.toml").write_text(
            f'[records]\nfile = "passengers.csv"\n\n{chart}\n{part.replace(", and {{a: nothing}}", "")}', "utf-8"
        )
        written = 'document.querySelector("#text p:not(.fault)")?.textContent.includes("has 52,133.") || null'
        assert page.until(written)
        page.press("#build")
        assert "Wrote" in page.until('document.querySelector("#dialog[open] p")?.textContent')
