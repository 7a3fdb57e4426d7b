"""Banner tables: answers down, groups of several columns across, letters against an independent computation."""

import csv
import json
import re
from collections import Counter
from itertools import combinations
from math import sqrt
from pathlib import Path
from random import Random

import openpyxl
import pytest
from scipy.stats import norm, t

from tests.program.conftest import Run

BANNER = ("table", "quays.csv", "--by", "answer", "--banner", "pier", "--banner", "tide")
LEAST = 30


@pytest.fixture
def rows(folder: Path) -> list[dict[str, str]]:
    """Records whose shares differ between groups, one of which is small."""
    random = Random(5)  # noqa: S311 - made-up records
    found = []
    for number in range(900):
        pier = "small" if number < 20 else random.choice(["Amble", "Burn", "Corby"])
        tide = random.choice(["low", "high"])
        chance = {"Amble": 0.35, "Burn": 0.5, "Corby": 0.62, "small": 0.9}[pier] + (0.06 if tide == "low" else 0.0)
        answer = "yes" if random.random() < chance else random.choice(["no", "maybe"])
        wait = round(random.gauss(20 + 3 * (pier == "Corby"), 5), 1)
        found.append({"pier": pier, "tide": tide, "answer": answer, "wait": str(wait)})
    with (folder / "quays.csv").open("w", encoding="utf-8", newline="") as file:
        writer = csv.DictWriter(file, list(found[0]))
        writer.writeheader()
        writer.writerows(found)
    return found


def holm(p_values: list[float]) -> list[float]:
    order = sorted(range(len(p_values)), key=lambda place: p_values[place])
    found, largest = [1.0] * len(p_values), 0.0
    for rank, place in enumerate(order):
        largest = max(largest, min(1.0, (len(p_values) - rank) * p_values[place]))
        found[place] = largest
    return found


def letters_of(
    figures: dict[str, tuple[float, float]], tests: dict[tuple[str, str], float], bounds: list[float]
) -> dict[str, str]:
    """The letters of groups from their figures, in their order, and the p-values of pairs."""
    names = list(figures)
    found: dict[str, list[str]] = {name: [] for name in names}
    for (one, other), p in tests.items():
        high, low = (one, other) if figures[one][0] > figures[other][0] else (other, one)
        letter = "ABCDEFGH"[names.index(low)]
        if p < bounds[0]:
            found[high].append(letter)
        elif len(bounds) > 1 and p < bounds[1]:
            found[high].append(letter.lower())
    return {name: "".join(sorted(one, key=str.upper)) for name, one in found.items()}


def share_letters(
    rows: list[dict[str, str]], column: str, answer: str, bounds: list[float], *, adjust: bool
) -> dict[str, str]:
    """By the pooled z-test of two shares."""
    sizes, hits = Counter(row[column] for row in rows), Counter(row[column] for row in rows if row["answer"] == answer)
    order = {"pier": ["Amble", "Burn", "Corby", "small"], "tide": ["low", "high"]}[column]
    names = sorted(sizes, key=lambda name: (-sizes[name], order.index(name)))
    pairs = [(a, b) for a, b in combinations(names, 2) if min(sizes[a], sizes[b]) >= LEAST]
    p_values = []
    for one, other in pairs:
        pooled = (hits[one] + hits[other]) / (sizes[one] + sizes[other])
        error = sqrt(pooled * (1 - pooled) * (1 / sizes[one] + 1 / sizes[other]))
        p_values.append(2 * norm.sf(abs(hits[one] / sizes[one] - hits[other] / sizes[other]) / error))
    adjusted = holm(p_values) if adjust else p_values
    figures = {name: (hits[name] / sizes[name], 0.0) for name in names}
    return letters_of(figures, dict(zip(pairs, adjusted, strict=True)), bounds)


