"""Each file once as it comes: what is read of it, what is asked, and what is refused."""

import json
from pathlib import Path
from typing import NamedTuple

import pytest

from tests.program.conftest import Run, folder, run

__all__ = ["folder", "run"]

SUM = ("--by", "pier", "--measure", "amount", "--stat", "sum")
QUARTER = ("--by", "day", "--band", "day=quarter", "--stat", "count")


class Read(NamedTuple):
    """A file that is read: what is asked of it, the figures by their first label, and what is told beside them."""

    content: str
    asked: tuple[str, ...]
    figures: dict[str, float]
    told: str = ""
    encoding: str = "utf-8"


class Refused(NamedTuple):
    """A file that cannot be read in one way, or not at all: what is asked of it, and what the message says."""

    content: str
    asked: tuple[str, ...]
    message: str


QUARTERS = {"Q1 2025": 1.0, "Q2 2025": 2.0}
AMOUNTS = {"Amble": 1234.5, "Burn": 2000.0, "Corby": 1965.5}
READ = {
    "comma": Read("pier,amount\nAmble,1234.5\nBurn,2000\nCorby,1965.5\n", SUM, AMOUNTS),
    "semicolon and decimal comma": Read("pier;amount\nAmble;1234,5\nBurn;2000\nCorby;1965,5\n", SUM, AMOUNTS),
    "tab": Read("pier\tamount\nAmble\t1234.5\nBurn\t2000\nCorby\t1965.5\n", SUM, AMOUNTS),
    "latin-1": Read("pier;amount\nÄmble;1\nBürn;2\n", SUM, {"Ämble": 1, "Bürn": 2}, encoding="latin-1"),
    "byte order mark": Read("pier,amount\nAmble,1\nBurn,2\n", SUM, {"Amble": 1, "Burn": 2}, encoding="utf-8-sig"),
    "UTF-16": Read("pier,amount\nAmble,1\nBurn,2\n", SUM, {"Amble": 1, "Burn": 2}, encoding="utf-16"),
    "German thousands": Read("pier;amount\nAmble;1.234,50\nBurn;2.000,00\nCorby;1.965,50\n", SUM, AMOUNTS),
    "English thousands": Read('pier,amount\nAmble,"1,234.50"\nBurn,"2,000.00"\nCorby,"1,965.50"\n', SUM, AMOUNTS),
    "Swiss thousands": Read("pier,amount\nAmble,1'234.50\nBurn,2'000.00\nCorby,1'965.50\n", SUM, AMOUNTS),
    "French thousands": Read("pier;amount\nAmble;1 234,50\nBurn;2 000,00\nCorby;1 965,50\n", SUM, AMOUNTS),
    "dollars": Read('pier,amount\nAmble,"$1,234.50"\nBurn,"$2,000.00"\nCorby,"$1,965.50"\n', SUM, AMOUNTS),
    "euros behind": Read("pier;amount\nAmble;1.234,50 €\nBurn;2.000,00 €\nCorby;1.965,50 €\n", SUM, AMOUNTS),
    "percent": Read("pier,amount\nAmble,12 %\nBurn,30 %\nCorby,58 %\n", SUM, {"Amble": 12, "Burn": 30, "Corby": 58}),
    "brackets for losses": Read("pier,amount\nAmble,(12)\nBurn,30\nCorby,(8)\n", SUM, {"Amble": -12, "Corby": -8}),
    "a minus behind": Read("pier,amount\nAmble,12-\nBurn,30\nCorby,8-\n", SUM, {"Amble": -12, "Corby": -8}),
    "a true minus": Read("pier,amount\nAmble,−12\nBurn,30\nCorby,−8\n", SUM, {"Amble": -12, "Corby": -8}),
    "n/a among numbers": Read("pier,amount\nAmble,1\nBurn,n/a\nCorby,3\nCorby,4\n", SUM, {"Amble": 1, "Corby": 7}),
    "a total below": Read(
        "pier,amount\nAmble,1234.5\nBurn,2000\nCorby,1965.5\nTotal,5200\n", SUM, AMOUNTS, "(Total) adds up all others"
    ),
    "a German total below": Read(
        "pier;amount\nAmble;1.234,50\nBurn;2.000,00\nCorby;1.965,50\nSumme;5.200,00\n", SUM, AMOUNTS, "(Summe) adds up"
    ),
    "a total without a name": Read(
        "pier,amount\nAmble,1\nBurn,2\nCorby,4\n,7\n", SUM, {"Amble": 1, "Burn": 2, "Corby": 4}, "adds up all others"
    ),
    "a total of years": Read(
        "year,amount\n2021,1\n2022,2\n2023,4\n,7\n",
        ("--by", "year", "--measure", "amount", "--stat", "sum"),
        {"2021": 1, "2022": 2, "2023": 4},
        "adds up all others",
    ),
    "a total that is kept": Read(
        "pier,amount\nAmble,1\nBurn,2\nCorby,4\nTotal,7\n", (*SUM, "--keep-totals"), {"Total": 7}
    ),
    "a last row that is no total": Read("pier,amount\nAmble,1\nBurn,2\nCorby,4\nTotal,8\n", SUM, {"Total": 8}),
    "a sum by chance": Read("pier,amount\nAmble,1\nBurn,2\nCorby,4\nDene,7\n", SUM, {"Dene": 7}),
    "lines above the header": Read(
        "Takings by pier\n2025\npier,amount\nAmble,1\nBurn,2\n", (*SUM, "--header-row", "3"), {"Amble": 1, "Burn": 2}
    ),
    "names in two lines": Read(
        "pier,2024,,2025,\n,Q1,Q2,Q1,Q2\nAmble,1,2,3,4\nBurn,5,6,7,8\n",
        ("--by", "pier", "--measure", "2025 Q1", "--stat", "sum", "--header-lines", "2"),
        {"Amble": 3, "Burn": 7},
    ),
    "names in two lines below a title": Read(
        "Takings;;\n;;\npier;amount;\n;cash;card\nÄmble;1;2\nBürn;3;4\n",
        ("--by", "pier", "--measure", "amount card", "--stat", "sum", "--header-row", "3", "--header-lines", "2"),
        {"Ämble": 2, "Bürn": 4},
        encoding="cp1252",
    ),
    "units below the header": Read(
        "pier;amount\n;€\nAmble;1234,5\nBurn;2000\nCorby;1965,5\n", (*SUM, "--header-lines", "2"), AMOUNTS
    ),
    "units of another encoding": Read(
        "pier;amount\n;€\nÄmble;1\nBürn;2\n",
        (*SUM, "--header-lines", "2"),
        {"Ämble": 1, "Bürn": 2},
        encoding="cp1252",
    ),
    "a title that is the only name": Read(
        "Names\n\na;b\nc;d\n", ("--by", "Names", "--header-row", "1"), {"a;b": 1, "c;d": 1}
    ),
    "ISO dates": Read("day,a\n2025-01-31,1\n2025-04-02,1\n2025-04-30,1\n", QUARTER, QUARTERS),
    "German dates": Read("day,a\n31.01.2025,1\n2.4.2025,1\n30.04.2025,1\n", QUARTER, QUARTERS),
    "American dates": Read("day,a\n01/31/2025,1\n04/02/2025,1\n04/30/2025,1\n", QUARTER, QUARTERS),
    "British dates": Read("day,a\n31/01/2025,1\n02/04/2025,1\n30/04/2025,1\n", QUARTER, QUARTERS),
    "years first": Read("day,a\n2025/01/31,1\n2025/04/02,1\n2025/04/30,1\n", QUARTER, QUARTERS),
    "named months": Read("day,a\n31 Jan 2025,1\n2 Apr 2025,1\n30 April 2025,1\n", QUARTER, QUARTERS),
    "German months": Read("day,a\n31. März 2025,1\n2. Mai 2025,1\n3. Juni 2025,1\n", QUARTER, QUARTERS),
    "months alone": Read("day,a\nJan 2025,1\nApr 2025,1\nMay 2025,1\n", QUARTER, QUARTERS),
    "timestamps": Read(
        "day,a\n2025-01-31T10:00:00Z,1\n2025-04-02T23:59:59+02:00,1\n2025-04-30T00:00:00Z,1\n",
        QUARTER,
        QUARTERS,
    ),
    "German timestamps": Read("day,a\n31.01.2025 10:00,1\n02.04.2025 23:59,1\n30.04.2025 00:00,1\n", QUARTER, QUARTERS),
    "dates in one number": Read("day,a\n20250131,1\n20250402,1\n20250430,1\n", QUARTER, QUARTERS),
    "days of a spreadsheet": Read("day,a\n45688,1\n45749,1\n45777.5,1\n", QUARTER, QUARTERS, "45688 is 2025-01-31"),
    "years of days of a spreadsheet": Read(
        "day,a\n45688,1\n45749,1\n",
        ("--compute", "y = YEAR(day)", "--by", "y", "--stat", "count"),
        {"2025": 2},
    ),
    "dates that were settled": Read(
        "day,a\n01/02/2025,1\n04/05/2025,1\n", (*QUARTER, "--dates", "month-first"), {"Q1 2025": 1, "Q2 2025": 1}
    ),
    "years of German dates": Read(
        "day,a\n31.01.2024,1\n02.04.2025,1\n30.04.2025,1\n",
        ("--compute", "y = YEAR(day)", "--by", "y", "--stat", "count"),
        {"2024": 1, "2025": 2},
    ),
}
REFUSED = {
    "thousands or decimals": Refused("pier,amount\nAmble,1.234\nBurn,2.500\n", SUM, "can be read in two ways"),
    "days or months": Refused("day,a\n01/02/2025,1\n04/05/2025,1\n", QUARTER, "begin with its day or its month?"),
    "days or months in a formula": Refused(
        "day,a\n01/02/2025,1\n04/05/2025,1\n", ("--compute", "y = MONTH(day)", "--by", "y"), "can be read in two ways"
    ),
    "a day there is not": Refused("day,a\n2025-01-31,1\n2025-02-30,1\n", QUARTER, '"2025-02-30" (line 3)'),
    "text among numbers": Refused("pier,amount\nAmble,1\nBurn,two\n", SUM, '"two" (line 3)'),
    "nothing": Refused("", SUM, "is empty"),
    "lines above the header": Refused("Takings\n\npier;amount\nAmble;1\nBurn;2\n", SUM, "--header-row 3"),
    "names in two lines": Refused(
        "pier,2024,,2025,\n,Q1,Q2,Q1,Q2\nAmble,1,2,3,4\nBurn,5,6,7,8\n", SUM, "one header: --header-lines 2"
    ),
    "units below the header": Refused("pier,amount\n,€\nAmble,1\nBurn,2\n", SUM, "units (€): --header-lines 2"),
    "a column without a name": Refused("pier,,amount\nAmble,5,1\nBurn,6,2\n", SUM, "line 1: column 2 (5, 6 …)"),
}


