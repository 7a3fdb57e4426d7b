"""The page on this machine: it draws what the command draws, tells faults, keeps plans, and answers nobody else."""

import json
import shlex
import subprocess
import threading
import tomllib
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from grainstack.cli.commands import command_named
from grainstack.cli.edit import open_page
from grainstack.editing.described import described
from grainstack.editing.server import EditingServer
from grainstack.making.kinds import KINDS, kind_named
from grainstack.option_fields import entries
from tests.program.conftest import Run, drawn
from tests.report.test_accessibility import BROWSER
from tests.soak import daily

CHARTS: list[tuple[str, dict[str, Any]]] = [
    ("bar", {"by": ["route"]}),
    ("bar", {"by": ["route"], "measure": ["wait"], "error_bars": "confidence", "order": "largest-first"}),
    ("bar", {"by": ["route"], "split": "ticket", "layout": "percent", "touch": ["title: bold"]}),
    ("dot", {"by": ["season"], "measure": ["wait"], "joined": True}),
    ("pie", {"by": ["ticket"], "ring": True}),
    ("distribution", {"measure": ["wait"], "form": "histogram"}),
    ("bar", {"by": ["route"], "except": ["season=Summer"], "size": "120x80mm", "confidence": 90, "title": "A <b> & c"}),
]


