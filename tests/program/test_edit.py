"""The page on this machine: it draws what the command draws, tells faults, keeps plans, and answers nobody else."""

import json
import queue
import re
import shlex
import threading
import tomllib
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Iterator, Mapping
from contextlib import closing
from http import HTTPStatus
from http.client import HTTPConnection
from pathlib import Path
from typing import Any

import pytest

import grainstack
from grainstack.chart.marks import MarkRole
from grainstack.cli.commands import command_named
from grainstack.cli.edit import open_page
from grainstack.editing.described import described
from grainstack.editing.parts import PARTS
from grainstack.editing.server import EditingServer
from grainstack.editing.state import entries_of
from grainstack.errors import RequestError
from grainstack.making.kinds import KINDS, kind_named
from grainstack.option_fields import entries
from tests.program.conftest import Run, drawn
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
    thread.join()
    one.server_close()


class Client:
    """What the page does: it has the cookie that its address gave it, and asks for one thing after the other."""

    def __init__(self, server: EditingServer) -> None:
        self._opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
        self._at = f"http://127.0.0.1:{server.server_port}"
        self.page = self._opener.open(server.address).read().decode()
        self.begin: dict[str, Any] = self.get("/begin")

    def get(self, path: str) -> Any:  # noqa: ANN401 - as the path has it
        with self._opener.open(self._at + path) as answer:
            return json.loads(answer.read())

    def file(self, path: str) -> bytes:
        with self._opener.open(self._at + path) as answer:
            found: bytes = answer.read()
        return found

    def do(self, what: str, content: object = None, **headers: str) -> dict[str, Any]:
        body = json.dumps({} if content is None else content).encode()
        request = urllib.request.Request(f"{self._at}/do/{what}", body, headers)  # noqa: S310 - our own address
        with self._opener.open(request) as answer:
            found: dict[str, Any] = json.loads(answer.read())
        return found

    def set(self, kind: str | None = None, **options: Any) -> dict[str, Any]:  # noqa: ANN401 - options of any type
        return self.do("change", {"change": {"options": options, "kind": kind}})

    def show(self, kind: str, values: dict[str, Any]) -> dict[str, Any]:
        """Shows what is asked for and nothing else."""
        now = self.do("show")["state"]["values"]
        return self.set(kind, **{**dict.fromkeys(now), **values})


def opened(address: str, headers: dict[str, str], body: bytes | None = None) -> Any:  # noqa: ANN401 - of the standard library
    return urllib.request.urlopen(urllib.request.Request(address, body, headers))  # noqa: S310 - our own address


@pytest.fixture
def page(server: EditingServer) -> Client:
    return Client(server)


@pytest.mark.parametrize(("kind", "values"), daily(CHARTS, CHARTS[:4]))
def test_it_draws_what_its_command_draws(
    page: Client, run: Run, folder: Path, kind: str, values: dict[str, Any]
) -> None:
    told = page.show(kind, values)["drawn"]
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
        told = Client(one).show("bar", {"by": ["route"]})["drawn"]
        assert run(*shlex.split(told["command"])[1:], "--out", "x.svg").returncode == 0
        (folder / "page.svg").write_text(told["picture"], "utf-8")
        assert drawn(folder / "page.svg") == drawn(folder / "x.svg")


def test_a_banner_table_is_the_one_of_the_command(page: Client, run: Run) -> None:
    told = page.show("table", {"by": ["ticket"], "banner": ["season", "route"]})["drawn"]
    assert not told["fault"]
    assert "Hallow Ness" in told["picture"]
    assert "Winter" in told["picture"]
    assert run(*shlex.split(told["command"])[1:]).returncode == 0