@pytest.mark.parametrize(
    ("typed", "bounds", "adjust"),
    [
        ((), [0.05], True),
        (("--family", "none"), [0.05], False),
        (("--confidence", "99.9", "--confidence", "95"), [0.001, 0.05], True),
        (("--confidence", "95", "--confidence", "99.9", "--family", "none"), [0.001, 0.05], False),
    ],
)
def test_letters_name_the_columns_of_lower_figures(  # noqa: PLR0913 - a case is all of that
    run: Run, folder: Path, rows: list[dict[str, str]], typed: tuple[str, ...], bounds: list[float], *, adjust: bool
) -> None:
    assert run(*BANNER, *typed, "--out", "b.json").returncode == 0
    cells = json.loads((folder / "b.json").read_text("utf-8"))["cells"]
    lettered = 0
    for column in ("pier", "tide"):
        for answer in ("yes", "no", "maybe"):
            wanted = share_letters(rows, column, answer, bounds, adjust=adjust)
            of_it = [cell for cell in cells if cell["banner"] == column and cell["answer"] == answer]
            assert {cell["group"]: cell["letters"] for cell in of_it} == wanted
            lettered += sum(map(bool, wanted.values()))
    assert lettered > 2


def test_means_stand_below_with_letters_of_their_own(run: Run, folder: Path, rows: list[dict[str, str]]) -> None:
    assert run(*BANNER, "--measure", "wait", "--out", "b.json").returncode == 0
    cells = json.loads((folder / "b.json").read_text("utf-8"))["cells"]
    of_it = {cell["group"]: cell for cell in cells if cell["banner"] == "pier" and cell["question"] == "wait"}
    waits = {name: [float(row["wait"]) for row in rows if row["pier"] == name] for name in of_it}
    for name, values in waits.items():
        assert of_it[name]["estimate"] == pytest.approx(sum(values) / len(values))
    lower = [name for name in of_it if len(waits[name]) >= LEAST and name != "Corby"]
    for name in lower:  # Welch (1947) against the one that is higher, before Holm
        one, other = waits["Corby"], waits[name]
        spread = [sum((x - sum(v) / len(v)) ** 2 for x in v) / (len(v) - 1) / len(v) for v in (one, other)]
        degrees = sum(spread) ** 2 / sum(s**2 / (len(v) - 1) for s, v in zip(spread, (one, other), strict=True))
        distance = (sum(one) / len(one) - sum(other) / len(other)) / sqrt(sum(spread))
        assert 2 * t.sf(distance, degrees) < 0.05 / 3
    assert len(of_it["Corby"]["letters"]) == len(lower)


@pytest.mark.usefixtures("rows")
def test_bases_stand_in_rows_and_all_records_in_front(run: Run) -> None:
    shown = run(*BANNER).stdout
    heading = next(line for line in shown.splitlines() if "All" in line)
    assert re.search(r"All +\w+ \(A\) +\w+ \(B\) +\w+ \(C\) +small \(D\) +\w+ \(A\) +\w+ \(B\)", heading)
    assert re.search(r"^n +900 ", shown, re.MULTILINE)
    assert "figures on fewer than 30 records are not tested" in shown


def test_weights_have_rows_of_their_own(run: Run, folder: Path) -> None:
    shown = ("table", "passengers.csv", "--by", "ticket", "--banner", "season")
    text = run(*shown).stdout
    with (folder / "passengers.csv").open(encoding="utf-8") as file:
        weights = [float(row["weight"]) for row in csv.DictReader(file) if row["ticket"] not in ("", "none")]
    effective = sum(weights) ** 2 / sum(weight**2 for weight in weights)  # Kish (1965), Survey Sampling
    assert re.search(rf"^Weighted n +{sum(weights):,.0f} ", text, re.MULTILINE), text
    assert re.search(rf"^Effective n +{effective:,.0f} ", text, re.MULTILINE), text


