"""What each command prints and writes, on the demo data."""

import csv
import json
import re
import shlex
import signal
import subprocess
import time
from pathlib import Path
from xml.etree import ElementTree as ET

import pytest

from grainstack.cli.commands import COMMANDS
from grainstack.cli.demo import TOUR, WORTH_KNOWING
from tests.program.conftest import PROGRAM, Run


def test_help_lists_the_commands_and_groups_their_options(run: Run) -> None:
    assert [name for name in ("look", "table", "bar", "demo") if f"\n  {name}" in run("--help").stdout] == [
        *("look", "table", "bar", "demo")
    ]
    text = run("bar", "--help", "all").stdout
    headings = ["Records:", "Summary:", "Order:", "Layout and labels:", "Words on the chart:", "Picture:", "Output:"]
    assert [line for line in text.splitlines() if line in headings] == headings


@pytest.mark.parametrize("command", COMMANDS)
def test_help_is_written_for_who_types_it(run: Run, command: str) -> None:
    text = run(command, "--help").stdout
    assert not [heading for heading in ("Args:", "Attributes:", "Raises:", "Returns:") if heading in text]


@pytest.mark.usefixtures("bare")
def test_look_tells_what_is_there(run: Run) -> None:
    text = run("look", "passengers.csv", "--rows", "2").stdout
    assert "2,415 records, 16 columns" in text
    assert "perhaps no answer: 999" in " ".join(text.split())
    assert "app (879)" in text
    assert "multi" in text
    assert text.count("P0000") == 3
    command = next(line.strip() for line in text.splitlines() if line.startswith("  grainstack bar"))
    assert run(*command.split()[1:]).returncode == 0


def test_look_reads_well_with_a_codebook(run: Run) -> None:
    done = run("look", "passengers.csv", "--rows", "0")
    assert "Using the codebook codebook.toml." in done.stderr
    text = " ".join(done.stdout.split())
    assert "Ticket: App (879), Website (621)" in text
    assert "Waiting time: 0 to 239 minutes" in text
    assert "70 (3 %) Age: 15 to 91 years" in text
    assert "Café (1,173)" in text


@pytest.mark.usefixtures("bare")
def test_table_prints_figures_bases_and_what_was_left_out(run: Run) -> None:
    text = run("table", "passengers.csv", "--by", "route", "--measure", "wait", "--stat", "mean").stdout
    assert [line.split()[:3] for line in text.splitlines()[2:4]] == [["1", "684", "12.8"], ["2", "584", "13.0"]]
    assert "Base: 2,395 records; left out: 20 without an answer on wait." in text


def test_table_files_hold_the_same_figures_unrounded(run: Run, folder: Path) -> None:
    arguments = ("table", "passengers.csv", "--by", "route", "--split", "ticket", "--stat", "share")
    done = run(*arguments, "--out", "t.csv", "--out", "t.json", "--out", "t.md")
    assert done.returncode == 0
    rows = list(csv.DictReader((folder / "t.csv").read_text().splitlines()))
    content = json.loads((folder / "t.json").read_text())
    assert len(rows) == len(content["cells"]) == 30
    assert list(rows[0]) == [
        *(
            "route",
            "ticket",
            "statistic",
            "estimate",
            "low",
            "high",
            "standard_error",
            "degrees_of_freedom",
            "method",
            "base",
            "flags",
        )
    ]
    for row, cell in zip(rows, content["cells"], strict=True):
        assert float(row["estimate"]) == cell["estimate"]
        assert cell["low"] <= cell["estimate"] <= cell["high"]
    by_route: dict[str, float] = {}
    for row in rows:
        by_route[row["route"]] = by_route.get(row["route"], 0) + float(row["estimate"])
    assert list(by_route.values()) == pytest.approx([1] * 6)
    assert content["provenance"]["records_without_answer"] == {"route": 0, "ticket": 26}
    printed = [line.split() for line in run(*arguments).stdout.splitlines()[2:8]]
    written = [line.split("|") for line in (folder / "t.md").read_text().splitlines()[2:8]]
    assert [row[-1] for row in printed] == [row[-2].strip() for row in written]
    assert [row[-2] for row in printed] == [row[-3].strip() for row in written]


