"""Files as they come: decimal commas, several answers in a value, title lines, totals, and what is no records."""

import sqlite3
from contextlib import closing
from pathlib import Path

import openpyxl
import pytest

from tests.program.conftest import Run

pytestmark = pytest.mark.usefixtures("bare")


def test_decimal_commas_of_a_semicolon_file_are_read_and_said(run: Run, folder: Path) -> None:
    (folder / "d.csv").write_text("k;v\na;1.234,5\na;10,5\nb;3,25\nb;\n", "utf-8")
    done = run("table", "d.csv", "--by", "k", "--measure", "v", "--stat", "sum")
    assert [line.split()[-1] for line in done.stdout.splitlines()[2:4]] == ["1,245", "3"]
    assert "read with decimal commas" in done.stderr
    looked = run("look", "d.csv", "--rows", "0")
    assert "number" in looked.stdout
    assert "read with decimal commas" in looked.stderr
    assert 'decimal = ","' in run("codebook", "d.csv").stdout
    typed = run("table", "d.csv", "--by", "k", "--measure", "v", "--decimal", "comma")
    assert "decimal commas" not in typed.stderr
    assert run("table", "d.csv", "--by", "k", "--measure", "v", "--decimal", "point").returncode == 1


def test_a_codebook_that_is_silent_on_decimals_is_checked_by_the_sign_of_the_file(run: Run, folder: Path) -> None:
    (folder / "d.csv").write_text("k;v\na;1,5\nb;2,5\n", "utf-8")
    (folder / "d.toml").write_text('[variables.v]\nkind = "number"\n', "utf-8")
    checked = run("codebook", "d.csv", "--codebook", "d.toml")
    assert (checked.returncode, checked.stdout) == (0, "d.toml fits d.csv.\n")


@pytest.mark.parametrize("text", ["1,234", "1,000", "12,345"])
def test_thousands_are_no_decimals(run: Run, folder: Path, text: str) -> None:
    (folder / "d.csv").write_text(f"k;v\na;{text}\nb;{text}\n", "utf-8")
    assert "decimal commas" not in run("look", "d.csv").stderr


@pytest.mark.parametrize(
    ("values", "mark"),
    [
        (("1;3", "1", "3", "1;2", "2"), ";"),
        (("bus, train", "bus", "train", "tram", "bus, tram"), ","),
        (("a|b", "b|c", "a", "c"), "|"),
    ],
)
def test_several_answers_in_one_value_are_recognised(
    run: Run, folder: Path, values: tuple[str, ...], mark: str
) -> None:
    (folder / "m.csv").write_text("who,used\n" + "".join(f'{n},"{one}"\n' for n, one in enumerate(values)), "utf-8")
    looked = run("look", "m.csv", "--rows", "0").stdout
    assert "multi" in looked
    assert "grainstack bar m.csv --by used --answers used" in looked
    drafted = run("codebook", "m.csv").stdout
    assert 'kind = "multi"' in drafted
    assert f'separator = "{mark}"' in drafted
    parts = {part.strip() for value in values for part in value.split(mark)}
    drawn = run("bar", "m.csv", "--by", "used", "--answers", "used")
    assert drawn.returncode == 0
    assert {line.split()[0] for line in drawn.stdout.splitlines() if "█" in line} == parts


@pytest.mark.parametrize("names", [("Ames, Lee", "Ames, Kim", "Bell, Roy"), ("1,5", "2,5", "1,2")])
def test_names_and_numbers_are_no_several_answers(run: Run, folder: Path, names: tuple[str, ...]) -> None:
    (folder / "n.csv").write_text("who\n" + "".join(f'"{name}"\n' for name in names), "utf-8")
    assert "multi" not in run("look", "n.csv").stdout


def test_questions_on_one_scale_belong_together(run: Run, folder: Path) -> None:
    rows = "".join(f"{n % 3 + 1},{(n + 1) % 3 + 1},{(n * 2) % 3 + 1},{'xy'[n % 2]}\n" for n in range(30))
    (folder / "q.csv").write_text("q1,q2,q3,who\n" + rows, "utf-8")
    looked = run("look", "q.csv", "--rows", "0").stdout
    command = next(line for line in looked.splitlines() if "--items" in line).split()
    assert command[1:] == ["bar", "q.csv", "--items", "questions=q1,q2,q3", "--layout", "percent"]
    assert run(*command[1:]).returncode == 0
    assert "# q1, q2, q3 have the same answers" in run("codebook", "q.csv").stdout


