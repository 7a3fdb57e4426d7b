"""`grainstack codebook --ask`: what a file does not tell is asked once, typed or decided in a file."""

import tomllib
from pathlib import Path
from typing import Any

import pytest

from tests.program.conftest import Run

ROWS = [(n, 1 + n % 3, 1 + n % 5, 9 if n % 7 == 0 else 1 + n % 5, 999 if n % 9 == 0 else 20 + n) for n in range(60)]
SURVEY = "who,weight,q1,q2,age,paid,day\n" + "".join(
    f"{','.join(map(str, row))},1.{row[0]:03d},0{1 + row[0] % 9}/0{1 + row[0] % 8}/2025\n" for row in ROWS
)
DECISIONS = """noun = "visitors"
decimal = "point"
dates = "day-first"
"weight is weight" = true
"kind of q1, q2" = "ordered"
"good end of q1, q2" = "last"
"q1, q2 9 is no answer" = true
"age 999 is no answer" = "yes"
"""


@pytest.fixture
def survey(folder: Path) -> Path:
    (folder / "codebook.toml").unlink(missing_ok=True)
    (folder / "s.csv").write_text(SURVEY, "utf-8")
    (folder / "d.toml").write_text(DECISIONS, "utf-8")
    return folder


def written(folder: Path) -> dict[str, Any]:
    return tomllib.loads((folder / "c.toml").read_text("utf-8"))


def test_decisions_answer_every_question(run: Run, survey: Path) -> None:
    done = run("codebook", "s.csv", "--decisions", "d.toml", "--out", "c.toml")
    assert done.returncode == 0, done.stderr
    book = written(survey)
    assert book["records"] == {"noun": "visitors", "decimal": ".", "dates": "day-first"}
    assert book["design"] == {"weight": "weight"}
    for name in ("q1", "q2"):
        assert book["variables"][name]["kind"] == "ordered"
        assert book["variables"][name]["good"] == "last"
    assert book["variables"]["q2"]["missing"] == ["9"]
    assert "999" in str(book["variables"]["age"]["missing"])
    chart = run("table", "s.csv", "--codebook", "c.toml", "--by", "q2", "--measure", "paid")
    assert chart.returncode == 0, chart.stderr
    assert "visitors" in chart.stdout


def test_nothing_is_asked_twice(run: Run, survey: Path) -> None:
    run("codebook", "s.csv", "--decisions", "d.toml", "--out", "c.toml")
    again = run("codebook", "s.csv", "--codebook", "c.toml", "--ask", "--out", "c2.toml")
    assert again.returncode == 0, again.stderr
    assert "?" not in again.stderr
    assert (survey / "c2.toml").read_text("utf-8") == (survey / "c.toml").read_text("utf-8")


def test_answers_are_typed_one_by_one(run: Run, survey: Path) -> None:
    answers = b"visitors\nc\nd\n\nwhat\nnum\n\nno\n"
    done = run("codebook", "s.csv", "--ask", "--out", "c.toml", stdin=answers)
    assert done.returncode == 0, done.stderr
    book = written(survey)
    assert book["records"] == {"noun": "visitors", "decimal": ",", "dates": "day-first"}
    assert book["variables"]["q1"]["kind"] == "number"
    assert "missing" not in book["variables"]["age"]
    assert done.stderr.count("steps of a scale, codes of categories, or amounts?") == 1


def test_what_is_not_answered_is_told_as_a_file_of_decisions(run: Run, survey: Path) -> None:
    done = run("codebook", "s.csv", "--ask", "--out", "c.toml", stdin=b"visitors\n")
    assert done.returncode == 2
    assert not (survey / "c.toml").exists()
    lines = done.stderr.partition("Answer in a file for --decisions FILE:\n")[2]
    decided = tomllib.loads(lines) | {"noun": "visitors"}
    assert set(decided) >= {"decimal", "dates", "age 999 is no answer"}
    (survey / "d2.toml").write_text("noun = 'visitors'\n" + lines, "utf-8")
    assert run("codebook", "s.csv", "--decisions", "d2.toml", "--out", "c.toml").returncode == 0


@pytest.mark.parametrize(
    ("decisions", "message"),
    [
        (DECISIONS.replace('= "ordered"', '= "amounts"'), "It is one of ordered, category, number"),
        ('noun = "visitors"\n', "7 questions not answered"),
        ("noun = ", "is no TOML"),
        ("noun = [1]", "is no answer"),
    ],
)
def test_wrong_decisions_are_told(run: Run, survey: Path, decisions: str, message: str) -> None:
    (survey / "d.toml").write_text(decisions, "utf-8")
    done = run("codebook", "s.csv", "--decisions", "d.toml", "--out", "c.toml")
    assert done.returncode == 2
    assert message in done.stderr
    assert not (survey / "c.toml").exists()


def test_a_decision_about_nothing_asked_is_told(run: Run, survey: Path) -> None:
    (survey / "d.toml").write_text(DECISIONS + '"kind of q3" = "number"\n', "utf-8")
    done = run("codebook", "s.csv", "--decisions", "d.toml", "--out", "c.toml")
    assert done.returncode == 0
    assert "kind of q3" in done.stderr
    assert "kind of q1, q2" in done.stderr, "the one meant"


def test_records_and_answers_do_not_both_come_from_standard_input(run: Run) -> None:
    done = run("codebook", "-", "--ask", stdin=SURVEY.encode())
    assert done.returncode == 2
    assert "cannot both come from standard input" in done.stderr
