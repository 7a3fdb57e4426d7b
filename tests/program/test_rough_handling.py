"""Rough handling: nothing is lost without a word, nothing ends in a traceback, and nothing is let in or out."""

import gzip
import os
import random
import signal
import sqlite3
import subprocess
import time
import zipfile
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import openpyxl
import pyarrow as pa
import pytest
import xlsxwriter
from hypothesis import given
from hypothesis import strategies as st

from grainstack.records.sources import opening
from grainstack.report.cells import harmless, is_formula
from grainstack.visible import visible, visible_lines
from tests.program.conftest import PROGRAM, Run

STEERING = [*map(chr, range(0x20)), *map(chr, range(0x7F, 0xA0)), *"\u202a\u202b\u202d\u202e\u2066\u2067\u2068\u2069"]


@pytest.mark.parametrize("length", [1 << 17, 300_000, 5_000_000])
@pytest.mark.parametrize("ending", ["csv", "jsonl"])
def test_a_long_first_record_is_a_record(run: Run, folder: Path, length: int, ending: str) -> None:
    long = "x" * length
    rows = {"csv": f'a,b\n"{long}",1\ny,2\ny,2\n', "jsonl": f'{{"a":"{long}","b":1}}\n' + '{"a":"y","b":2}\n' * 2}
    (folder / f"long.{ending}").write_text(rows[ending], "utf-8")
    done = run("table", f"long.{ending}", "--by", "b")
    assert done.returncode == 0, done.stderr
    assert "Base: 3 records" in done.stdout


def test_a_header_longer_than_what_is_looked_at_first_is_whole(run: Run, folder: Path) -> None:
    names = [f"column_{number}_{'x' * 290}" for number in range(1000)]
    (folder / "wide.csv").write_text(f"{','.join(names)}\n{','.join('12' for _ in names)}\n", "utf-8")
    done = run("table", "wide.csv", "--by", names[-1])
    assert done.returncode == 0, done.stderr
    assert "Base: 1 record" in done.stdout


def test_two_byte_order_marks_are_no_part_of_a_name(run: Run, folder: Path) -> None:
    (folder / "marks.csv").write_bytes(b"\xef\xbb\xbf\xef\xbb\xbfa,b\n1,2\n")
    assert run("table", "marks.csv", "--by", "a").returncode == 0


def _nothing(folder: Path) -> None:
    """Nothing has to be prepared."""


WRONG: dict[str, tuple[Callable[[Path], object], list[str], str]] = {
    "half a character": (
        lambda folder: (folder / "a.jsonl").write_text('{"a":"\\ud800"}\n', "utf-8"),
        ["look", "a.jsonl"],
        "half a character",
    ),
    "deep records": (
        lambda folder: (folder / "a.jsonl").write_text('{"a":' + "[" * 200_000 + "]" * 200_000 + "}\n", "utf-8"),
        ["look", "a.jsonl"],
        "nested too deeply",
    ),
    "a deep codebook": (
        lambda folder: (folder / "a.json").write_text("[" * 200_000 + "]" * 200_000, "utf-8"),
        ["look", "passengers.csv", "--codebook", "a.json"],
        "nested too deeply",
    ),
    "a broken archive": (
        lambda folder: (folder / "a.csv.gz").write_bytes(_broken((folder / "passengers.csv").read_bytes())),
        ["bar", "a.csv.gz", "--by", "route"],
        "is broken or cut short",
    ),
    "a far cell": (lambda folder: _far_cell(folder / "a.xlsx"), ["look", "a.xlsx"], "more than there is room for"),
    "an endless device": (_nothing, ["look", "/dev/zero"], "never ends"),
    "no column of answers": (
        _nothing,
        ["derive", "passengers.csv", "--answers", "nope", "--out", "d.csv"],
        "no column `nope`",
    ),
    "an empty list": (
        _nothing,
        ["bar", "passengers.csv", "--by", "route", "--where", "age in ()"],
        "nothing stands between the brackets",
    ),
    "too many rows": (_nothing, ["look", "passengers.csv", "--rows", "9" * 20], "out of range"),
    "too many bands": (
        _nothing,
        ["bar", "passengers.csv", "--by", "age", "--band", "age=0.001"],
        "more than 500 bands",
    ),
    "an open comment": (_nothing, ["look", "passengers.csv", "--query", "SELECT 1 /*"], "no database"),
    "a long name": (
        _nothing,
        ["bar", "passengers.csv", "--by", "route", "--out", f"{'n' * 252}.svg"],
        "name is too long",
    ),
}