def test_another_look_order_form_base_or_statistic_reads_nothing(
    page: Client, server: EditingServer, monkeypatch: pytest.MonkeyPatch
) -> None:
    first = page.show("bar", {"by": ["route"], "split": "ticket"})["drawn"]
    mean = page.show("bar", {"by": ["route"], "measure": ["wait"]})["drawn"]

    def refuse(*_: object) -> None:
        raise AssertionError("read again")

    monkeypatch.setattr("grainstack.editing.kept_sums.read_into", refuse)
    kept: list[tuple[str, dict[str, Any]]] = [
        ("bar", {"by": ["route"], "measure": ["wait"], "title": "New", "size": "120x80mm"}),
        ("dot", {"by": ["route"], "measure": ["wait"], "error_bars": "none"}),
        ("bar", {"by": ["route"], "split": "ticket", "layout": "percent", "order": "largest-first"}),
        ("bar", {"by": ["route"], "split": "ticket", "stat": ["share"], "base": "all", "layout": "grouped"}),
        ("bar", {"by": ["route"], "split": "ticket", "keep_top": 3, "palette": "kiln"}),
    ]
    for kind, values in kept:
        again = page.show(kind, values)["drawn"]
        assert not again["fault"], again
        assert again["picture"] not in (first["picture"], mean["picture"])
    assert server.session.history.undo


@pytest.mark.parametrize(
    ("kind", "values", "told"),
    [
        ("bar", {"by": ["rout"]}, "no column `rout`. Did you mean `route`?"),
        ("bar", {"by": ["route"], "size": "huge"}, "“size” huge is no size"),
        ("bar", {"by": ["route"], "keep_top": "three"}, "“keep top” must be a whole number."),
    ],
)
def test_a_fault_is_told_and_nothing_is_drawn(page: Client, kind: str, values: dict[str, Any], told: str) -> None:
    answer = page.show(kind, values)["drawn"]
    assert told in answer["fault"]
    assert "--" not in answer["fault"]
    assert not answer["picture"]


def test_a_fault_comes_with_what_mends_it(page: Client) -> None:
    answer = page.show("bar", {"by": ["route"], "measure": ["wait"], "split": "ticket", "layout": "percent"})["drawn"]
    assert answer["fault"]
    [(name, value)] = answer["proposed"]
    assert (name, value) == ("layout", "grouped")
    assert not page.set(layout=value)["drawn"]["fault"]


def test_what_makes_no_difference_is_told_and_forms_that_do_not_suit(page: Client) -> None:
    answer = page.show("bar", {"by": ["route"], "rest_label": "x"})["drawn"]
    assert answer["notes"][0]["text"].startswith("No effect: “rest label” makes no difference")
    assert "distribution" in answer["unsuited"]
    assert "bar" not in answer["unsuited"]
    assert page.get("/picture/form/distribution")["reason"].startswith("A distribution is of one number.")
    assert page.get("/picture/form/dots")["picture"].startswith("<svg")


def test_every_form_is_drawn_or_says_why_not(page: Client) -> None:
    for values in ({"by": ["route"]}, {"by": ["season"], "split": "ticket"}, {"measure": ["wait"]}, {"by": ["staff"]}):
        page.show("bar", values)
        for form in page.begin["forms"]:
            found = page.get(f"/picture/form/{urllib.parse.quote(form['name'])}")
            assert bool(found["picture"]) != bool(found["reason"]), (values, form["name"])
            answer = page.do("form", {"name": form["name"]})
            assert bool(answer["drawn"]["fault"]) == bool(found["reason"])
            assert answer["form"] == form["name"]
            page.do("undo")


def test_advice_is_applied_by_what_it_proposes(page: Client) -> None:
    notes = page.show("bar", {"by": ["route"], "measure": ["wait"]})["drawn"]["notes"]
    [advice] = [one for one in notes if one["name"] == "hidden-shape"][:1]
    assert ["stat", "median"] in advice["proposed"]
    assert ["kind", "distribution"] in advice["proposed"]
    after = page.set(stat=["median"])["drawn"]
    assert not [one for one in after["notes"] if one["name"] == "hidden-shape"]


def test_figures_beneath_are_those_of_the_table(page: Client, run: Run, folder: Path) -> None:
    values = {"by": ["route"], "split": "ticket", "layout": "percent", "error_bars": "confidence"}
    figures = page.show("bar", values)["drawn"]["figures"]
    asked = (
        "--by",
        "route",
        "--split",
        "ticket",
        "--stat",
        "share",
        "--base",
        "category",
        "--error-bars",
        "confidence",
    )
    assert run("table", "passengers.csv", *asked, "--out", "t.json").returncode == 0
    cells = json.loads((folder / "t.json").read_text("utf-8"))["cells"]
    assert len(cells) == len(figures["rows"])
    for cell, row in zip(cells, figures["rows"], strict=True):
        assert row["texts"][:2] == [cell["route"], cell["ticket"]]
        assert float(row["texts"][2].strip("%*†§<")) == pytest.approx(cell["estimate"] * 100, abs=0.6)
        assert float(row["texts"][3].strip("<")) == pytest.approx(cell["low"] * 100, abs=0.6)
        assert int(row["texts"][5]) == cell["base"]