def test_letters_have_cells_of_their_own_in_a_workbook(run: Run, folder: Path, rows: list[dict[str, str]]) -> None:
    assert run(*BANNER, "--out", "b.xlsx", "--out", "b.csv").returncode == 0
    sheet = openpyxl.load_workbook(folder / "b.xlsx")["Table"]
    names = [cell.value for cell in sheet[2]]
    line = next(row for row in sheet.iter_rows(values_only=True) if row[0] == "yes")
    wanted = share_letters(rows, "pier", "yes", [0.05], adjust=True)
    for name, letters in wanted.items():
        place = next(at for at, text in enumerate(names) if text and text.startswith(f"{name} ("))
        assert isinstance(line[place], float)
        assert (line[place + 1] or "").strip("* ") == letters
    with (folder / "b.csv").open(encoding="utf-8") as file:
        of_all = [row for row in csv.DictReader(file) if not row["banner"]]
    assert [row["group"] for row in of_all] == ["All"] * 3


@pytest.mark.usefixtures("rows")
def test_a_plan_holds_the_same_banner_table(run: Run, folder: Path) -> None:
    shown = (
        *BANNER,
        "--measure",
        "wait",
        "--confidence",
        "99",
        "--confidence",
        "95",
        "--net",
        "answer: not sure = no, maybe",
    )
    assert run(*shown, "--out", "b.md", "--save-plan", "banner.toml", "--name", "banner").returncode == 0
    plan = (folder / "banner.toml").read_text("utf-8")
    assert 'banner = ["pier", "tide"]' in plan
    built = run("build", "banner.toml", "--out", "out")
    assert built.returncode == 0, built.stderr
    assert (folder / "out" / "banner.md").read_bytes() == (folder / "b.md").read_bytes()


@pytest.mark.parametrize(
    ("typed", "message"),
    [
        (("--split", "tide"), "--split has no place in a banner table"),
        (("--panel", "tide"), "--panel has no place in a banner table"),
        (("--stat", "mean"), "answers of a banner table are shares"),
        (("--confidence", "99", "--confidence", "95", "--confidence", "90"), "letters are capital or small"),
        (("--by", "pier"), "`pier` stands twice"),
    ],
)
@pytest.mark.usefixtures("rows")
def test_what_a_banner_has_no_place_for_is_refused(run: Run, typed: tuple[str, ...], message: str) -> None:
    done = run(*BANNER, *typed)
    assert done.returncode == 2
    assert message in done.stderr


def test_texts_and_records_know_all_figures_of_a_banner(run: Run, folder: Path) -> None:
    text = 'text = "In summer: {{one: share, Work, Summer}}."\nshow = "one"\n'
    entry = '[[table]]\nname = "one"\nby = ["ticket", "purpose"]\nbanner = ["season", "route"]\n'
    plan = f'[records]\nfile = "passengers.csv"\n\n[report]\ntitle = "T"\n\n[[report.part]]\n{text}\n{entry}'
    (folder / "plan.toml").write_text(plan, "utf-8")
    built = run("build", "plan.toml", "--out", "out")
    assert built.returncode == 0, built.stderr
    assert re.search(r"In summer: 26\s%\.", (folder / "out" / "report.html").read_text("utf-8"))
    kept = json.loads((folder / "out" / "build.json").read_text("utf-8"))["entries"]["one"]["figures"]
    assert len(kept) == (5 + 6) * ((4 + 1) + (6 + 1))  # answers of both questions, by the groups and all records


@pytest.mark.usefixtures("rows")
@pytest.mark.parametrize("stat", ["median", "sum", "p90"])
def test_numbers_that_are_not_tested_stand_without_letters(run: Run, folder: Path, stat: str) -> None:
    assert run(*BANNER, "--measure", "wait", "--stat", stat, "--out", "b.json").returncode == 0
    cells = json.loads((folder / "b.json").read_text("utf-8"))["cells"]
    assert not any(cell.get("letters") for cell in cells if cell["question"] == "wait")
    assert any(cell["letters"] for cell in cells if cell["question"] == "answer")
    assert run("table", "quays.csv", "--banner", "pier", "--measure", "wait", "--stat", stat).returncode == 0