def shown(run: Run, folder: Path, case: Read, *more: str) -> tuple[dict[str, float], str]:
    """What a file shows, by the first label, where more is asked of it; and what is told beside it."""
    (folder / "codebook.toml").unlink(missing_ok=True)
    (folder / "t.json").unlink(missing_ok=True)
    (folder / "sent.csv").write_bytes(case.content.encode(case.encoding))
    done = run("table", "sent.csv", *case.asked, *more, "--out", "t.json")
    assert done.returncode == 0, done.stderr
    cells = json.loads((folder / "t.json").read_text("utf-8"))["cells"]
    return {str(next(iter(cell.values()))): cell["estimate"] for cell in cells}, done.stderr


@pytest.mark.parametrize("name", READ)
def test_it_is_read_as_it_is_meant(run: Run, folder: Path, name: str) -> None:
    case = READ[name]
    found, told = shown(run, folder, case)
    assert {label: found.get(label) for label in case.figures} == pytest.approx(case.figures)
    assert case.told in told
    if "total" in name and not case.told:
        assert "adds up all others" not in told
    if case.told:
        assert len(found) == len(case.figures)


@pytest.mark.parametrize("name", [name for name, case in READ.items() if "amount" in case.asked])
@pytest.mark.parametrize(
    "way",
    [("--where", "amount + 0 > -99999 or amount is null"), ("--compute", "own = amount + 0")],
    ids=lambda way: way[0],
)
def test_formulas_read_numbers_as_measures_do(run: Run, folder: Path, name: str, way: tuple[str, ...]) -> None:
    case = READ[name]
    if "--compute" in way:
        case = case._replace(asked=tuple("own" if one == "amount" else one for one in case.asked))
    assert shown(run, folder, case, *way)[0] == pytest.approx(shown(run, folder, READ[name])[0])