def test_title_lines_above_a_header_are_met_with_the_way_out(run: Run, folder: Path) -> None:
    book = openpyxl.Workbook()
    sheet = book.active
    assert sheet is not None
    for row in (["Sales of the year"], [], ["region", "sales"], ["north", 3], ["south", 4]):
        sheet.append(row)
    book.create_sheet("notes").append(["nothing"])
    book.save(folder / "s.xlsx")
    refused = run("bar", "s.xlsx", "--by", "region")
    assert refused.returncode == 1
    assert "Row 3 looks like the header: --header-row 3." in refused.stderr
    done = run("bar", "s.xlsx", "--by", "region", "--measure", "sales", "--stat", "sum", "--header-row", "3")
    assert done.returncode == 0
    assert "north" in done.stdout
    assert "others: notes" in done.stderr
    assert "region" in run("look", "s.xlsx", "--header-row", "3").stdout
    assert "[variables.region]" in run("codebook", "s.xlsx", "--header-row", "3").stdout
    assert "Row 9 of sheet" in run("look", "s.xlsx", "--header-row", "9").stderr
    (folder / "deep.csv").write_text("Costs of the year;;\n;;\nunit;amount;who\na;1,5;x\nb;2,5;y\n", "utf-8")
    assert "Line 3 looks like the header: --header-row 3." in run("look", "deep.csv").stderr
    below = run("bar", "deep.csv", "--header-row", "3", "--by", "unit", "--measure", "amount", "--stat", "sum")
    assert "b █" in below.stdout
    (folder / "ragged.csv").write_text("Words\n\nunit,amount\na,1\nb,1,2\n", "utf-8")
    ragged = run("bar", "ragged.csv", "--header-row", "3", "--by", "unit", "--measure", "amount")
    assert "ragged.csv, line 5: 3 values" in ragged.stderr


@pytest.mark.parametrize("name", ["Total", "total", "Sum", "Insgesamt"])
def test_a_total_among_its_parts_is_met_with_advice(run: Run, folder: Path, name: str) -> None:
    (folder / "l.csv").write_text(f"item,amount\nWood,10\nGlass,20\n{name},31\n", "utf-8")
    done = run("bar", "l.csv", "--by", "item", "--measure", "amount", "--stat", "sum")
    assert f"Leave it out: --except item={name}" in done.stderr


def test_a_row_for_each_category_is_recognised_at_any_size(run: Run, folder: Path) -> None:
    (folder / "g.csv").write_text("item,amount\nWood,10\nGlass,20\n", "utf-8")
    assert "--value amount" in run("bar", "g.csv", "--by", "item").stderr
    assert "--by item --value amount --value-is sum" in run("look", "g.csv").stdout


@pytest.mark.parametrize(
    ("name", "content", "said"),
    [
        ("x.sav", b"abc", "is a file of another program"),
        ("x.xls", b"\xd0\xcf\x11\xe0", "is a file of another program"),
        ("x.bin", b"\x00\x01\x02\x03abc\x00\x05", "is no text and no format that is known"),
    ],
)
def test_what_is_no_records_has_a_sentence_of_its_own(
    run: Run, folder: Path, name: str, content: bytes, said: str
) -> None:
    (folder / name).write_bytes(content)
    done = run("look", name)
    assert done.returncode == 1
    assert said in done.stderr
    assert len(done.stderr.splitlines()) == 2


def test_nothing_is_fetched_from_the_web(run: Run) -> None:
    done = run("look", "https://example.org/x.csv")
    assert done.returncode == 2
    assert "nothing is fetched from the web" in done.stderr


def test_a_draft_suggests_no_unit_and_shows_how_to_give_a_colour(run: Run) -> None:
    drafted = run("codebook", "passengers.csv").stdout
    assert "unit" not in drafted
    assert "color" in drafted
    assert "# [design]" in drafted


def test_what_is_sent_to_a_database_is_shown_on_request(run: Run, folder: Path) -> None:
    with closing(sqlite3.connect(folder / "r.sqlite")) as database:
        database.execute("CREATE TABLE people (k TEXT, v REAL)")
        database.executemany("INSERT INTO people VALUES (?, ?)", [("a", 1.5), ("b", 2.5)] * 9)
        database.commit()
    done = run("table", "r.sqlite", "--by", "k", "--measure", "v", "--explain")
    sent = " ".join(done.stderr.split())
    assert sent.startswith('Sent: SELECT \'\' AS "k", 0.5 AS "v" UNION ALL')  # a row that tells the types
    assert sent.endswith('SELECT "k", "v" FROM "people" AS records')
    assert "is no database" in run("table", "passengers.csv", "--by", "route", "--explain").stderr


def test_what_was_written_is_opened(run: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    opened: list[str] = []
    monkeypatch.setattr("typer.launch", opened.append)
    assert run("bar", "passengers.csv", "--by", "route", "--out", "a.svg", "--open").returncode == 0
    assert opened == ["a.svg"]
    assert "--open opens what is written" in run("bar", "passengers.csv", "--by", "route", "--open").stderr
