"""The report of a plan: what it says and shows, as one page that needs nothing else."""

import re
from collections import Counter
from html.parser import HTMLParser
from pathlib import Path

import pytest

from grainstack.report.documents.commonmark import as_html
from tests.program.conftest import Run

ENTRIES = """[records]
file = "passengers.csv"

[[chart]]
name = "wait"
kind = "bar"
by = "route"
measure = "wait"
formats = "svg"

[[chart]]
name = "tickets"
kind = "bar"
by = "route"
split = "ticket"
layout = "percent"
hatch = true
formats = "svg"

[[table]]
name = "seasons"
by = "season"
split = ["ticket", "purpose"]
stat = "share"
"""
REPORT = """
[report]
title = "Waiting & <tickets>"
language = "en-GB"
formats = ["html", "md"]

[[report.part]]
heading = "First"
text = "Some *words* and <script>alert(1)</script> [a link](https://example.org)."
show = ["wait", ["tickets", "wait"]]

[[report.part]]
heading = "Second"
level = 3
show = "seasons"
caption = "A caption."
"""
VOID = {"meta", "br", "hr", "img"}


class Page(HTMLParser):
    """A page taken apart; refuses tags that are not closed in their order."""

    def __init__(self, text: str) -> None:
        super().__init__()
        self.tags: Counter[str] = Counter()
        self.ids: list[str] = []
        self.links: list[str] = []
        self.named: list[str] = []
        self._open: list[str] = []
        self.texts: dict[str, list[str]] = {}
        self.feed(text)
        assert self._open == []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.tags[tag] += 1
        values = {key: value or "" for key, value in attrs}
        self.ids += [values["id"]] if "id" in values else []
        self.links += [values[key] for key in ("src", "href") if key in values]
        self.named += values.get("aria-labelledby", "").split() + re.findall(r"url\(#([^)]+)\)", values.get("fill", ""))
        if tag not in VOID:
            self._open.append(tag)

    def handle_startendtag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.handle_starttag(tag, attrs)
        if tag not in VOID:
            self._open.pop()

    def handle_endtag(self, tag: str) -> None:
        assert self._open.pop() == tag

    def handle_data(self, data: str) -> None:
        if self._open:
            self.texts.setdefault(self._open[-1], []).append(data)


def _build(run: Run, folder: Path, text: str, *options: str) -> str:
    (folder / "plan.toml").write_text(text, "utf-8")
    done = run("build", "plan.toml", *options)
    assert done.returncode == 0, done.stderr
    return done.stderr


def test_a_report_is_one_page_that_needs_nothing_else(run: Run, folder: Path) -> None:
    assert "Wrote out/report.html." in _build(run, folder, ENTRIES + REPORT)
    text = (folder / "out/report.html").read_text("utf-8")
    page = Page(text)
    assert page.texts["h1"] == ["Waiting & <tickets>"]
    assert page.texts["h2"] == ["First"]
    assert page.texts["h3"] == ["Second"]
    assert page.tags["svg"] == 4  # the chart that stands alone is there for phones too
    assert page.tags["table"] == 1 + 3  # each chart has its own to be opened
    assert page.tags["script"] - text.count("<script type=") == 1  # text that looks like one is none
    assert len(set(page.ids)) == len(page.ids)
    assert set(page.named) <= set(page.ids)
    assert page.links == ["https://example.org"]
    assert '<html lang="en-GB">' in text
    assert "default-src 'none'" in text
    assert text.count("@font-face{") == 2
    assert re.findall(r'<th scope="colgroup" colspan="\d">([^<]+)', text) == ["Ticket", "Purpose of travel"]
    assert page.texts["p"][-1] == "A caption."


def test_charts_side_by_side_are_composed_for_their_room(run: Run, folder: Path) -> None:
    _build(run, folder, ENTRIES + REPORT)
    boxes = re.findall(r'viewBox="0 0 ([\d.]+) ([\d.]+)"', (folder / "out/report.html").read_text("utf-8"))
    assert [float(wide) for wide, _ in boxes] == [640.0, 320.0, 332.0, 332.0]
    sized = REPORT.replace('heading = "First"', 'heading = "First"\nsize = "120x80mm"')
    _build(run, folder, ENTRIES + sized)
    boxes = re.findall(r'viewBox="0 0 ([\d.]+) ([\d.]+)"', (folder / "out/report.html").read_text("utf-8"))
    assert {round(float(wide)) for wide, _ in boxes} == {340}


def test_what_has_no_room_in_a_report_is_told(run: Run, folder: Path) -> None:
    small = REPORT.replace('heading = "First"', 'heading = "First"\nsize = "60x50mm"')
    said = _build(run, folder, ENTRIES + small)
    assert "report: Advice (left-out): in tickets, no room for" in said
    assert "report: Advice" not in _build(run, folder, ENTRIES + REPORT.replace('["tickets", "wait"]', '"tickets"'))


