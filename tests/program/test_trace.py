"""Where a file comes from: carried by every picture and document, read back, and compared with what is there now."""

import json
import zipfile
from pathlib import Path

import pytest
from docx import Document
from pptx import Presentation

from grainstack.making.trace import Trace, TracedFile, TracedPlan, trace_from
from tests.program.conftest import Run

PLAN = """[records]
file = "passengers.csv"

[[chart]]
name = "wait"
kind = "bar"
by = "route"
measure = "wait"
formats = ["png", "svg", "pdf"]

[[table]]
name = "tickets"
by = "route"
split = "ticket"
stat = "share"
formats = ["xlsx", "html", "parquet"]

[report]
formats = ["html", "docx", "pptx", "pdf", "xlsx"]

[[report.part]]
show = ["wait", "tickets"]
"""
FILES = ["wait.png", "wait.svg", "wait.pdf", "tickets.xlsx", "tickets.html", "tickets.parquet"]
FILES += [f"report.{one}" for one in ("html", "docx", "pptx", "pdf", "xlsx")]


@pytest.fixture
def built(run: Run, folder: Path) -> Path:
    (folder / "plan.toml").write_text(PLAN, "utf-8")
    done = run("build", "plan.toml", "--quiet")
    assert done.returncode == 0, done.stderr
    return folder


@pytest.mark.soak
@pytest.mark.parametrize("name", FILES)
def test_every_file_says_where_it_comes_from_until_that_changes(run: Run, built: Path, name: str) -> None:
    done = run("trace", f"out/{name}", "--strict")
    assert done.returncode == 0, done.stderr
    entry = name.partition(".")[0]
    kind = {"wait": "bar", "tickets": "table"}.get(entry, "report")
    assert f"from plan.toml, {kind} {entry}" in done.stdout
    assert "passengers.csv, 191,841 bytes" in done.stdout
    assert done.stdout.rstrip().endswith("still gives it.")
    plan = (built / "plan.toml").read_text("utf-8")
    (built / "plan.toml").write_text(plan.replace('by = "route"', 'by = "season"'), "utf-8")
    changed = run("trace", f"out/{name}", "--strict")
    assert changed.returncode == 1
    assert f"What plan.toml says of {entry}" in changed.stdout
    (built / "plan.toml").write_text(plan, "utf-8")
    with (built / "passengers.csv").open("a") as file:
        file.write("\n")
    changed = run("trace", f"out/{name}")
    assert changed.returncode == 0
    assert "passengers.csv has changed" in changed.stdout


def test_what_a_command_made_tells_the_command(run: Run, folder: Path) -> None:
    asked = ["bar", "passengers.csv", "--by", "route", "--measure", "wait", "--only", "season=Summer,Winter"]
    assert run(*asked, "--title", 'It\'s "this" & <that>', "--out", "a.png", "--out", "a.svg").returncode == 0
    for name in ("a.png", "a.svg"):
        done = run("trace", name)
        assert "grainstack bar passengers.csv" in done.stdout
        assert "--only season=Summer,Winter" in done.stdout
        assert "unchanged" in done.stdout
    content = json.loads(run("trace", "a.svg", "--json").stdout)
    assert content["asked"]["title"] == 'It\'s "this" & <that>'
    assert content["differences"] == []
    (folder / "codebook.toml").write_text("", "utf-8")
    assert "codebook.toml has changed" in run("trace", "a.png").stdout


def test_the_command_names_records_and_codebook_as_they_were(run: Run, folder: Path) -> None:
    (folder / "codebook.toml").rename(folder / "meanings.toml")
    asked = ["bar", "passengers.csv", "passengers_2024.csv", "--codebook", "meanings.toml", "--by", "route"]
    assert run(*asked, "--out", "a.svg").returncode == 0
    told = run("trace", "a.svg").stdout
    assert "grainstack bar passengers.csv passengers_2024.csv --codebook meanings.toml --by route\n" in told


