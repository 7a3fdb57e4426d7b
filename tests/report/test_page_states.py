"""Charts that answer in a browser: series hidden and isolated, order and form, the way back, and links that show it."""

import json
import re
from base64 import b64decode
from pathlib import Path
from typing import Any

import pytest
import uharfbuzz

from grainstack.language import phrase, speaking
from grainstack.report.documents.page import SCRIPT_WORDS, SCRIPTS, script
from tests.program.conftest import Run, folder, run
from tests.report.test_accessibility import BROWSER, TOLD, _in_browser
from tests.soak import daily

__all__ = ["folder", "run"]

ASSETS = Path(__file__).parents[2] / "src/grainstack/report/documents/assets"
pytestmark = pytest.mark.skipif(BROWSER is None, reason="Chromium is not installed (Debian's chromium)")
PERCENT = ("bar", "passengers.csv", "--by", "route", "--split", "ticket", "--layout", "percent")
HELPERS = """
  const figure = [...document.querySelectorAll("figure")].find((one) => one.getBoundingClientRect().width);
  const chart = figure.querySelector("svg.chart");
  const names = [...chart.querySelectorAll('text[data-role="legend"]')];
  const press = (name, key, shiftKey) =>
    name.dispatchEvent(new KeyboardEvent("keydown", { key, shiftKey, bubbles: true }));
  const click = (name) => name.dispatchEvent(new MouseEvent("click", { bubbles: true }));
  const all = (what) => [...chart.querySelectorAll(what)];
  const shown = (what) => all(what).filter((one) => one.getAttribute("visibility") !== "hidden");
  const bars = () => shown('[data-role="bar"]').map((one) => one.dataset.category + one.dataset.series);
  const values = () => shown('[data-role="value"]').map((one) => one.textContent);
  const shift = (one) => Number((one.getAttribute("transform") || "").match(/translate\\(([-\\d.]+)/)?.[1] || 0);
  const firstOf = (one, place, every) =>
    !every.slice(0, place).some((other) => other.dataset.category === one.dataset.category);
  const startOf = (one) => Math.round(Number(one.getAttribute("x")) + shift(one));
  const starts = () => shown('[data-role="bar"]').filter(firstOf).map(startOf);
  const zero = () => Math.round(Number(all('[data-role="bar"]')[0]?.getAttribute("x")));
  const later = () => new Promise((done) => setTimeout(done, 1000));
  const note = () => all('g[data-role="footnote"] text').map((one) => one.textContent).join(" ");
  const said = () => document.querySelector("[role=status]").textContent;
  const changed = / (?:data-own|transform|viewBox|aria-checked)="[^"]*"/g;
  const plain = () => chart.outerHTML.replace(/<[/]?g>|\\n/g, "").replace(changed, "");
  const look = () => ({ bars: bars(), values: values(), starts: starts(), zero: zero(), note: note(), said: said(),
    hash: location.hash, off: names.map((one) => one.getAttribute("aria-checked")),
    reset: !figure.querySelector(".reset").hidden });
"""


def _asked(folder: Path, name: str, script: str, address: str = "") -> dict[str, Any]:
    body = f"(async () => {{ {HELPERS} {script} }})()"
    found = _in_browser(folder / name, TOLD.format(body), folder, address)
    assert isinstance(found, dict)
    return found


def test_series_are_hidden_isolated_and_brought_back(run: Run, folder: Path) -> None:
    assert run(*PERCENT, "--out", "a.html").returncode == 0
    found = _asked(
        folder,
        "a.html",
        """
        const before = plain(), seen = [look()];
        click(names[0]); seen.push(look());
        press(names[1], "Enter"); seen.push(look());
        press(names[2], "Enter", true); seen.push(look());
        press(names[2], "Escape"); seen.push(look());
        return { seen, same: plain() === before };
        """,
    )
    start, hidden, two, alone, back = found["seen"]
    assert len(start["bars"]) == 30
    assert not start["reset"]
    assert len(hidden["bars"]) == 24
    assert hidden["off"] == ["false", "true", "true", "true", "true"]
    assert hidden["note"] == "Left out: App; the other figures stay as they are."
    assert hidden["said"] == hidden["note"]
    assert "31" in hidden["values"]
    assert hidden["starts"] == [hidden["zero"]] * 6  # the others close ranks
    assert "show=chart~0~~stacked~category" in hidden["hash"]
    assert len(two["bars"]) == 18
    assert alone["off"] == ["false", "false", "true", "false", "false"]
    assert alone["starts"] == [alone["zero"]] * 6
    assert alone["values"][:2] == ["10", "17"]  # shares of everybody, as they were
    assert (back["bars"], back["values"], back["hash"]) == (start["bars"], start["values"], "")
    assert found["same"] is True