def test_bar_draws_in_the_terminal(run: Run) -> None:
    lines = run("bar", "passengers.csv", "--by", "ticket", "--no-design").stdout.splitlines()
    assert lines[0] == "Number of passengers by ticket"
    bars = [line for line in lines if "█" in line]
    assert [line.split(" █")[0].strip() for line in bars] == ["App", "Website", "Ticket desk", "On board", "Agent"]
    assert [line.split()[-1] for line in bars] == ["879", "621", "376", "378", "135"]
    assert bars[0].count("█") > bars[1].count("█") > bars[4].count("█")


def test_pictures_are_the_same_on_every_run_and_all_marks_are_found(run: Run, folder: Path) -> None:
    outs = [word for name in ("a.svg", "a.png", "a.pdf") for word in ("--out", name)]
    arguments = ("bar", "passengers.csv", "--by", "route", "--split", "ticket", "--layout", "percent", *outs)
    assert run(*arguments).returncode == 0
    first = [(folder / name).read_bytes() for name in ("a.svg", "a.png", "a.pdf")]
    assert run(*arguments).returncode == 0
    assert first == [(folder / name).read_bytes() for name in ("a.svg", "a.png", "a.pdf")]
    root = ET.fromstring(first[0])  # noqa: S314 - our own output
    bars = [item for item in root if item.get("data-role") == "bar"]
    assert len(bars) == 30
    assert {bar.get("data-series") for bar in bars} == {"app", "web", "desk", "board", "agent"}


def test_filters_are_said_in_the_note(run: Run) -> None:
    asked = ("--only", "season=Summer", "--except", "route=Vey Sands", "--where", "wait > 5 and spend = 0")
    text = run("table", "passengers.csv", "--by", "ticket", *asked).stdout
    assert "Only passengers with season Summer, without route Vey Sands and where wait > 5 and spend = 0." in text
    assert "filtered away" in text


def test_every_record_is_accounted_for(run: Run) -> None:
    asked = ("--by", "age", "--band", "age=20,40,60", "--split", "ticket", "--where", "wait >= 0", "--account")
    said = run("table", "passengers.csv", *asked).stderr.splitlines()[-1]
    read, parts = said.split(" passengers read = ")
    assert (
        int(read.replace(",", "")) == sum(int(part.split()[0].replace(",", "")) for part in parts.split(" + ")) == 2415
    )
    assert "in no band of age" in parts


def test_a_codebook_is_drafted_checked_converted_and_never_overwritten(run: Run, folder: Path) -> None:
    assert run("codebook", "passengers.csv", "--out", "draft.toml").returncode == 0
    assert run("codebook", "passengers.csv", "--codebook", "draft.toml").stdout == "draft.toml fits passengers.csv.\n"
    checked = run("codebook", "passengers.csv", "--codebook", "codebook.toml", "--out", "schema.json")
    assert checked.returncode == 0
    assert "Described but not in passengers.csv: vehicle, year" in checked.stdout
    share = ("table", "passengers.csv", "--by", "route", "--split", "ticket", "--stat", "share")
    assert run(*share, "--codebook", "schema.json").stdout == run(*share).stdout
    (folder / "draft.toml").write_text('[variables.route.levels]\n1 = "One"\n9 = "Nine"\n')
    wrong = run("codebook", "passengers.csv", "--codebook", "draft.toml")
    assert wrong.returncode == 1
    assert "codes without a label: 2 (588)" in wrong.stdout
    assert "labels never used: 9 = Nine" in wrong.stdout
    assert run("codebook", "passengers.csv", "--out", "draft.toml").returncode == 2