def _broken(content: bytes) -> bytes:
    packed = bytearray(gzip.compress(content * 20))
    packed[len(packed) // 2 : len(packed) // 2 + 40] = bytes(40)
    return bytes(packed)


def _far_cell(path: Path) -> None:
    book = openpyxl.Workbook()
    sheet = book.active
    assert sheet is not None
    sheet["A1"], sheet["A2"], sheet["XFD1048576"] = "a", 1, 5
    book.save(path)


@pytest.mark.parametrize("name", WRONG)
def test_what_cannot_be_read_or_meant_is_one_message(run: Run, folder: Path, name: str) -> None:
    prepare, command, told = WRONG[name]
    prepare(folder)
    before = sorted(folder.iterdir())
    done = run(*command)
    assert done.returncode in (1, 2)
    assert told in done.stderr
    assert "Traceback" not in done.stderr
    assert "nobody foresaw" not in done.stderr
    assert sorted(folder.iterdir()) == before


@pytest.mark.parametrize("text", ["(" * 150 + "age > 1" + ")" * 150, " and ".join(["age > 1"] * 1000)])
def test_long_conditions_are_worked_out(run_process: Run, text: str) -> None:
    plain = run_process("table", "passengers.csv", "--by", "route", "--where", "age > 1")
    done = run_process("table", "passengers.csv", "--by", "route", "--where", text)
    assert done.returncode == 0, done.stderr
    assert done.stdout.split("Base:")[0] == plain.stdout.split("Base:")[0]


def test_a_broken_arrow_file_ends_no_process(run_process: Run, folder: Path) -> None:
    table = pa.table({"k": pa.array(["a", "b", "c"] * 300).dictionary_encode(), "s": [f"x{n}" for n in range(900)]})
    with pa.OSFile(str(folder / "whole.arrow"), "wb") as sink, pa.ipc.new_file(sink, table.schema) as writer:
        writer.write_table(table)
    whole = (folder / "whole.arrow").read_bytes()
    draw = random.Random(1)  # noqa: S311 - nothing here is secret
    for _ in range(6):
        content = bytearray(whole)
        for _ in range(draw.randint(1, 40)):
            content[draw.randrange(len(content))] = draw.randrange(256)
        (folder / "broken.arrow").write_bytes(content)
        done = run_process("bar", "broken.arrow", "--by", "k")
        assert done.returncode in (0, 1, 2)
        assert "Traceback" not in done.stderr


def _steering_in(text: str) -> list[str]:
    return [ascii(sign) for sign in STEERING if sign in text and sign != "\n"]


def test_nothing_in_a_label_steers_a_terminal_or_breaks_a_file(run: Run, folder: Path) -> None:
    (folder / "codebook.toml").unlink()
    labels = [f"one{sign}two {number}" for number, sign in enumerate(STEERING) if sign != "\x00"]
    rows = "".join(f'"{label}",1\n' for label in labels)
    (folder / "a.csv").write_text(f"k,v\n{rows}", "utf-8", newline="")
    for command in (["table", "a.csv", "--by", "k"], ["bar", "a.csv", "--by", "k"], ["look", "a.csv", "--rows", "99"]):
        done = run(*command)
        assert done.returncode == 0, done.stderr
        assert not _steering_in(done.stdout + done.stderr)
    done = run(
        "bar", "a.csv", "--by", "k", "--size", "1000x1500mm", "--out", "a.svg", "--out", "a.png", "--out", "a.pdf"
    )
    assert done.returncode == 0, done.stderr
    content = (folder / "a.svg").read_bytes().decode()
    assert not _steering_in(content)
    import xml.dom.minidom  # noqa: PLC0415 - reads what was written here

    xml.dom.minidom.parseString(content)  # noqa: S318 - the same
    assert run("table", "a.csv", "--by", "k", "--out", "a.md", "--out", "t.csv").returncode == 0
    lines = (folder / "a.md").read_bytes().decode().split("\n")
    assert len([line for line in lines if line.startswith("|")]) == len(labels) + 2
    assert (folder / "t.csv").read_bytes().count(b"\n") == len(labels) + 1


def test_titles_and_messages_steer_nothing_either(run: Run, folder: Path) -> None:
    done = run("bar", "passengers.csv", "--by", "route", "--title", "a\x1b[31mb\u202ec", "--out", "a.svg")
    assert done.returncode == 0, done.stderr
    assert "\x1b" not in (folder / "a.svg").read_text("utf-8")
    done = run("bar", "passengers.csv", "--by", "ro\x1b[31mute")
    assert done.returncode == 2
    assert "\x1b" not in done.stderr
    assert "\\x1b[31m" in done.stderr


@given(st.text())
def test_visible_text_is_one_line_and_stays_where_it_can(text: str) -> None:
    shown = visible(text)
    assert not set(shown) & {*STEERING, "\u2028", "\u2029"}
    assert visible(shown) == shown
    if text.isprintable():
        assert shown == text
    assert visible_lines(text).count("\n") == text.count("\n")


@pytest.mark.parametrize("text", ["=1+1", "+cmd", "-2+3", "@SUM(A1)", "\t=1", "\r=1"])
def test_no_spreadsheet_runs_what_is_written(run: Run, folder: Path, text: str) -> None:
    assert is_formula(text)
    (folder / "codebook.toml").unlink()
    (folder / "a.csv").write_text(f'k,v\n"{text}",1\nplain,-2\nplain,+3\n', "utf-8", newline="")
    run("derive", "a.csv", "--out", "d.csv")
    done = run("derive", "a.csv", "--out", "d.csv")
    assert "Spreadsheets would run 1 text" in done.stderr
    assert (folder / "d.csv").read_bytes().count(b"'") == 1
    assert b"-2" in (folder / "d.csv").read_bytes()
    plain = run("derive", "a.csv", "--out", "p.csv", "--plain-csv")
    assert "Spreadsheets" not in plain.stderr
    assert b"'" not in (folder / "p.csv").read_bytes()
    for more in ((), ("--wide",)):
        run("table", "a.csv", "--by", "k", "--out", "t.csv", *more)
        assert b"'" in (folder / "t.csv").read_bytes()


@given(st.one_of(st.integers(), st.floats(allow_nan=False, allow_infinity=False)))
def test_numbers_are_no_formulas(number: float) -> None:
    assert harmless(number) == number
    assert not is_formula(str(number))


def test_markdown_shows_markup_and_obeys_none(run: Run, folder: Path) -> None:
    (folder / "codebook.toml").unlink()
    (folder / "a.csv").write_text("k\n<b>x</b>\n*y*\na|b\n[l](u)\n`c`\n", "utf-8")
    run("table", "a.csv", "--by", "k", "--out", "a.md")
    from markdown_it import MarkdownIt  # noqa: PLC0415 - used once

    html = MarkdownIt("gfm-like", {"linkify": False}).render((folder / "a.md").read_text("utf-8"))
    for text in ("&lt;b&gt;x&lt;/b&gt;", ">*y*<", ">a|b<", ">[l](u)<", ">`c`<"):
        assert text in html


def test_charts_of_more_marks_than_anybody_sees_are_refused(run: Run, folder: Path) -> None:
    lines = "".join(f"c{number % 600},s{number % 41}\n" for number in range(600 * 41))
    (folder / "many.csv").write_text(f"a,b\n{lines}", "utf-8")
    for more in ((), ("--out", "many.svg")):
        done = run("bar", "many.csv", "--by", "a", "--split", "b", *more)
        assert done.returncode == 2
        assert "24,600 marks" in done.stderr


def test_each_of_several_figures_is_a_mark(run: Run, folder: Path) -> None:
    lines = "".join(f"c{number},1,2,3\n" for number in range(8_000))
    (folder / "many.csv").write_text(f"a,x,y,z\n{lines}", "utf-8")
    done = run("bar", "many.csv", "--by", "a", *(part for name in "xyz" for part in ("--measure", name)))
    assert done.returncode == 2
    assert "24,000 marks" in done.stderr


def test_each_shape_of_a_box_is_a_mark(run: Run, folder: Path) -> None:
    lines = "".join(f"c{number},{number % 9}\nc{number},3\n" for number in range(1_700))
    (folder / "many.csv").write_text(f"a,x\n{lines}", "utf-8")
    done = run("distribution", "many.csv", "--by", "a", "--measure", "x")
    assert done.returncode == 2
    assert "10,200 marks" in done.stderr


def test_more_comparisons_than_anybody_reads_are_refused(run: Run, folder: Path) -> None:
    lines = "".join(f"c{number},{number % 7}\nc{number},{number % 7 + 1}\n" for number in range(201))
    (folder / "many.csv").write_text(f"a,x\n{lines}", "utf-8")
    asked = ("table", "many.csv", "--by", "a", "--measure", "x", "--stat", "mean")
    for more in (("--compare", "pairs"), ("--letters",)):
        done = run(*asked, *more)
        assert done.returncode == 2
        assert "20,100 comparisons" in done.stderr
        assert "--compare rest" in done.stderr
    assert run(*asked, "--compare", "rest").returncode == 0


def test_a_hard_link_to_an_input_is_an_input(run: Run, folder: Path) -> None:
    before = (folder / "passengers.csv").read_bytes()
    (folder / "other.csv").hardlink_to(folder / "passengers.csv")
    done = run("table", "passengers.csv", "--by", "route", "--out", "other.csv")
    assert done.returncode == 2
    assert "it is being read" in done.stderr
    assert (folder / "passengers.csv").read_bytes() == before


def test_links_are_followed_within_their_folder_and_no_further(run: Run, folder: Path) -> None:
    (folder / "real.svg").write_text("old", "utf-8")
    (folder / "link.svg").symlink_to("real.svg")
    assert run("bar", "passengers.csv", "--by", "route", "--out", "link.svg").returncode == 0
    assert (folder / "link.svg").is_symlink()
    assert (folder / "real.svg").read_text("utf-8").startswith("<svg")
    (folder / "away").mkdir()
    (folder / "inner").mkdir()
    (folder / "inner/out.svg").symlink_to(folder / "away/out.svg")
    done = run("bar", "passengers.csv", "--by", "route", "--out", "inner/out.svg")
    assert done.returncode == 1
    assert "it is a link to" in done.stderr
    assert not list((folder / "away").iterdir())


def test_a_pipe_is_written_to_and_stays_one(folder: Path) -> None:
    os.mkfifo(folder / "pipe.csv")
    with subprocess.Popen(["cat", "pipe.csv"], cwd=folder, stdout=subprocess.PIPE) as reader:
        done = subprocess.run(
            [PROGRAM, "table", "passengers.csv", "--by", "route", "--out", "pipe.csv"],
            cwd=folder,
            capture_output=True,
            timeout=60,
            check=True,
        )
        assert reader.stdout is not None
        assert reader.stdout.read().startswith(b"route,statistic")
    assert done.returncode == 0
    assert (folder / "pipe.csv").is_fifo()


def test_names_as_long_as_file_systems_take_are_written(run: Run, folder: Path) -> None:
    name = f"{'n' * 251}.svg"
    assert run("bar", "passengers.csv", "--by", "route", "--out", name).returncode == 0
    assert (folder / name).is_file()


def test_what_a_killed_run_left_is_cleared_away_by_the_next(run: Run, folder: Path) -> None:
    gone = 999_999_999  # no system has so many processes
    (folder / f".wait.svg.{gone}.abc.part").write_text("half", "utf-8")
    (folder / f".wait.svg.{os.getppid()}.abc.part").write_text("another run is writing this", "utf-8")
    assert run("bar", "passengers.csv", "--by", "route", "--out", "wait.svg").returncode == 0
    assert [path.name for path in folder.glob(".*.part")] == [f".wait.svg.{os.getppid()}.abc.part"]


@pytest.mark.parametrize(("sent", "code"), [(signal.SIGTERM, 143), (signal.SIGINT, 130)])
def test_a_run_that_is_ended_says_so_and_leaves_nothing(folder: Path, sent: signal.Signals, code: int) -> None:
    rows = "".join(f"{number % 7},{number % 1000}.5\n" for number in range(400_000))
    (folder / "large.csv").write_text(f"k,v\n{rows}", "utf-8")
    before = {path.name for path in folder.iterdir()}
    for moment in (0.02, 0.1, 0.25, 0.4):
        command = [
            str(PROGRAM),
            "bar",
            "large.csv",
            "--by",
            "k",
            "--measure",
            "v",
            "--stat",
            "median",
            "--out",
            "out.png",
        ]
        with subprocess.Popen(command, cwd=folder, stderr=subprocess.PIPE, text=True) as run:
            time.sleep(moment)
            run.send_signal(sent)
            said = run.communicate(timeout=60)[1]
        left = {path.name for path in folder.iterdir()} - before - {"out.png"}
        assert not left
        if "grainstack:" not in said:  # Python itself was not up yet, or all was done
            assert run.returncode in (0, 1, -sent)
            continue
        assert run.returncode == code
        assert "Traceback" not in said
        assert said.count("\n") == 1


@pytest.mark.parametrize(
    ("redirected", "code", "told"),
    [
        (">/dev/full", 1, "Cannot write to standard output: No space left on device."),
        (">&-", 0, ""),
        (">/dev/null 2>&-", 0, ""),
        (">&- 2>&-", 0, ""),
    ],
)
def test_streams_that_are_full_or_closed(folder: Path, redirected: str, code: int, told: str) -> None:
    command = f"'{PROGRAM}' table passengers.csv --by route {redirected}"
    done = subprocess.run(["bash", "-c", command], cwd=folder, capture_output=True, text=True, timeout=60, check=False)
    assert done.returncode == code
    assert told in done.stderr
    assert "Traceback" not in done.stderr
    assert "foresaw" not in done.stderr


def test_a_terminal_of_few_characters_is_served(folder: Path) -> None:
    command = [str(PROGRAM), "bar", "passengers.csv", "--by", "route"]
    surroundings = {**os.environ, "PYTHONIOENCODING": "ascii"}
    done = subprocess.run(command, cwd=folder, capture_output=True, timeout=60, check=True, env=surroundings)
    assert b"Pell Isle ????" in done.stdout


def test_a_query_that_breaks_off_is_told(run: Run, folder: Path) -> None:
    with closing(sqlite3.connect(folder / "a.sqlite")) as database:
        database.execute("CREATE TABLE t (a)")
    done = run("look", "a.sqlite", "--query", "SELECT 1 /*")
    assert done.returncode == 2
    assert "is no SQL" in done.stderr


def test_what_nobody_foresaw_is_one_message(run: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    import grainstack.making.make as module  # noqa: PLC0415 - replaced for this test alone

    def broken(*_: object, **__: object) -> None:
        raise LookupError("inner\nworkings")

    monkeypatch.setattr(module, "finished", broken)
    done = run("bar", "passengers.csv", "--by", "route")
    assert done.returncode == 1
    assert "nobody foresaw: LookupError: inner." in done.stderr
    assert "--debug" in done.stderr
    assert "workings" not in done.stderr
    for error, told in ((MemoryError(), "not enough memory"), (RecursionError(), "nested too deeply")):

        def raising(*_: object, error: Exception = error, **__: object) -> None:
            raise error

        monkeypatch.setattr(module, "finished", raising)
        done = run("bar", "passengers.csv", "--by", "route")
        assert done.returncode == 1
        assert told in done.stderr


@pytest.mark.parametrize("spread", ["standard-deviation", "quartiles", "range"])
def test_ready_made_figures_have_no_spread_of_values(run: Run, spread: str) -> None:
    done = run("table", "shares.csv", "--by", "ticket", "--value", "share", "--error-bars", spread)
    assert done.returncode == 2
    assert "are ready-made" in done.stderr


def test_text_in_a_sheet_is_no_place_of_a_cell(run: Run, folder: Path) -> None:
    texts = ['x r="ABCDE1"', "<c r='B123456789'>", ' r="XFDA9"', ' r="XFD1048576"']
    with xlsxwriter.Workbook(folder / "in_line.xlsx", {"constant_memory": True}) as book:  # which writes text in line
        sheet = book.add_worksheet()
        for row, text in enumerate(["what", *texts]):
            sheet.write_string(row, 0, text)
    with zipfile.ZipFile(folder / "in_line.xlsx") as package:
        assert b"ABCDE1" in package.read("xl/worksheets/sheet1.xml")
    done = run("table", "in_line.xlsx", "--by", "what")
    assert done.returncode == 0, done.stderr
    assert "ABCDE1" in done.stdout


LARGE = {
    "packed.csv.gz": gzip.compress(b"a,b\n" + b"1,x\n" * 400_000),
    "packed.jsonl.gz": gzip.compress(b'{"a": 1, "b": "x"}\n' * 100_000),
    "long.csv": b"a,b\n1," + b"x" * 9_000_000 + b"\n2,y\n",
    "single.csv": b"a\n" + b"x" * 9_000_000 + b"\ny\n",
    "quoted.csv": b'a,b\n1,"' + b"x\n" * 5_000_000 + b'"\n2,y\n',
    "long.jsonl": b'{"a": 1, "b": "' + b"x" * 9_000_000 + b'"}\n',
}


@pytest.mark.soak
@pytest.mark.parametrize("name", LARGE)
def test_what_is_larger_than_it_should_be_is_read_when_that_is_allowed(
    name: str, run: Run, folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(opening, "_ROOMY", 1 << 20)  # as if this machine had less room
    monkeypatch.setattr(opening, "_LONGEST", 1 << 22)
    (folder / name).write_bytes(LARGE[name])
    asked = ("table", name, "--by", "a", "--codebook", "none.toml")
    (folder / "none.toml").write_text("", "utf-8")
    refused = run(*asked, "--out", "t.csv")
    assert refused.returncode == 1
    assert "If it is meant so: --allow-large." in refused.stderr
    assert not (folder / "t.csv").exists()
    for command in (("look", name), ("codebook", name)):
        assert run(*command).returncode == 1
        assert run(*command, "--allow-large").returncode == 0
    done = run(*asked, "--out", "t.csv", "--allow-large")
    assert done.returncode == 0, done.stderr


def test_a_spreadsheet_that_unpacks_to_too_much_is_refused(
    run: Run, folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(opening, "_ROOMY", 1 << 20)
    book = openpyxl.Workbook()
    for row in (["a", "b"], [1, "x"]):
        book.active.append(row)
    book.save(folder / "u.xlsx")
    assert run("look", "u.xlsx").returncode == 0
    with zipfile.ZipFile(folder / "u.xlsx", "a", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("xl/media/filler.bin", bytes(1 << 23))
    done = run("look", "u.xlsx")
    assert done.returncode == 1
    assert "--allow-large" in done.stderr
    assert run("look", "u.xlsx", "--allow-large").returncode == 0


@pytest.mark.soak
@pytest.mark.parametrize("length", [10_000, 1_000_000])
@pytest.mark.parametrize("command", ["bar", "pie", "dot", "treemap", "look", "table"])
def test_labels_of_any_length_are_cut_short(command: str, length: int, run: Run, folder: Path) -> None:
    (folder / "l.csv").write_text("a,b\n1," + "word " * (length // 5) + "\n2,y\n2,y\n", "utf-8")
    asked = [command, "l.csv", *([] if command == "look" else ["--by", "b"])]
    assert run(*asked).returncode == 0
    if command not in ("look", "table"):
        done = run(*asked, "--out", "l.svg", "--out", "l.png")
        assert done.returncode == 0, done.stderr


def test_a_text_of_megabytes_is_cut_when_it_becomes_a_level(run: Run, folder: Path) -> None:
    (folder / "long.csv").write_text(f"place,n\n{'x' * 3_000_000},1\n{'y' * 3_000_000},2\nPell,3\n", "utf-8")
    done = run("bar", "long.csv", "--by", "place", "--out", "long.svg")
    assert done.returncode == 0, done.stderr
    picture = (folder / "long.svg").read_text("utf-8")
    assert "3,000,000 characters" in picture
    assert len(picture) < 200_000
    only = run("table", "long.csv", "--by", "place", "--where", "place LIKE 'y%'", "--measure", "n", "--stat", "sum")
    assert only.returncode == 0
    assert len(only.stdout) < 20_000
