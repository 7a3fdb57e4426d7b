"""Charts of a page whose readers choose levels of further columns: each choice is the chart that stands alone."""

import re
from pathlib import Path

import pytest

from tests.program.conftest import Run, folder, run
from tests.report.test_accessibility import BROWSER, TOLD, _in_browser

__all__ = ["folder", "run"]

KINDS = {
    "shares": 'kind = "bar"\nby = "route"\nsplit = "ticket"\nstat = "share"\nlayout = "percent"',
    "limits": 'kind = "bar"\nby = "route"\nmeasure = "wait"\nerror_bars = "confidence"',
    "medians": 'kind = "dot"\nby = "route"\nmeasure = "wait"\nstat = "median"',
    "pie": 'kind = "pie"\nby = "ticket"',
    "tiles": 'kind = "treemap"\nby = ["route", "ticket"]',
    "boxes": 'kind = "distribution"\nby = "route"\nmeasure = "wait"',
}
CHOICE = """
  const outer = document.querySelector("[data-filters]");
  const choices = [...outer.querySelectorAll(".filters select")];
  const shown = () => [...outer.querySelectorAll("[data-places]")].filter((one) => one.getBoundingClientRect().height)
    .map((one) => one.dataset.places);
"""


def _plan(chart: str, filters: str, more: str = "") -> str:
    return (
        '[records]\nfile = "passengers.csv"\ncodebook = "codebook.toml"\n[[chart]]\nname = "a"\n'
        f'{chart}\n{filters}\nformats = ["html"]\n{more}'
    )


def _drawings(page: Path) -> dict[str, list[str]]:
    """The drawings of a page by the choice they are of, without the names that tell them apart."""
    text = page.read_text("utf-8")
    parts = re.split(r'data-places="([\d.]+)"', text)
    return {
        places: list(map(_anonymous, re.findall(r"<svg.*?</svg>", part, re.DOTALL))) for places, part in _pairs(parts)
    }


def _pairs(parts: list[str]) -> list[tuple[str, str]]:
    return list(zip(parts[1::2], parts[2::2], strict=True)) if len(parts) > 1 else [("", parts[0])]


def _anonymous(drawing: str) -> str:
    drawing = re.sub(r"<metadata>.*?</metadata>", "", drawing, flags=re.DOTALL)
    return re.sub(r"part-1-1[\w-]*?(?=-(?:title|about|clip|pattern|[a-z]))", "NAME", drawing)


@pytest.mark.parametrize("name", KINDS)
def test_a_choice_is_the_chart_of_those_records_alone(run: Run, folder: Path, name: str) -> None:
    (folder / "plan.toml").write_text(_plan(KINDS[name], 'filters = "season"'))
    assert run("build", "plan.toml").returncode == 0
    choices = _drawings(folder / "out/a.html")
    assert sorted(choices) == ["0", "1", "2", "3", "4"]
    for places, only in (("0", ""), ("2", 'only = ["season=Summer"]')):
        (folder / "plan.toml").write_text(_plan(KINDS[name], only))
        assert run("build", "plan.toml", "--out", f"alone{places}").returncode == 0
        alone = _drawings(folder / f"alone{places}/a.html")[""]
        assert choices[places] == alone


@pytest.mark.parametrize(
    ("plan", "words"),
    [
        (_plan(KINDS["pie"], 'filters = ["purpose", "route"]'), "a page takes up to 24"),
        (_plan(KINDS["pie"], 'filters = ["seasn"]'), "season"),
        (_plan(KINDS["pie"], 'filters = ["season", "season"]'), "each once"),
        (_plan(KINDS["pie"], "filters = 3"), "takes columns"),
        (_plan(KINDS["shares"], 'filters = "season"\nmin_base = 30\nhide_small = true'), "work out what hide_small"),
        (_plan(KINDS["pie"], 'filters = ["age"]\nband = ["age=10"]'), "cut into bands"),
        (_plan(KINDS["pie"], 'filters = "season"').replace("html", "svg"), "chosen on a page"),
        (_plan('by = "route"', 'filters = "season"').replace("chart]", "table]").replace("html", "csv"), "no filters"),
    ],
)
def test_filters_nobody_could_choose_are_refused(run: Run, folder: Path, plan: str, words: str) -> None:
    (folder / "plan.toml").write_text(plan)
    done = run("build", "plan.toml")
    assert done.returncode == 2
    assert words in " ".join(done.stderr.split())
    assert not (folder / "out").exists()


def test_a_choice_that_cannot_be_drawn_is_told_and_not_offered(run: Run, folder: Path) -> None:
    where = "where = \"not (season = 'winter' and route = 'Pell Isle')\"\nhighlight = \"Pell Isle\""
    (folder / "plan.toml").write_text(_plan(KINDS["limits"], f'filters = "season"\n{where}'))
    done = run("build", "plan.toml")
    assert done.returncode == 0, done.stderr
    assert "Winter cannot be chosen: highlight: no level `Pell Isle` is shown" in " ".join(done.stderr.split())
    assert sorted(_drawings(folder / "out/a.html")) == ["0", "1", "2", "3"]


def test_a_change_of_filters_makes_the_page_anew(run: Run, folder: Path) -> None:
    (folder / "plan.toml").write_text(_plan(KINDS["pie"], ""))
    assert run("build", "plan.toml").returncode == 0
    (folder / "plan.toml").write_text(_plan(KINDS["pie"], 'filters = "season"'))
    assert "Wrote out/a.html" in run("build", "plan.toml").stderr
    assert "Unchanged" in run("build", "plan.toml").stderr
    assert run("trace", "out/a.html").returncode == 0


@pytest.mark.skipif(BROWSER is None, reason="Chromium is not installed (Debian's chromium)")
def test_readers_choose_and_a_link_shows_the_same(run: Run, folder: Path) -> None:
    where = "where = \"not (season = 'winter' and route = 'Pell Isle')\"\nonly = [\"route=Pell Isle, Dunmar\"]"
    (folder / "plan.toml").write_text(_plan(KINDS["pie"], f'filters = ["season", "route"]\n{where}'))
    assert run("build", "plan.toml").returncode == 0
    script = """
      const seen = [shown()], name = (place, choice) => [...choices[choice].options].find((one) => one.text === place);
      const choose = (place, choice) => {
        choices[choice].value = name(place, choice).value;
        choices[choice].dispatchEvent(new Event("change"));
      };
      choose("Winter", 0); seen.push(shown());
      const offered = !name("Pell Isle", 1).disabled;
      choose("Dunmar", 1); seen.push(shown());
      return { seen, offered, hash: location.hash, said: document.querySelector("[role=status]").textContent,
               labels: [...outer.querySelectorAll(".filters label")].map((one) => one.firstChild.textContent.trim()) };
    """
    found = _in_browser(folder / "out/a.html", TOLD.format(f"(async () => {{ {CHOICE} {script} }})()"), folder, "")
    assert isinstance(found, dict)
    assert found["labels"] == ["Season", "Route"]
    assert [len(one) for one in found["seen"]] == [1, 1, 1]
    assert found["seen"] == [["0.0"], ["4.0"], ["4.2"]]
    assert not found["offered"]  # no passenger is there to be shown
    assert found["said"] == "Shown: Winter, Dunmar."
    again = _in_browser(
        folder / "out/a.html", TOLD.format(f"(async () => {{ {CHOICE} return shown(); }})()"), folder, found["hash"]
    )
    assert again == ["4.2"]