def test_as_markdown_it_shows_the_files_beside_it(run: Run, folder: Path) -> None:
    _build(run, folder, ENTRIES + REPORT)
    text = (folder / "out/report.md").read_text("utf-8")
    assert text.startswith("# Waiting & <tickets>\n\n## First\n")
    pictures = re.findall(r"!\[[^\]]+\]\(([^)]+)\)", text)
    assert pictures == ["wait.svg", "tickets.svg", "wait.svg"]
    assert all((folder / "out" / name).is_file() for name in pictures)
    assert "| Season |" in text


def test_a_report_is_made_again_when_what_it_shows_or_says_changes(run: Run, folder: Path) -> None:
    _build(run, folder, ENTRIES + REPORT)
    assert "Wrote" not in _build(run, folder, ENTRIES + REPORT)
    said = _build(run, folder, ENTRIES + REPORT.replace("Some *words*", "Other *words*"))
    assert [line for line in said.splitlines() if line.startswith("Wrote")] == [
        *("Wrote out/report.html.", "Wrote out/report.md."),
    ]
    said = _build(run, folder, ENTRIES.replace("hatch = true\n", "") + REPORT)
    assert "Wrote out/tickets.svg." in said
    assert "Wrote out/report.html." in said
    assert "Wrote out/wait.svg." not in said
    assert "report" not in _build(run, folder, ENTRIES + REPORT, "--only", "wait")
    assert "report: report, html, md" in run("build", "plan.toml", "--list").stdout


def test_a_report_for_each_level(run: Run, folder: Path) -> None:
    each = ENTRIES.replace('name = "wait"', 'name = "wait"\nfor_each = "season"')
    report = REPORT.replace("Waiting & <tickets>", "Waiting in {season}")
    _build(run, folder, each + report)
    for season in ("spring", "summer", "autumn", "winter"):
        text = (folder / f"out/{season}/report.html").read_text("utf-8")
        assert f"<h1>Waiting in {season.capitalize()}</h1>" in text
        pictures = re.findall(r"\]\(([^)]+svg)\)", (folder / f"out/{season}/report.md").read_text("utf-8"))
        assert pictures == ["wait.svg", "../tickets.svg", "wait.svg"]
    assert not (folder / "out/report.html").exists()
    assert "Wrote" not in _build(run, folder, each + report)
    without = each.replace('"passengers.csv"', '"passengers.csv"\nexcept = "season=Winter"', 1) + report
    assert "out/winter/report.html" in _build(run, folder, without).partition("In the plan no more")[2]


FAULTS = {
    "an entry there is not": (
        'show = "seasons"',
        'show = "saesons"',
        "line 36, report part 2: there is no entry `saesons`",
    ),
    "a key": ("caption =", "captoin =", "Did you mean `caption`?"),
    "a level": ("level = 3", "level = 9", "level 9 is not known. Choose from 2, 3, 4"),
    "a format": ('["html", "md"]', '["html", "odt"]', "formats odt is not known"),
    "a size": ('heading = "First"', 'size = "3"', "is no size"),
    "a name": ('language = "en-GB"', 'name = "wait"', "there is an entry `wait` too"),
    "a name that leads elsewhere": ('language = "en-GB"', 'name = "../x"', "a name has letters, digits"),
    "a key of the report": ("language =", "langauge =", "Did you mean `language`?"),
    "a title that is none": ('"Waiting & <tickets>"', "12", "title must be text"),
    "a param": ("A caption.", "In {year}.", "there is no param `year`"),
}


@pytest.mark.parametrize("name", FAULTS)
def test_faults_of_a_report_are_told(run: Run, folder: Path, name: str) -> None:
    old, new, said = FAULTS[name]
    assert old in REPORT
    (folder / "plan.toml").write_text(ENTRIES + REPORT.replace(old, new), "utf-8")
    done = run("build", "plan.toml")
    assert done.returncode == 2
    assert said in done.stderr
    assert not (folder / "out").exists()


def test_a_picture_that_has_no_room_in_a_report_stops_the_build(run: Run, folder: Path) -> None:
    small = REPORT.replace('heading = "First"', 'size = "50x50mm"')
    (folder / "plan.toml").write_text(
        ENTRIES.replace('by = "route"\nmeasure', 'by = "sailing"\nsize = "2800x1750px"\nmeasure') + small, "utf-8"
    )
    done = run("build", "plan.toml")
    assert done.returncode == 2
    assert "report report: " in done.stderr
    assert not (folder / "out").exists()


def test_text_is_commonmark_and_markup_in_it_is_shown() -> None:
    assert as_html("**a** <b>c</b>") == "<p><strong>a</strong> &lt;b&gt;c&lt;/b&gt;</p>"
    assert "javascript:" not in as_html("[x](javascript:alert(1))").replace("[x](javascript:alert(1))", "")