@pytest.mark.parametrize("name", ["d.csv", "d.parquet", "d.arrow", "d.jsonl"])
def test_derived_records_are_the_same_twice_and_read_back(run: Run, folder: Path, name: str) -> None:
    before = (folder / "passengers.csv").read_bytes()
    asked = ("--band", "age=under,30,over", "--recode", "ticket: App, Website -> Online", "--answers", "facilities")
    for _ in range(2):
        done = run("derive", "passengers.csv", *asked, "--labels", "--where", "route <> 6", "--out", name)
        assert done.returncode == 0, done.stderr
        written = (folder / name).read_bytes()
        (folder / name).rename(folder / f"first_{name}") if not (folder / f"first_{name}").exists() else None
    assert written == (folder / f"first_{name}").read_bytes()
    assert (folder / "passengers.csv").read_bytes() == before
    table = run("table", name, "--by", "ticket_recoded", "--split", "age_band", "--no-design", "--out", "t.csv")
    assert table.returncode == 0, table.stderr
    cells = {
        (row["ticket_recoded"], row["age_band"]): row["estimate"]
        for row in csv.DictReader((folder / "t.csv").read_text().splitlines())
    }
    own = run(
        *("table", "passengers.csv", "--by", "ticket", "--split", "age", "--no-design", "--where", "route <> 6"),
        *("--band", "age=under,30,over", "--recode", "ticket: App, Website -> Online", "--out", "own.csv"),
    )
    assert own.returncode == 0
    for row in csv.DictReader((folder / "own.csv").read_text().splitlines()):
        assert cells[row["ticket"], row["age"]] == row["estimate"]


def test_advice_is_given_with_the_figure_that_gave_it_away_and_can_be_silenced(run: Run) -> None:
    ledger = ("table", "crossings.csv", "--by", "month", "--split", "year")
    assert "Advice (already-summarised): every bar counts the same 36 rows" in run(*ledger).stderr
    assert "Advice" not in run(*ledger, "--no-advice", "already-summarised").stderr
    assert "Advice" not in run("table", "passengers.csv", "--by", "route").stderr
    zeros = run("table", "passengers.csv", "--by", "route", "--measure", "spend").stderr
    assert "Advice (many-zeros): 1,163 of 2,415 values of `spend` (48 %) are 0" in zeros
    calm = ("--measure", "wait", "--only", "route=Pell Isle,Osk Harbour")
    assert "Advice" not in run("table", "passengers.csv", "--by", "route", *calm).stderr
    assert run(*ledger, "--no-advice", "already").returncode == 2


def test_a_total_among_its_parts_is_noticed(run: Run, folder: Path) -> None:
    (folder / "l.csv").write_text("k,n\nNorth,3\nAll,12\nSouth,4\nWest,5\n")
    asked = ("table", "l.csv", "--by", "k", "--measure", "n", "--stat", "sum")
    assert "Advice (not-additive): `All` equals the sum of all other levels" in run(*asked).stderr
    assert "Advice" not in run(*asked, "--except", "k=All").stderr


def test_ready_made_figures_with_a_forgotten_year_name_the_column(run: Run) -> None:
    done = run(
        "bar", "crossings.csv", "--by", "route", "--split", "vehicle", "--value", "revenue", "--only", "month=Jan"
    )
    assert done.returncode == 2
    assert "3 rows stand for one bar" in done.stderr
    assert "They differ in year" in done.stderr


@pytest.mark.soak
def test_demo_builds_everything_it_names(run: Run, folder: Path) -> None:
    done = run("demo", "out")
    assert done.returncode == 0
    assert done.stdout.count("\n$ grainstack ") == len(WORTH_KNOWING) == 10
    assert "report.html" in done.stdout
    wanted = {word for _, command in TOUR for word in command.split() if word.endswith((".png", ".svg", ".pdf"))}
    assert wanted <= {item.name for item in (folder / "out").iterdir()}


def test_an_interrupt_leaves_nothing_half_written(folder: Path) -> None:
    signal.signal(signal.SIGINT, signal.default_int_handler)  # a job in the background ignores it, and so its children
    program = subprocess.Popen(
        [PROGRAM, "table", "-", "--by", "a", "--out", "t.csv"],
        cwd=folder,
        stdin=subprocess.PIPE,
        stderr=subprocess.PIPE,
    )
    assert program.stdin is not None
    program.stdin.write(b"a,b\n1,2\n")
    program.stdin.flush()
    time.sleep(1.5)
    program.send_signal(signal.SIGINT)
    _, said = program.communicate(timeout=60)
    assert program.returncode == 130
    assert b"interrupted" in said
    assert not list(folder.glob("*t.csv*"))