def test_no_path_no_clock_and_nobodys_name_is_in_it(run: Run, folder: Path, tmp_path: Path) -> None:
    named = [str(folder / "passengers.csv"), "--codebook", str(folder / "codebook.toml")]
    assert run("bar", *named, "--by", "route", "--out", "a.svg", "--out", "a.pdf", "--out", "a.png").returncode == 0
    first = [(folder / f"a.{one}").read_bytes() for one in ("svg", "pdf", "png")]
    assert all(str(tmp_path).encode() not in content for content in first)
    other = folder / "elsewhere"
    other.mkdir()
    for name in ("passengers.csv", "codebook.toml"):
        (other / name).write_bytes((folder / name).read_bytes())
    run("bar", "elsewhere/passengers.csv", "--codebook", "elsewhere/codebook.toml", "--by", "route", "--out", "b.svg")
    assert (folder / "b.svg").read_bytes() == first[0]


def test_a_template_with_properties_of_its_own_keeps_them(run: Run, built: Path) -> None:
    for ending, library in (("docx", Document()), ("pptx", Presentation())):
        library.save(str(built / f"plain.{ending}"))
        with (
            zipfile.ZipFile(built / f"plain.{ending}") as source,
            zipfile.ZipFile(built / f"house.{ending}", "w") as target,
        ):
            for name in source.namelist():
                content = source.read(name)
                if name == "[Content_Types].xml":
                    kind = "application/vnd.openxmlformats-officedocument.custom-properties+xml"
                    more = f'<Override PartName="/docProps/custom.xml" ContentType="{kind}"/></Types>'
                    content = content.replace(b"</Types>", more.encode())
                if name == "_rels/.rels":
                    kind = "http://schemas.openxmlformats.org/officeDocument/2006/relationships/custom-properties"
                    more = f'<Relationship Id="rId99" Type="{kind}" Target="docProps/custom.xml"/></Relationships>'
                    content = content.replace(b"</Relationships>", more.encode())
                target.writestr(name, content)
            target.writestr("docProps/custom.xml", "<Properties/>")
    plan = PLAN.replace("[report]", '[report]\ntemplate = ["house.docx", "house.pptx"]')
    (built / "plan.toml").write_text(plan, "utf-8")
    done = run("build", "plan.toml", "--quiet")
    assert done.returncode == 0, done.stderr
    for ending in ("docx", "pptx"):
        with zipfile.ZipFile(built / f"out/report.{ending}") as packed:
            assert packed.namelist().count("docProps/custom.xml") == 1
            assert packed.read("docProps/custom.xml") == b"<Properties/>"
        assert "does not say where it comes from" in run("trace", f"out/report.{ending}").stderr


@pytest.mark.parametrize(
    ("name", "content", "told"),
    [
        ("a.txt", b"text", "of no kind"),
        ("a.png", b"no picture", "cannot be read"),
        ("a.pdf", b"no document", "cannot be read"),
        ("a.docx", b"no document", "cannot be read"),
        ("a.svg", b"<svg/>", "does not say"),
        ("a.html", b"<metadata>{}</metadata>", "does not say"),
        ("a.svg", b"<metadata>{&quot;layout&quot;:1}</metadata>", "does not say"),
    ],
)
def test_a_file_that_does_not_say_it_is_told(run: Run, folder: Path, name: str, content: bytes, told: str) -> None:
    (folder / name).write_bytes(content)
    done = run("trace", name)
    assert done.returncode in (1, 2)
    assert told in done.stderr
    assert "no file" in run("trace", "nowhere.png").stderr


def test_a_trace_is_read_back_as_it_was_written() -> None:
    trace = Trace(
        "bar", {"by": ["ä–&\"'<"], "confidence": 90.0, "ring": True}, (TracedFile("a.csv", 3, "x"), TracedFile("b"))
    )
    assert trace_from(str(trace)) == trace
    planned = Trace("report", {}, (), TracedPlan("plan.toml", {"year": "2024"}, "route"), "route/report", "abc")
    assert trace_from(str(planned)) == planned


@pytest.mark.soak
def test_what_was_typed_for_a_build_is_known_to_its_traces(run: Run, folder: Path) -> None:
    text = PLAN.replace('file = "passengers.csv"', 'file = "passengers.csv"\nwhere = "wait < {most}"')
    (folder / "plan.toml").write_text("[params]\nmost = 60\n" + text, "utf-8")
    done = run("build", "plan.toml", "--param", "most=30", "--for-each", "season")
    assert done.returncode == 0, done.stderr
    for name in ("out/summer/wait.png", "out/summer/report.docx"):
        told = run("trace", name, "--strict")
        assert told.returncode == 0, told.stdout
        assert "with --param most=30 --for-each season" in told.stdout
        assert "still gives it" in told.stdout