def test_every_step_can_be_taken_back_and_done_again(page: Client) -> None:
    pictures = [page.show("bar", {"by": ["route"]})["drawn"]["picture"]]
    steps = ({"split": "ticket"}, {"layout": "percent"}, {"title": "A"}, {"palette": "kiln"}, {"split": None})
    pictures += [page.set(**step)["drawn"]["picture"] for step in steps]
    back = [page.do("undo")["drawn"]["picture"] for _ in pictures[1:]]
    assert back == pictures[-2::-1]
    forth = [page.do("redo")["drawn"]["picture"] for _ in pictures[1:]]
    assert forth == pictures[1:]
    assert not page.do("redo")["redo"]
    numbers = [number for number, _ in page.do("show")["steps"]]
    assert page.do("go", {"number": numbers[1]})["drawn"]["picture"] == pictures[1]
    assert page.get(f"/picture/step/{numbers[0]}")["picture"] == pictures[0]
    assert "no such state" in page.do("go", {"number": 999})["fault"]


def test_states_outlive_the_program_but_for_what_was_cut_off(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(folder)
    for one in served(open_page(("passengers.csv",), None)):
        client = Client(one)
        first = client.do("show")["drawn"]["picture"]
        second = client.set(title="Kept")["drawn"]["picture"]
    [states] = folder.glob(".*.sitting/*/states.jsonl")
    states.write_bytes(states.read_bytes() + b'{"line": [1, 2, 3], "pla')  # as a killed server leaves it
    for one in served(open_page(("passengers.csv",), None)):
        client = Client(one)
        assert client.do("show")["drawn"]["picture"] == second
        assert client.do("undo")["drawn"]["picture"] == first
        with pytest.raises(RequestError, match="It is open already: http"):
            open_page(("passengers.csv",), None)


def test_who_only_looks_leaves_nothing_behind(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(folder)
    before = set(folder.rglob("*"))
    for one in served(open_page(("passengers.csv",), None)):
        Client(one).do("show")
    assert set(folder.rglob("*")) == before


def test_a_level_is_renamed_in_the_codebook_and_undo_takes_it_back(page: Client, folder: Path, run: Run) -> None:
    book = (folder / "codebook.toml").read_text("utf-8")
    page.show("bar", {"by": ["route"], "highlight": "Dunmar"})
    told = page.do("rename", {"column": "route", "code": "4", "name": "Dunmar Quay"})["answer"]
    assert ">Dunmar Quay<" in told["drawn"]["picture"]
    assert told["state"]["values"]["highlight"] == "Dunmar Quay"
    after = (folder / "codebook.toml").read_text("utf-8")
    assert after == book.replace('"Dunmar"', '"Dunmar Quay"'), "nothing else is touched, comments neither"
    assert run(*shlex.split(told["drawn"]["command"])[1:]).returncode == 0
    assert ">Dunmar<" in page.do("undo")["drawn"]["picture"]
    assert (folder / "codebook.toml").read_text("utf-8") == book
    assert ">Dunmar Quay<" in page.do("redo")["drawn"]["picture"]
    assert not page.do("redo")["message"], "there is nothing to do again, and nothing is told of the file"
    (folder / "codebook.toml").write_text(after + "# somebody else\n", "utf-8")
    assert "stays as it is" in page.do("undo")["message"]
    assert (folder / "codebook.toml").read_text("utf-8").endswith("# somebody else\n")
    assert "A name is empty" in page.do("rename", {"column": "route", "code": "4", "name": " "})["fault"]


def test_a_level_without_a_codebook_begins_one(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    (tmp_path / "q.csv").write_text("k\n" + "b\na\nc\n" * 9, "utf-8")
    for one in served(open_page(("q.csv",), None)):
        client = Client(one)
        before = client.show("bar", {"by": ["k"]})["drawn"]["figures"]["columns"][0]["levels"]
        told = client.do("rename", {"column": "k", "code": "a", "name": "A!"})["answer"]["drawn"]
        names = [level["name"] for level in told["figures"]["columns"][0]["levels"]]
        assert names == [{"a": "A!"}.get(level["name"], level["name"]) for level in before]
        assert (
            client.do("rename", {"column": "k", "code": None, "name": "Kind"})["listing"]["columns"][0]["label"]
            == "Kind"
        )
        client.do("undo")
        client.do("undo")
        assert not (tmp_path / "codebook.toml").exists()


def test_charts_are_kept_in_a_plan_and_earlier_versions_beside_it(
    folder: Path, run: Run, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(folder)
    (folder / "plan.toml").unlink()
    for one in served(open_page(("passengers.csv",), None)):
        check_keeping(Client(one), run, folder)


def check_keeping(page: Client, run: Run, folder: Path) -> None:
    page.show("bar", {"by": ["route"]})
    kept = page.do("keep", {"name": "routes"})
    assert kept["answer"]["message"].startswith("Added routes to plan.toml.")
    assert kept["entries"] == ["routes"]
    page.set(palette="kiln")
    assert "palette = 'kiln' is new" in page.do("keep", {"name": "routes"})["answer"]["message"]
    assert run("build", "plan.toml", "--out", "made").returncode == 0
    assert page.do("duplicate", {"name": "routes"})["entries"] == ["routes", "routes-2"]
    assert page.do("reorder", {"names": ["routes-2", "routes"]})["entries"] == ["routes-2", "routes"]
    names = [one["name"] for one in tomllib.loads((folder / "plan.toml").read_text("utf-8"))["chart"]]
    assert names == ["routes-2", "routes"]
    for _ in range(3):
        assert run("undo", "plan.toml").returncode == 0
    assert "palette" not in (folder / "plan.toml").read_text("utf-8")


def test_an_entry_changed_in_both_places_is_asked_about(
    folder: Path, run: Run, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(folder)
    run("bar", "passengers.csv", "--by", "route", "--save-plan", "p.toml", "--name", "a")
    plan = folder / "p.toml"
    for one in served(open_page(("p.toml", "a"), None)):
        client = Client(one)
        client.set(title="Mine")
        plan.write_text(plan.read_text("utf-8") + 'title = "Theirs"\n', "utf-8")
        assert "was changed in p.toml" in client.do("keep", {"name": "a"})["twice"]
        assert "Theirs" in plan.read_text("utf-8")
        assert client.do("theirs")["state"]["values"]["title"] == "Theirs"
        client.set(title="Mine again")
        assert "Replaced a" in client.do("keep", {"name": "a"})["answer"]["message"]
        assert "Mine again" in plan.read_text("utf-8")


def test_what_an_editor_changes_is_seen_and_faults_leave_the_last_picture(
    folder: Path, run: Run, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(folder)
    run("bar", "passengers.csv", "--by", "route", "--save-plan", "p.toml", "--name", "a")
    plan, told = folder / "p.toml", queue.Queue[Mapping[str, Any]]()
    for one in served(open_page(("p.toml",), None)):
        client = Client(one)
        client.do("show")
        one.session.listen(told.put)
        plan.write_text(plan.read_text("utf-8") + 'title = "Theirs"\n', "utf-8")
        assert told.get(timeout=20)["plan"]
        assert ">Theirs<" in client.do("show")["drawn"]["picture"]
        plan.write_text(plan.read_text("utf-8") + "colour = 3\n", "utf-8")
        [fault] = told.get(timeout=20)["faults"]
        assert "p.toml, line" in fault
        assert ">Theirs<" in client.do("show")["drawn"]["picture"]
        book = folder / "codebook.toml"
        book.write_text(book.read_text("utf-8").replace('"Dunmar"', '"Dunmar Quay"'), "utf-8")
        assert told.get(timeout=20)["files"] == ["codebook.toml"]
        assert ">Dunmar Quay<" in client.do("show")["drawn"]["picture"]


def test_the_text_of_the_report_stands_beside_its_chart_with_the_figures_shown(
    folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(folder)
    text = """
[records]
file = "passengers.csv"

[[chart]]
name = "a"
kind = "bar"
by = "route"
measure = "wait"

[[chart]]
name = "b"
kind = "bar"
by = "season"

[report]
[[report.part]]
heading = "Waits"
text = "At Dunmar {{a: wait, Dunmar}}, not {{b: nowhere}}. <b>plain</b>"
show = ["a"]
"""
    (folder / "p.toml").write_text(text.replace(", not {{b: nowhere}}", ""), "utf-8")
    for one in served(open_page(("p.toml", "a"), None)):
        client = Client(one)
        found = client.do("text")
        assert found["faults"] == []
        assert "<h3>Waits</h3>" in found["html"]
        assert "At Dunmar 22.2. &lt;b&gt;" in found["html"]
        client.set(stat=["median"])
        assert "At Dunmar 13. " in client.do("text")["html"]
        assert client.do("open", {"name": "b"})["reports"]
        assert client.do("text")["html"] == ""
    (folder / "p.toml").write_text(text, "utf-8")
    for one in served(open_page(("p.toml", "a"), None)):
        [fault] = Client(one).do("text")["faults"]
        assert "{{b: nowhere}}" in fault


def test_a_typed_command_is_a_state_like_any_other(page: Client) -> None:
    told = page.do("typed", {"command": "grainstack bar other.csv --by season --title 'A b' --no-defaults"})
    assert told["state"] == {"kind": "bar", "values": {"by": ["season"], "title": "A b"}}
    assert "--by season --title 'A b'" in told["drawn"]["command"]
    assert page.do("typed", {"command": told["drawn"]["command"]})["state"] == told["state"]
    for command, fault in (
        ("bar x --horizontal", "--direction horizontal is that here"),
        ("look x", "That is no command of a table or chart"),
        ("bar 'x", "The command cannot be read"),
        ("bar --by", "requires an argument"),
    ):
        assert fault in page.do("typed", {"command": command})["fault"]


def test_files_are_written_beside_the_plan_alone(page: Client, folder: Path, run: Run) -> None:
    page.show("bar", {"by": ["route"]})
    for ending in ("png", "pdf", "svg", "xlsx"):
        told = page.do("save", {"name": f"chart.{ending}"})
        assert told["message"].startswith("Wrote")
        assert (folder / f"chart.{ending}").stat().st_size > 1000
    assert page.file("/file/png").startswith(b"\x89PNG")
    for name in ("../chart.png", "", "x/chart.png", "passengers.csv", "chart.exe", "plan.toml"):
        assert page.do("save", {"name": name})["fault"]
    assert run("look", "passengers.csv").returncode == 0


def test_words_of_the_trade_lead_to_options(page: Client) -> None:
    for words, option in (("rotate names", "turn_names"), ("top 10", "keep_top"), ("hide the legend", "legend")):
        assert option in [name for name, _ in page.do("find", {"words": words})["found"]]


def test_it_answers_only_its_own_page(server: EditingServer, page: Client) -> None:
    at = f"http://127.0.0.1:{server.server_port}"
    cookie = f"grainstack-{server.server_port}"
    wrong: list[dict[str, str]] = [
        {},
        {"Cookie": f"{cookie}=other"},
        {"Cookie": f"{cookie}={server.key}", "Host": "elsewhere.example"},
        {"Cookie": f"{cookie}={server.key}", "Origin": "http://elsewhere.example"},
    ]
    for path in ("/", "/?key=other", "/begin", "/events", "/picture/form/bars", "/file/png", "/assets/edit.js"):
        for headers in wrong:
            with pytest.raises(urllib.error.HTTPError, match="403"):
                opened(at + path, headers)
    for headers in wrong:
        with pytest.raises(urllib.error.HTTPError, match="403"):
            opened(f"{at}/do/show", headers, b"{}")
    for what, content in (
        ("change", {"change": 3}),
        ("change", []),
        ("go", {"number": "x"}),
        ("rename", {"column": 3}),
        ("nothing", {}),
    ):
        with pytest.raises(urllib.error.HTTPError, match="400"):
            page.do(what, content)
    with closing(HTTPConnection("127.0.0.1", server.server_port)) as there:
        there.putrequest("POST", "/do/typed")
        for name, value in (("Cookie", f"{cookie}={server.key}"), ("Content-Length", "2000000")):
            there.putheader(name, value)
        there.endheaders()
        assert there.getresponse().status == HTTPStatus.REQUEST_ENTITY_TOO_LARGE
    with pytest.raises(urllib.error.HTTPError, match="404"):
        page.file("/assets/..%2Fserver.py")
    assert "no kind `nothing`" in page.set("nothing")["fault"]
    assert "no option `file`" in page.set(file="/etc/passwd")["fault"]
    with opened(at, {"Cookie": f"{cookie}={server.key}"}) as answer:
        assert "default-src 'none'" in answer.headers["Content-Security-Policy"]
        assert "http" not in answer.read().decode()


@pytest.mark.parametrize(
    ("text", "kind", "values"),
    [
        ("k\n" + "a\nb\n" * 9, "bar", {"by": ["k"]}),
        ("k\n" + "".join(f"level {n % 40}\n" for n in range(400)), "bar", {"by": ["k"], "keep_top": 10}),
        ("x\n" + "".join(f"{n / 2}\n" for n in range(400)), "distribution", {"measure": ["x"]}),
        ("said\n" + "".join(f"text {n} of somebody\n" for n in range(400)), "bar", {}),
    ],
)
def test_it_begins_with_what_the_columns_suit(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, text: str, kind: str, values: dict[str, Any]
) -> None:
    monkeypatch.chdir(tmp_path)
    (tmp_path / "q.csv").write_text(text, "utf-8")
    server = open_page(("q.csv",), None)
    answer = server.session.show()
    server.server_close()
    assert (answer.state.kind, answer.state.values) == (kind, values)
    assert answer.drawn is not None
    assert answer.drawn.picture


def test_a_label_is_text_everywhere(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    bad = "<img src=x onerror=alert(1)>"
    (tmp_path / "q.csv").write_text(f"k\n{bad}\nb\n", "utf-8")
    for one in served(open_page(("q.csv",), None)):
        told = Client(one).show("bar", {"by": ["k"], "title": bad})["drawn"]
        assert bad not in told["picture"]
        assert "&lt;img" in told["picture"]


def test_a_plan_opens_with_its_entry(run: Run, folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    asked = ("bar", "passengers.csv", "--by", "route", "--split", "ticket", "--title", "Mine")
    run(*asked, "--save-plan", "p.toml", "--name", "a")
    monkeypatch.chdir(folder)
    for one in served(open_page(("p.toml", "a"), None)):
        assert Client(one).begin["answer"]["state"]["values"] == {"by": ["route"], "split": "ticket", "title": "Mine"}
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
        client = Client(one)
        assert client.begin["answer"]["state"]["values"]["title"] == "Routes in 2025"
        client.set(keep_top=3)
        assert client.do("keep", {"name": "a"})["answer"]["message"] == "Replaced a in p.toml: keep_top = 3 is new."
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


def test_every_part_of_a_picture_leads_to_an_option_of_its_kind() -> None:
    every = {name: {entry.name.rstrip("_") for entry in entries_of(kind_named(name))} for name in KINDS}
    assert set(PARTS) == set(MarkRole)
    for role, names in PARTS.items():
        assert set(names) <= set().union(*every.values()), role


@pytest.mark.parametrize(("kind", "values"), CHARTS)
def test_every_part_that_is_drawn_leads_somewhere(page: Client, kind: str, values: dict[str, Any]) -> None:
    picture = page.show(kind, values)["drawn"]["picture"]
    options = {option["name"] for one in page.begin["kinds"] if one["name"] == kind for option in one["options"]}
    for role in set(re.findall(r'data-role="([a-z-]+)"', picture)) - {"pattern"}:
        assert options & set(page.begin["parts"][role]), role


def test_no_message_gives_a_value_to_what_is_to_be_left_out() -> None:
    """The page sets an option that a message names with a value: one that is to go has none."""
    wrong = re.compile(r"Leave (?:it or )?\{option\([^{}]*,[^{}]*\)\} out")
    assert wrong.search("f\"Leave {option('interval', 'bootstrap')} out.\"")
    for file in (Path(grainstack.__file__).parent).rglob("*.py"):
        assert not wrong.search(file.read_text("utf-8")), file