def test_a_drafted_codebook_left_unchanged_changes_no_order(run: Run, folder: Path) -> None:
    rows = ["North", "South", "South", "West", "West", "West", "Far East", "North"]
    text = "region,size\n" + "".join(f"{one},{n}\n" for n, one in enumerate(rows))
    (folder / "r.csv").write_text(text, "utf-8")
    (folder / "codebook.toml").unlink()
    shown = [run("bar", "r.csv", "--by", "region", "--out", "a.svg").stderr]
    assert run("codebook", "r.csv", "--out", "book.toml").returncode == 0
    assert 'order = "size"' in (folder / "book.toml").read_text("utf-8")
    shown.append(run("bar", "r.csv", "--codebook", "book.toml", "--by", "region", "--out", "b.svg").stderr)
    assert all("largest first" in text for text in shown)
    names = [
        re.findall(r'data-role="category"[^>]*>([^<]+)<', (folder / f"{one}.svg").read_text("utf-8")) for one in "ab"
    ]
    assert names[0] == names[1]
    assert names[0][0] == "West"


def test_a_column_with_a_dot_is_proposed_in_quotes_that_work(run: Run, folder: Path) -> None:
    (folder / "d.csv").write_text("k,yrs.service\na,5\nb,12\nb,20\n", "utf-8")
    done = run("table", "d.csv", "--by", "k", "--where", "yrs.service > 10")
    assert done.returncode == 2
    [proposed] = re.findall(r"Quote it: (.+)\.$", done.stderr.strip())
    [typed] = shlex.split(proposed)
    assert "b" in run("table", "d.csv", "--by", "k", "--where", typed).stdout


@pytest.mark.parametrize("file", ["passengers.csv", "crossings.csv", "costs.csv"])
def test_every_command_that_look_proposes_works(run: Run, file: str) -> None:
    shown = run("look", file, "--rows", "0").stdout
    tries = [line.strip() for line in shown.partition("Try next")[2].splitlines() if line.strip()]
    assert 2 <= len(tries) <= 6
    for line in tries:
        done = run(*shlex.split(line)[1:])
        assert done.returncode == 0, (line, done.stderr)


def test_rows_that_stand_for_many_are_proposed_to_count_as_many(run: Run, folder: Path) -> None:
    (folder / "f.csv").write_text("region,answer,Freq\nN,yes,10\nN,no,5\nS,yes,7\nS,no,9\n", "utf-8")
    shown = run("look", "f.csv").stdout
    assert "grainstack bar f.csv --by region --split answer --times Freq" in shown
    assert "Base: 31 records" in run("bar", "f.csv", "--by", "region", "--split", "answer", "--times", "Freq").stdout


def test_look_proposes_a_treemap_where_columns_are_nested(run: Run) -> None:
    shown = run("look", "costs.csv").stdout
    assert "grainstack treemap costs.csv --by department --by item --measure amount" in shown
    assert "treemap" not in run("look", "passengers.csv").stdout


def test_a_measure_that_adds_up_the_others_is_told(run: Run, folder: Path) -> None:
    (folder / "wide.csv").write_text("pier,jan,feb,total\nA,1,2,3\nB,4,5,9\nC,2,2,4\n", "utf-8")
    asked = ("table", "wide.csv", "--by", "pier", "--stat", "sum", "--measure", "jan", "--measure", "feb")
    assert "`total` is the sum of the other measures" in run(*asked, "--measure", "total").stderr
    assert "not-additive" not in run(*asked).stderr


def test_answers_that_are_none_do_not_count_in_shares_without_a_word(run: Run, folder: Path) -> None:
    (folder / "codebook.toml").unlink()
    (folder / "q.csv").write_text("q\nyes\nno\n99\nyes\nn/a\nno\n-\nmaybe\n", "utf-8")
    asked = ("table", "q.csv", "--by", "q", "--stat", "share")
    told = run(*asked).stderr
    assert "`99`, `n/a` and `-` of `q` look like no answer" in told
    [option] = re.findall(r"leave them out: (.+)\.$", told.strip())
    left_out = run(*asked, *shlex.split(option))
    assert "no-answer-level" not in left_out.stderr
    assert "Base: 5 records" in left_out.stdout
    drafted = run("codebook", "q.csv").stdout
    assert 'missing = ["-", "99", "n/a"]' in drafted
