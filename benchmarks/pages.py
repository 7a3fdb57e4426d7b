"""How fast pages react in Chromium: from a click to the frame that shows what it asked for.

Milliseconds of this machine, beside what a user is promised; the first click of a kind and the median of later ones.
"""

import subprocess
import sys
import tempfile
from pathlib import Path
from statistics import median

import numpy as np

sys.path.insert(0, str(Path(__file__).parent.parent))  # the browser is that of the tests
from tests.report.keyboard import Keyboard

ROUNDS = 5
BARS, LEAVES, OPENED = 50, 150, 1000  # milliseconds
CHARTS, MEGABYTES = 20, 1.5
OPENING = "performance.getEntriesByType('navigation')[0].loadEventEnd"
TIMER = """(async () => {
  const act = () => { %s };
  const start = performance.now();
  act();
  await new Promise((done) => requestAnimationFrame(() => {
    const channel = new MessageChannel();
    channel.port1.onmessage = done;
    channel.port2.postMessage(0);
  }));
  return performance.now() - start;
})()"""
LEGEND = (
    """document.querySelectorAll('text[data-role="legend"][role="switch"]')[%d].dispatchEvent(new Event("click"))"""
)
CHOICE = """const field = document.querySelector('select[data-part="%s"]');
  field.value = "%s"; field.dispatchEvent(new Event("change"))"""
CLICKS = {
    "a series is left out": [LEGEND % 1, LEGEND % 1],
    "side by side": [CHOICE % ("form", "grouped"), CHOICE % ("form", "stacked")],
    "percent of each bar": [CHOICE % ("of", "category"), CHOICE % ("of", "")],
    "largest first": [CHOICE % ("order", "value"), CHOICE % ("order", "")],
}
OPENINGS = {
    "a parent is opened": [
        """document.querySelector('[data-role="frame"][data-tip]').dispatchEvent(
          new MouseEvent("click", {bubbles: true}))""",
        """document.querySelector(".way button").click()""",
    ]
}


def records(file: Path, rows: int, levels: dict[str, int]) -> None:
    """Writes records of so many levels in each column."""
    random = np.random.default_rng(7)
    columns = [np.char.add(f"{name} ", random.integers(0, count, rows).astype(str)) for name, count in levels.items()]
    lines = [",".join(levels), *map(",".join, zip(*columns, strict=True))]
    file.write_text("\n".join(lines) + "\n", "utf-8")


def page(folder: Path, *arguments: str) -> Path:
    """Draws a page."""
    program, out = str(Path(sys.executable).parent / "grainstack"), folder / "page.html"
    subprocess.run([program, *arguments, "--out", str(out)], check=True, capture_output=True)
    return out


def reacted(label: str, drawn: Path, folder: Path, clicks: dict[str, list[str]], most: int) -> None:
    """Prints how long each kind of click takes, each on a page that was just opened."""
    for what, steps in clicks.items():
        with Keyboard(drawn, folder) as browser:
            browser.value("new Promise((done) => setTimeout(done, 1000))")  # a reader looks before they click
            times = [[browser.value(TIMER % step) for step in steps] for _ in range(ROUNDS)]
        first, *later = [one for pair in times for one in pair]
        print(f"{label:20} {what:22} first {first:5.0f} ms, then {median(later):5.0f} ms (at most {most})")


def report(folder: Path) -> Path:
    """A page of many charts."""
    kinds = {"bar": 'split = "answer"\nlayout = "percent"', "dot": 'split = "answer"', "pie": ""}
    entries, names = [], [f"chart{number}" for number in range(CHARTS)]
    for number, name in enumerate(names):
        kind = list(kinds)[number % len(kinds)]
        by = "answer" if kind == "pie" else "line"
        entries.append(f'[[chart]]\nname = "{name}"\nkind = "{kind}"\nby = "{by}"\n{kinds[kind]}')
    shown = ", ".join(f'"{name}"' for name in names)
    parts = f'[report]\nformats = "html"\n[[report.part]]\nshow = [{shown}]'
    plan = folder / "plan.toml"
    plan.write_text("\n".join(['[records]\nfile = "records.csv"', *entries, parts]) + "\n", "utf-8")
    program = str(Path(sys.executable).parent / "grainstack")
    subprocess.run([program, "build", str(plan)], check=True, capture_output=True)
    return folder / "out/report.html"


def opened(drawn: Path, folder: Path) -> None:
    """Prints how large a page is, and how long it takes to open."""
    times = []
    for _ in range(ROUNDS):
        with Keyboard(drawn, folder) as browser:
            times.append(browser.value(f"new Promise((done) => setTimeout(() => done({OPENING}), 200))"))
    size, took = drawn.stat().st_size / 1e6, median(times)
    print(f"{CHARTS} charts: {size:.2f} MB (at most {MEGABYTES}), opened in {took:.0f} ms (at most {OPENED})")


def main() -> None:
    """Prints one line per page and kind of click."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        file = folder / "records.csv"
        records(file, 40_000, {"stop": 60, "answer": 8})
        chart = page(folder, "bar", str(file), "--by", "stop", "--split", "answer", "--label", "value")
        reacted("60 x 8 bars", chart, folder, CLICKS, BARS)
        records(file, 20_000, {"line": 10, "answer": 5})
        opened(report(folder), folder)
        records(file, 60_000, {"region": 30, "stop": 100})
        chart = page(folder, "treemap", str(file), "--by", "region", "--by", "stop")
        reacted("3,000 leaves", chart, folder, OPENINGS, LEAVES)


if __name__ == "__main__":
    main()