@pytest.mark.parametrize("name", [name for name, case in READ.items() if "day=quarter" in case.asked])
def test_formulas_read_dates_as_bands_do(run: Run, folder: Path, name: str) -> None:
    case = READ[name]
    bands, _ = shown(run, folder, case)
    assert shown(run, folder, case, "--where", "quarter(day) < 5")[0] == bands
    own = case._replace(asked=("--compute", "q = quarter(day)", "--by", "q", *case.asked[len(QUARTER) :]))
    assert {f"Q{quarter} 2025": count for quarter, count in shown(run, folder, own)[0].items()} == bands


def test_what_is_worked_out_is_no_text_of_the_file(run: Run, folder: Path) -> None:
    asked = ("--by", "pier", "--compute", "k = amount / 7000", "--measure", "k", "--stat", "sum")
    found, _ = shown(run, folder, Read("pier;amount\nAmble;1234,5\nBurn;2000\n", asked, {}))
    assert found == pytest.approx({"Amble": 1234.5 / 7000, "Burn": 2 / 7})


@pytest.mark.parametrize("name", REFUSED)
def test_what_can_be_read_in_two_ways_is_asked(run: Run, folder: Path, name: str) -> None:
    case = REFUSED[name]
    (folder / "codebook.toml").unlink(missing_ok=True)
    (folder / "sent.csv").write_text(case.content, "utf-8")
    done = run("table", "sent.csv", *case.asked)
    assert done.returncode != 0
    assert case.message in done.stderr
    assert not done.stdout


