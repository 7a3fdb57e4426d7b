"""Pages in a browser: exact figures by pointer and keys, the table behind a chart, files and copies."""

import re
from base64 import b64encode
from hashlib import sha256
from pathlib import Path

import pytest

from tests.program.conftest import Run, folder, run
from tests.report.test_accessibility import BROWSER, TOLD, _in_browser
from tests.soak import daily

__all__ = ["folder", "run"]

CHARTS = {
    "bar": ("bar", "passengers.csv", "--by", "route", "--measure", "wait", "--error-bars", "confidence", "--letters"),
    "stacked": ("bar", "passengers.csv", "--by", "route", "--split", "ticket", "--layout", "percent"),
    "dot": ("dot", "passengers.csv", "--by", "season", "--measure", "wait"),
    "pie": ("pie", "passengers.csv", "--by", "ticket"),
    "treemap": ("treemap", "costs.csv", "--by", "department", "--by", "item", "--measure", "amount"),
    "histogram": ("distribution", "passengers.csv", "--measure", "wait", "--form", "histogram"),
}
KEYS = """(async () => {
  const chart = [...document.querySelectorAll("svg.chart")].find((one) => one.getBoundingClientRect().width);
  const tip = document.querySelector(".tip"), status = document.querySelector("[role=status]"), seen = [];
  chart.focus();
  for (const key of ["ArrowRight", "ArrowDown", "ArrowLeft", "End", "Escape"]) {
    chart.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true }));
    seen.push([tip.hidden, tip.textContent, status.textContent]);
  }
  const mark = chart.querySelector("[data-tip]");
  mark.dispatchEvent(new PointerEvent("pointerover", { bubbles: true }));
  seen.push([tip.hidden, tip.textContent, mark.classList.contains("pointed")]);
  const count = (what) => chart.querySelectorAll(what).length;
  return { seen, marks: count("[data-tip]"), left: count("[data-role] > title") };
})()"""
FILES = """(async () => {
  const saved = [], texts = [];
  URL.createObjectURL = (content) => { texts.push(content); return "blob:x"; };
  HTMLAnchorElement.prototype.click = function () { saved.push(this.download); };
  const figure = [...document.querySelectorAll("figure")].find((one) => one.getBoundingClientRect().width);
  for (const one of figure.querySelectorAll("button")) one.click();
  await new Promise((done) => setTimeout(done, 2000));
  document.querySelector("details").open = true;
  let copied = "";
  document.execCommand = () => { copied = document.activeElement.value; return true; };
  Object.defineProperty(navigator, "clipboard", { value: undefined });
  document.querySelector(".copy").click();
  return { saved, svg: await texts[0].text(), png: texts[1] ? texts[1].type : "", copied };
})()"""
pytestmark = pytest.mark.skipif(BROWSER is None, reason="Chromium is not installed (Debian's chromium)")


@pytest.mark.parametrize("name", daily(CHARTS, [next(iter(CHARTS))]))
def test_every_mark_tells_its_figure_to_pointer_and_keys(run: Run, folder: Path, name: str) -> None:
    done = run(*CHARTS[name], "--out", "a.html", "--out", "a.svg")
    assert done.returncode == 0, done.stderr
    found = _in_browser(folder / "a.html", TOLD.format(KEYS), folder)
    first, second, back, last, escaped, pointed = found["seen"]
    assert found["left"] == 0
    assert found["marks"] == len(re.findall(r"<title>", (folder / "a.svg").read_text("utf-8")))
    assert first[0] is False
    assert first[1] == first[2] == back[1] != second[1]
    assert last[1] != first[1] or found["marks"] < 2
    assert escaped[0] is True
    assert pointed == [False, first[1], True]


def test_a_tip_says_all_that_is_known_of_a_figure(run: Run, folder: Path) -> None:
    run(*CHARTS["bar"], "--out", "a.svg")
    tips = re.findall("<title>(.*?)</title>", (folder / "a.svg").read_text("utf-8"))
    assert "Pell Isle: 12.7 minutes, limits 12.1 to 13.3, n = 684, letters a" in tips
    assert "Vey Sands: 20.6* minutes, limits 17.4 to 23.9, n = 27, letters bc" in tips


def test_files_and_copies_are_those_of_the_chart(run: Run, folder: Path) -> None:
    run(*CHARTS["stacked"], "--out", "a.html")
    found = _in_browser(folder / "a.html", TOLD.format(FILES), folder)
    assert found["saved"] == ["chart.svg", "chart.png"]
    assert found["png"] == "image/png"
    assert "@font-face" in found["svg"]
    assert "data-tip" not in found["svg"]
    assert "<title>Pell Isle, App: 54 %, n = 679</title>" in found["svg"]
    rows = [line.split("\t") for line in found["copied"].splitlines()]
    assert rows[0] == ["Route", "App", "Website", "Ticket desk", "On board", "Agent", "n"]
    assert rows[1] == ["Pell Isle", "54", "31", "10", "3", "2", "679"]


def test_nothing_but_its_own_script_may_run_in_a_page(run: Run, folder: Path) -> None:
    run("bar", "passengers.csv", "--by", "route", "--title", "</script><script>alert(1)</script>", "--out", "a.html")
    text = (folder / "a.html").read_text("utf-8")
    scripts = re.findall(r"<script>(.*?)</script>", text, re.DOTALL)
    assert len(scripts) == 1
    assert len(scripts[0].encode()) < 30_000
    allowed = b64encode(sha256(scripts[0].encode()).digest()).decode()
    assert f"script-src 'sha256-{allowed}'" in text
    assert "default-src 'none'" in text
    assert not re.search(r"(src|href)=\"(?!#|data:)", text)


def test_without_a_script_the_page_has_chart_and_table(run: Run, folder: Path) -> None:
    run(*CHARTS["bar"], "--out", "a.html")
    text = re.sub(r"<script>.*?</script>", "", (folder / "a.html").read_text("utf-8"), flags=re.DOTALL)
    assert "<details><summary>Show as table</summary>" in text
    assert '<th scope="row">Dunmar</th>' in text
    assert text.count("<svg") == 2


def test_plans_write_pages_of_charts_too(run: Run, folder: Path) -> None:
    chart = '[[chart]]\nname = "a"\nkind = "bar"\nby = "route"\nformats = ["html", "svg"]\n'
    report = '[report]\nformats = "md"\n[[report.part]]\nshow = "a"\n'
    (folder / "plan.toml").write_text(f'[records]\nfile = "passengers.csv"\n{chart}{report}', "utf-8")
    done = run("build", "plan.toml")
    assert done.returncode == 0, done.stderr
    assert (folder / "out/a.html").is_file()
    assert "(a.svg)" in (folder / "out/report.md").read_text("utf-8")