def test_buttons_at_the_legend_show_a_series_alone_and_all_again(run: Run, folder: Path) -> None:
    assert run(*PERCENT, "--out", "a.html").returncode == 0
    found = _asked(
        folder,
        "a.html",
        """
        const box = figure.querySelector(".legend-buttons"), [only, every] = box.children;
        const state = () => ({ ...look(), box: !box.hidden, only: !only.hidden, every: !every.hidden });
        const seen = [state()];
        names[2].dispatchEvent(new PointerEvent("pointerenter")); seen.push(state());
        only.click(); seen.push(state());
        figure.dispatchEvent(new PointerEvent("pointerleave")); seen.push(state());
        every.click(); figure.dispatchEvent(new PointerEvent("pointerleave")); seen.push(state());
        return { seen };
        """,
    )
    start, pointed, alone, away, back = found["seen"]
    assert (start["box"], pointed["box"], pointed["only"], pointed["every"]) == (False, True, True, False)
    assert alone["off"] == ["false", "false", "true", "false", "false"]
    assert alone["values"][:2] == ["10", "17"]  # shares of everybody, as they were
    assert (alone["only"], alone["every"], away["box"]) == (False, True, True)
    assert (back["bars"], back["values"], back["box"]) == (start["bars"], start["values"], False)


def test_order_and_form_change_and_a_link_shows_the_same(run: Run, folder: Path) -> None:
    assert run("bar", "passengers.csv", "--by", "season", "--split", "ticket", "--out", "a.html").returncode == 0
    script = """
        const choose = (part, value) => { const field = figure.querySelector(`[data-part=${part}]`);
          field.value = value; field.dispatchEvent(new Event("change")); };
        const title = () => chart.querySelector('[data-role="title"]').textContent;
        const places = () => all('[data-role="category"]')
          .map((one) => [one.dataset.category, one.getBoundingClientRect()])
          .map(([category, box]) => [category, box.x + 100 * box.y])
          .sort((one, other) => one[1] - other[1]).map(([category]) => category);
        const steps = [{ ...look(), title: title(), places: places() }];
        const step = async (act) => {
          act(); await later(); steps.push({ ...look(), title: title(), places: places() }); };
        await step(() => choose("order", "value"));
        await step(() => choose("of", "category"));
        await step(() => choose("of", "all"));
        await step(() => choose("form", "grouped"));
        await step(() => figure.querySelector(".reset").click());
        return { seen: steps };
    """
    found = _asked(folder, "a.html", script)
    start, ordered, percent, of_all, grouped, back = found["seen"]
    assert start["title"] == back["title"] == "Number of passengers by season and ticket"
    assert start["places"] == back["places"] == ["spring", "summer", "autumn", "winter"]
    assert ordered["places"] == ["summer", "autumn", "spring", "winter"]
    assert percent["places"] == ordered["places"]
    assert percent["title"] == of_all["title"] == grouped["title"] == "Share of passengers by season and ticket"
    assert 95 <= sum(int(one.rstrip("*†")) for one in of_all["values"]) <= 102  # those that find room, rounded
    assert back["values"] == start["values"]
    linked = _asked(folder, "a.html", "await later(); return look();", percent["hash"])
    assert (linked["values"], linked["note"]) == (percent["values"], percent["note"])
    wrong = _asked(folder, "a.html", "return look();", "#show=chart~9.x~series:77~nonsense;%E0~1")
    assert (wrong["values"], wrong["reset"]) == (start["values"], False)


def test_a_saved_drawing_is_what_is_shown(run: Run, folder: Path) -> None:
    run(*PERCENT, "--out", "a.html")
    found = _asked(
        folder,
        "a.html",
        """
        const texts = [];
        URL.createObjectURL = (content) => { texts.push(content); return "blob:x"; };
        HTMLAnchorElement.prototype.click = function () {};
        [...figure.querySelectorAll("button")].find((one) => one.textContent === "Save as SVG").click();
        return { svg: await texts[0].text() };
        """,
        "#show=chart~0.1~series%3A2~stacked~category",
    )
    svg = str(found["svg"])
    assert svg.count('data-role="bar"') == 30
    assert len(re.findall(r'data-role="bar"[^>]*visibility="hidden"', svg)) == 12
    assert "Left out: App, Website; the other figures stay as they are." in svg