def test_columns_that_are_written_otherwise_are_settled_one_by_one(run: Run, folder: Path) -> None:
    rows = (
        "pier,amount,price,day,due\nAmble,1.234,1.234,01/02/2025,01/02/2025\nBurn,2.345,2.345,03/04/2025,03/04/2025\n"
    )
    (folder / "two.csv").write_text(rows, "utf-8")
    (folder / "codebook.toml").write_text(
        '[variables.amount]\ndecimal = ","\n[variables.price]\ndecimal = "."\n'
        '[variables.day]\ndates = "day-first"\n[variables.due]\ndates = "month-first"\n',
        "utf-8",
    )

    def found(*asked: str) -> list[tuple[str, float]]:
        done = run("table", "two.csv", *asked, "--out", "t.json")
        assert done.returncode == 0, done.stderr
        cells = json.loads((folder / "t.json").read_text("utf-8"))["cells"]
        return [(str(next(iter(cell.values()))), cell["estimate"]) for cell in cells if cell["estimate"]]

    sums = ("--by", "pier", "--stat", "sum", "--order", "alphabetical")
    assert [value for _, value in found(*sums, "--measure", "amount")] == [1234.0, 2345.0]
    assert [value for _, value in found(*sums, "--measure", "price")] == [1.234, 2.345]
    assert [name for name, _ in found("--by", "day", "--band", "day=month")] == ["Feb 2025", "Apr 2025"]
    assert [name for name, _ in found("--by", "due", "--band", "due=month")] == ["Jan 2025", "Mar 2025"]