@pytest.fixture
def server(folder: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[EditingServer]:
    monkeypatch.chdir(folder)
    yield from served(open_page(("passengers.csv",), None))


def served(one: EditingServer) -> Iterator[EditingServer]:
    thread = threading.Thread(target=one.serve_forever, daemon=True)
    thread.start()
    yield one
    one.shutdown()
    one.server_close()
    thread.join()


def asked(server: EditingServer, path: str, content: object, key: str | None = None, **headers: str) -> dict[str, Any]:
    address = f"http://127.0.0.1:{server.server_port}{path}"
    request = urllib.request.Request(
        address, json.dumps(content).encode(), {"X-Key": server.key if key is None else key, **headers}
    )
    with urllib.request.urlopen(request) as answer:  # noqa: S310
        found: dict[str, Any] = json.loads(answer.read())
    return found


@pytest.mark.parametrize(("kind", "values"), daily(CHARTS, CHARTS[:4]))
def test_it_draws_what_its_command_draws(
    server: EditingServer, run: Run, folder: Path, kind: str, values: dict[str, Any]
) -> None:
    told = asked(server, "/draw", {"kind": kind, "values": values})
    assert not told["fault"], told
    done = run(*shlex.split(told["command"])[1:], "--out", "x.svg")
    assert done.returncode == 0, done.stderr
    (folder / "page.svg").write_text(told["picture"], "utf-8")
    assert drawn(folder / "page.svg") == drawn(folder / "x.svg")
    (folder / "p.toml").write_text(told["entry"], "utf-8")
    [entry] = tomllib.loads(told["entry"])["chart"]
    built = run("build", "p.toml", "--out", "made")
    assert built.returncode == 0, built.stderr
    assert list((folder / "made").glob(f"{entry['name']}.*"))


def test_defaults_of_the_codebook_are_no_part_of_it(folder: Path, run: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(folder)
    book = folder / "codebook.toml"
    book.write_text(f'{book.read_text("utf-8")}\n[defaults]\npalette = "kiln"\n', "utf-8")
    for one in served(open_page(("passengers.csv",), None)):
        told = asked(one, "/draw", {"kind": "bar", "values": {"by": ["route"]}})
        assert run(*shlex.split(told["command"])[1:], "--out", "x.svg").returncode == 0
        (folder / "page.svg").write_text(told["picture"], "utf-8")
        assert drawn(folder / "page.svg") == drawn(folder / "x.svg")


def test_a_banner_table_is_the_one_of_the_command(server: EditingServer, run: Run) -> None:
    told = asked(server, "/draw", {"kind": "table", "values": {"by": ["ticket"], "banner": ["season", "route"]}})
    assert not told["fault"]
    assert "Hallow Ness" in told["picture"]
    assert "Winter" in told["picture"]
    assert run(*shlex.split(told["command"])[1:]).returncode == 0


def test_a_change_of_looks_reads_nothing(server: EditingServer, folder: Path) -> None:
    first = asked(server, "/draw", {"kind": "bar", "values": {"by": ["route"], "measure": ["wait"]}})
    (folder / "passengers.csv").unlink()
    again = asked(server, "/draw", {"kind": "bar", "values": {"by": ["route"], "measure": ["wait"], "title": "New"}})
    assert not again["fault"]
    assert ">New</text>" in again["picture"]
    dots = asked(server, "/draw", {"kind": "dot", "values": {"by": ["route"], "measure": ["wait"]}})
    assert not dots["fault"], "other marks of the same sums"
    assert first["picture"] != again["picture"]


@pytest.mark.parametrize(
    ("kind", "values", "told"),
    [
        ("bar", {"by": ["rout"]}, "no column `rout`. Did you mean `route`?"),
        ("bar", {"by": ["route"], "size": "huge"}, "“size” huge is no size"),
        ("bar", {"by": ["route"], "keep_top": "three"}, "“keep top” must be a whole number."),
    ],
)
def test_a_fault_is_told_and_nothing_is_drawn(
    server: EditingServer, kind: str, values: dict[str, Any], told: str
) -> None:
    answer = asked(server, "/draw", {"kind": kind, "values": values})
    assert told in answer["fault"]
    assert "--" not in answer["fault"]
    assert not answer["picture"]


def test_what_makes_no_difference_is_told_and_forms_that_do_not_suit(server: EditingServer) -> None:
    answer = asked(server, "/draw", {"kind": "bar", "values": {"by": ["route"], "rest_label": "x"}})
    assert answer["told"][0].startswith("No effect: “rest label” makes no difference")
    assert "distribution" in answer["unsuited"]
    assert "bar" not in answer["unsuited"]


def test_charts_are_kept_in_a_plan_and_earlier_versions_beside_it(
    server: EditingServer, run: Run, folder: Path
) -> None:
    wish = {"kind": "bar", "values": {"by": ["route"]}, "plan": "mine.toml", "name": "routes"}
    told = "Added routes to mine.toml. Wrote plan.schema.json, by which editors complete and check mine.toml."
    assert asked(server, "/save", wish)["told"] == told
    wish["values"] = {"by": ["route"], "palette": "kiln"}
    assert "palette = 'kiln' is new" in asked(server, "/save", wish)["told"]
    assert run("build", "mine.toml", "--out", "made").returncode == 0
    assert run("undo", "mine.toml").returncode == 0
    assert "palette" not in (folder / "mine.toml").read_text("utf-8")
    assert "the ending `.txt` is not known" in asked(server, "/save", {**wish, "plan": "mine.txt"})["fault"]
    assert "it is being read" in asked(server, "/save", {**wish, "plan": "codebook.toml"})["fault"]


def test_it_answers_only_its_own_page(server: EditingServer) -> None:
    wish = {"kind": "bar", "values": {"by": ["route"]}}
    for key, headers in (("", {}), ("other", {}), (None, {"Host": "elsewhere.example"})):
        with pytest.raises(urllib.error.HTTPError, match="403"):
            asked(server, "/draw", wish, key, **headers)
    for path, content in (
        ("/draw", {"kind": 3}),
        ("/draw", []),
        ("/draw", {"kind": "nothing", "values": {}}),
        ("/x", wish),
    ):
        with pytest.raises(urllib.error.HTTPError, match="400"):
            asked(server, path, content)
    with pytest.raises(urllib.error.HTTPError, match="403"):
        urllib.request.urlopen(f"http://127.0.0.1:{server.server_port}/")
    with urllib.request.urlopen(server.address) as page:  # noqa: S310
        assert "default-src 'none'" in page.headers["Content-Security-Policy"]
        text = page.read().decode()
    assert "https://" not in text.replace("http://www.w3.org", "")


def test_a_plan_opens_with_its_entry(run: Run, folder: Path) -> None:
    run(
        "bar",
        "passengers.csv",
        "--by",
        "route",
        "--split",
        "ticket",
        "--title",
        "Mine",
        "--save-plan",
        "p.toml",
        "--name",
        "a",
    )
    one = open_page((str(folder / "p.toml"), "a"), None)
    begin = one.page()
    one.server_close()
    assert '"title": "Mine"' in begin
    assert '"split": "ticket"' in begin
    done = run("edit", "p.toml", "b", "--no-browser")
    assert done.returncode != 0
    assert "has no entry `b`" in done.stderr
    assert run("edit", "nowhere.csv", "--no-browser").returncode != 0


def test_what_was_not_changed_stays_as_the_plan_says_it(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(folder)
    text = """[params]
year = "2025"

[records]
file = "passengers.csv"

[defaults]
palette = "kiln"

[[chart]]
name = "a"
kind = "bar"
by = "route"
title = "Routes in {year}" # as each year
formats = ["png", "svg"]
no_advice = "many-zeros"

[[chart.touch]]
of = "title"
bold = true
"""
    (folder / "p.toml").write_text(text, "utf-8")
    for one in served(open_page(("p.toml", "a"), None)):
        start = json.loads(one.page().partition("BEGIN = ")[2].partition(";\n")[0])["wish"]
        assert start["values"]["title"] == "Routes in 2025"
        start["values"]["keep_top"] = 3
        told = asked(one, "/save", {**start, "plan": "p.toml", "name": "a"})
        assert told == {"told": "Replaced a in p.toml: keep_top = 3 is new."}
    before, after = (tomllib.loads(one) for one in (text, (folder / "p.toml").read_text("utf-8")))
    before["chart"][0]["keep_top"] = 3
    assert after == before
    assert 'title = "Routes in {year}" # as each year' in (folder / "p.toml").read_text("utf-8")


def test_every_option_of_every_kind_is_on_the_page() -> None:
    for one in described():
        names = {option["name"] for option in one["options"]}
        every = {entry.name for model in kind_named(one["name"]).models for entry in entries(model)}
        assert {name.rstrip("_") for name in every} - names <= {"file", "codebook", "engine", "scheduler", "explain"}
    assert [one["name"] for one in described()] == list(KINDS)
    assert command_named("edit").positional is not None


@pytest.mark.skipif(BROWSER is None, reason="Chromium is not installed (Debian's chromium)")
def test_the_page_draws_in_a_browser(server: EditingServer, tmp_path: Path) -> None:
    assert BROWSER is not None
    options = [
        "--headless",
        "--no-sandbox",
        "--disable-gpu",
        f"--user-data-dir={tmp_path}",
        "--virtual-time-budget=8000",
    ]
    done = subprocess.run(
        [BROWSER, *options, "--dump-dom", server.address], capture_output=True, timeout=60, check=True
    )
    page = done.stdout.decode()
    assert 'data-role="bar"' in page
    assert "grainstack bar passengers.csv --by route" in page
    assert 'aria-label="Route as categories"' in page