def test_a_treemap_opens_its_parents_and_goes_back_by_its_path(run: Run, folder: Path) -> None:
    asked = ("treemap", "costs.csv", "--by", "vessel", "--by", "department", "--by", "item", "--measure", "amount")
    assert run(*asked, "--out", "a.html").returncode == 0
    found = _asked(
        folder,
        "a.html",
        """
        const tiles = () => all('rect[data-role="tile"]').map((one) => one.dataset.category);
        const state = () => ({ tiles: tiles(), note: note(), said: said(), hash: location.hash,
          way: [...figure.querySelectorAll(".way button")].map((one) => one.textContent) });
        const before = plain(), seen = [state()];
        const first = all('rect[data-role="tile"]')[0];
        first.dispatchEvent(new MouseEvent("click", { bubbles: true }));
        await later(); seen.push(state());
        chart.dispatchEvent(new KeyboardEvent("keydown", { key: "ArrowRight", bubbles: true }));
        chart.dispatchEvent(new KeyboardEvent("keydown", { key: "ArrowRight", bubbles: true }));
        chart.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true }));
        await later(); seen.push(state());
        chart.dispatchEvent(new KeyboardEvent("keydown", { key: "Backspace", bubbles: true }));
        await later(); seen.push(state());
        figure.querySelector(".way button").click();
        await later(); seen.push(state());
        return { seen, same: plain() === before };
        """,
    )
    start, vessel, department, up, back = found["seen"]
    name = start["tiles"][0].split("/")[0]
    assert {one.split("/")[0] for one in vessel["tiles"]} == {name}
    assert vessel["way"] == ["All", name]
    assert vessel["note"] == vessel["said"] == f"All › {name}"
    assert len({one.split("/")[1] for one in department["tiles"]}) == 1
    assert len(department["way"]) == 3
    assert up["tiles"] == vessel["tiles"]
    assert (back["tiles"], back["hash"], found["same"]) == (start["tiles"], "", True)
    linked = _asked(folder, "a.html", "await later(); return { note: note() };", vessel["hash"])
    assert linked["note"] == vessel["note"]


def test_pointing_at_a_level_marks_it_in_the_other_charts(run: Run, folder: Path) -> None:
    (folder / "plan.toml").write_text(
        """[records]
file = "passengers.csv"
[[chart]]
name = "one"
kind = "bar"
by = "route"
split = "ticket"
layout = "percent"
[[chart]]
name = "two"
kind = "pie"
by = "ticket"
[[chart]]
name = "three"
kind = "bar"
by = "season"
[report]
formats = "html"
[[report.part]]
show = ["one", "two", "three"]
""",
        "utf-8",
    )
    assert run("build", "plan.toml").returncode == 0
    found = _asked(
        folder / "out",
        "report.html",
        """
        const linked = () => [...document.querySelectorAll(".linked")].map((one) => [one.closest("figure").dataset.name,
          one.dataset.role, one.dataset.category || one.dataset.series]);
        const seen = [];
        names[0].dispatchEvent(new PointerEvent("pointerover", { bubbles: true })); seen.push(linked());
        const slice = document.querySelector('[data-name="two"] [data-role="slice"]');
        slice.dispatchEvent(new PointerEvent("pointerover", { bubbles: true })); seen.push(linked());
        chart.dispatchEvent(new PointerEvent("pointerleave")); seen.push(linked());
        return { seen };
        """,
    )
    by_legend, by_slice, none = found["seen"]
    assert {tuple(one) for one in by_legend} == {("two", "slice", "app")}
    assert len([one for one in by_slice if one[:2] == ["one", "bar"]]) in (6, 12)  # drawn for phones too
    assert not [one for one in by_slice if one[0] == "three"]
    assert none == []


KINDS = {
    "dots": ("dot", "passengers.csv", "--by", "route", "--split", "season", "--measure", "wait"),
    "boxes": ("distribution", "passengers.csv", "--by", "route", "--split", "season", "--measure", "wait"),
    "slices": ("pie", "passengers.csv", "--by", "purpose", "--legend", "right"),
    "two axes": (
        *("bar", "passengers.csv", "--by", "season", "--split", "ticket", "--stat", "count", "--layout", "stacked"),
        *("--second-measure", "wait"),
    ),
}


@pytest.mark.parametrize("kind", daily(KINDS, [next(iter(KINDS))]))
def test_legends_of_charts_that_are_not_laid_out_anew_hide_marks(kind: str, run: Run, folder: Path) -> None:
    assert run(*KINDS[kind], "--out", "a.html").returncode == 0
    assert 'class="facts"' not in (folder / "a.html").read_text("utf-8")
    found = _asked(
        folder,
        "a.html",
        """
        const isSeen = (mark) => getComputedStyle(mark).visibility !== "hidden";
        const now = () => ({ ...look(), seen: all("[data-role]").filter(isSeen).length });
        const seen = [now()];
        click(names[0]); seen.push(now());
        press(names[1], "Enter", true); seen.push(now());
        press(names[1], "Escape"); seen.push(now());
        return { seen, name: names[0].getAttribute("aria-label") };
        """,
    )
    start, hidden, alone, back = found["seen"]
    assert start["off"][:2] == ["true", "true"]
    assert hidden["off"][:2] == ["false", "true"]
    assert hidden["note"] == hidden["said"] == f"Left out: {found['name']}; the other figures stay as they are."
    assert hidden["seen"] < start["seen"]
    assert alone["off"][:2] == ["false", "true"]
    assert "false" not in back["off"]
    assert (back["seen"], back["note"], back["hash"]) == (start["seen"], "", "")


def test_shares_are_offered_only_where_all_parts_are_shown(run: Run, folder: Path) -> None:
    asked = ("bar", "passengers.csv", "--by", "route", "--split", "purpose", "--stat", "count", "--layout", "stacked")
    offered = {}
    for name, options in {
        "whole": (),
        "cut": ("--split-keep-top", "2", "--drop-rest"),
        "fewer": ("--keep-top", "3", "--drop-rest"),
    }.items():
        assert run(*asked, *options, "--out", f"{name}.html").returncode == 0
        views = re.findall(r'data-view="([^"]*)"', (folder / f"{name}.html").read_text("utf-8"))
        offered[name] = {view.partition("~")[2] for view in views} - {""}
    assert offered == {"whole": {"category", "all"}, "cut": set(), "fewer": {"category"}}


def test_labels_cannot_leave_their_data(run: Run, folder: Path) -> None:
    lines = (folder / "passengers.csv").read_text("utf-8").replace(",summer,", ",</script><b>,").split("\n")
    (folder / "s.csv").write_text("\n".join(lines), "utf-8")
    (folder / "none.toml").write_text("", "utf-8")
    done = run("bar", "s.csv", "--codebook", "none.toml", "--by", "season", "--split", "route", "--out", "a.html")
    assert done.returncode == 0, done.stderr
    page = (folder / "a.html").read_text("utf-8")
    [block, *_] = re.findall(r'class="facts">(.*?)</script>', page)
    assert "<" not in block
    assert "<%2Fscript><b>" in json.loads(block)["movable"]["middles"]


@pytest.mark.parametrize("language", ["en", "de"])
def test_what_the_script_says_is_set_in_the_font_of_the_page(language: str, run: Run, folder: Path) -> None:
    asked = ("--by", "route", "--split", "ticket", "--language", language)
    assert run("bar", "passengers.csv", *asked, "--out", "bars.html").returncode == 0
    page = (folder / "bars.html").read_text("utf-8")
    font = re.search(r"font-family:'Source Sans Pro';font-weight:400;src:url\(data:font/ttf;base64,([^)]*)\)", page)
    assert font
    letters = {chr(code) for code in uharfbuzz.Face(b64decode(font[1])).unicodes}
    with speaking(language):
        assert set("".join(map(phrase, SCRIPT_WORDS))) <= letters


def test_the_script_is_small_and_says_what_can_be_translated() -> None:
    assert len(script().encode()) <= 30_000
    texts = "\n".join((ASSETS / name).read_text("utf-8") for name in SCRIPTS)
    assert set(re.findall(r'phrase\("([^"]*)"\)', texts)) == set(SCRIPT_WORDS)
