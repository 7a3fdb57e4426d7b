"""Questions with the same answers together, and levels added together beside their parts."""

import csv
import json
from pathlib import Path

import pytest

from tests.program.conftest import Run

OPINION = ("--items", "opinion=cleanliness,staff,punctuality")
SATISFIED = ("--net", "answer: Satisfied = Good, Very good")


def cells(folder: Path, name: str = "t.json") -> list[dict[str, object]]:
    found: list[dict[str, object]] = json.loads((folder / name).read_text("utf-8"))["cells"]
    return found


def test_each_question_has_the_figures_it_has_alone(run: Run, folder: Path) -> None:
    run("table", "passengers.csv", *OPINION, "--stat", "share", "--out", "t.json")
    run("table", "passengers.csv", "--by", "staff", "--stat", "share", "--out", "one.json")
    together = {row["answer"]: row for row in cells(folder) if row["opinion"] == "Staff"}
    alone = {row["staff"]: row for row in cells(folder, "one.json")}
    for answer, row in alone.items():
        for figure in ("estimate", "low", "high", "base", "degrees_of_freedom"):
            assert together[answer][figure] == pytest.approx(row[figure])


def test_means_stand_beside_shares_and_are_those_of_each_question(run: Run, folder: Path) -> None:
    shown = run("table", "passengers.csv", *OPINION, "--stat", "share", "--stat", "mean", *SATISFIED).stdout
    heading, _, first = shown.splitlines()[:3]
    assert heading.split()[-4:] == ["good", "Satisfied", "n", "Mean"]
    run("table", "passengers.csv", "--measure", "cleanliness", "--out", "t.json")
    [mean] = cells(folder)
    assert float(first.split()[-1]) == pytest.approx(mean["estimate"], abs=0.005)
    assert int(first.split()[-3]) == int(first.split()[-4]) + int(first.split()[-5])
    assert "Satisfied: Good and Very good together" in shown


@pytest.mark.usefixtures("folder")
def test_a_filled_layout_shows_all_answers_with_the_means_beside_them(run: Run) -> None:
    means = run(
        "bar", "passengers.csv", "--items", "opinion=staff,punctuality", "--layout", "diverging", "--stat", "mean"
    )
    both = (*("--stat", "share"), *("--stat", "mean"))
    named = run("bar", "passengers.csv", "--items", "opinion=staff,punctuality", "--layout", "diverging", *both)
    assert means.stdout == named.stdout != ""
    alone = run(
        "table", "passengers.csv", "--items", "opinion=staff,punctuality", "--stat", "mean", "--split", "answer"
    )
    assert alone.returncode == 2
    assert "The mean of answer in each answer is that answer itself." in alone.stderr


def test_answers_of_different_people_are_never_added_together(run: Run) -> None:
    done = run("table", "passengers.csv", *OPINION, "--by", "route", "--split", "answer")
    assert done.returncode == 2
    assert "The answers to several questions would be added together" in done.stderr
    by_route = run("table", "passengers.csv", *OPINION, "--by", "route", "--panel", "opinion", "--stat", "mean")
    assert by_route.returncode == 0, by_route.stderr


def test_questions_with_other_answers_do_not_stand_together(run: Run) -> None:
    done = run("table", "passengers.csv", "--items", "which=staff,route")
    assert done.returncode == 2
    assert "disagree in the codebook: kind, levels" in done.stderr
    assert run("table", "passengers.csv", "--items", "which").returncode == 2


def test_ranges_of_columns_are_named_by_their_ends(run: Run, folder: Path) -> None:
    header = (folder / "crossings_wide.csv").read_text("utf-8").splitlines()[0].split(",")
    asked = ("table", "crossings_wide.csv", "--by", "route", "--split", "year", "--measure", "n", "--stat", "sum")
    typed = run(*asked, "--to-long", f"year,n={','.join(header[1:])}").stdout
    assert run(*asked, "--to-long", f"year,n={header[1]}..{header[-1]}").stdout == typed
    backwards = run(*asked, "--to-long", f"year,n={header[-1]}..{header[1]}")
    assert "runs backwards" in backwards.stderr


@pytest.mark.parametrize("layout", ["percent", "diverging", "grouped", "stacked"])
def test_nets_stand_beside_bars_and_are_never_stacked(run: Run, folder: Path, layout: str) -> None:
    nets = ("--net", "staff: Satisfied = Good, Very good")
    asked = ("bar", "passengers.csv", "--by", "route", "--split", "staff", "--layout", layout)
    done = run(*asked, *nets, "--out", "n.svg")
    assert done.returncode == 0, done.stderr
    with_net, without = (folder / "n.svg").read_text("utf-8"), run(*asked, "--out", "p.svg")
    assert without.returncode == 0
    plain = (folder / "p.svg").read_text("utf-8")
    assert with_net.count('data-role="bar"') == plain.count('data-role="bar"')
    assert "Satisfied" in with_net
    shown = run(*asked, *nets).stdout
    assert "Satisfied" in shown
    assert run(*asked, *nets, "--direction", "vertical", "--out", "v.svg").returncode == 2


@pytest.mark.parametrize(
    ("asked", "message"),
    [
        (("--net", "staff: Satisfied"), "is incomplete"),
        (("--net", "staff: Happy = Good, Splendid"), "no level `Splendid`"),
        (("--net", "staff: Good = Fair, Good"), "has a level `Good` already"),
        (("--net", "route: North = Dunmar, Pell Isle"), "nothing is shown by it"),
        (("--net", "staff: A = Good, Fair", "--net", "staff: A = Poor, Fair"), "Two nets of `staff`"),
        (("--keep-top", "2", "--net", "staff: Happy = Good, Poor"), "not shown one by one"),
    ],
)
def test_nets_that_cannot_be_are_refused(run: Run, asked: tuple[str, ...], message: str) -> None:
    done = run("table", "passengers.csv", "--by", "staff", *asked)
    assert done.returncode == 2
    assert message in done.stderr


def test_charts_of_parts_have_no_nets(run: Run) -> None:
    net = ("--net", "staff: Satisfied = Good, Very good")
    for command in (("pie",), ("treemap",), ("bar", "--layout", "percent")):
        done = run(command[0], "passengers.csv", "--by", "staff", *command[1:], *net)
        assert "counted beside its own parts" in done.stderr


def test_a_person_counts_once_in_a_net_of_several_answers(run: Run, folder: Path) -> None:
    food = ("--net", "facilities: Food = Café, shop", "--net", "facilities: Indoors = Food, Lounge")
    asked = ("table", "passengers.csv", "--by", "facilities", "--stat", "share", *food)
    done = run(*asked)
    assert "Indoors: Café, Lounge and Shop together" in done.stdout
    run(*asked, "--out", "t.json")
    with (folder / "passengers.csv").open(encoding="utf-8") as file:
        people = [row for row in csv.DictReader(file) if row["facilities"]]
    whole = sum(float(one["weight"]) for one in people)
    shares = {row["facilities"]: row["estimate"] for row in cells(folder)}
    for name, parts in (("Food", {"cafe", "shop"}), ("Indoors", {"cafe", "shop", "lounge"})):
        inside = sum(float(one["weight"]) for one in people if parts & set(one["facilities"].split(";")))
        assert shares[name] == pytest.approx(inside / whole)


def test_a_net_of_several_answers_holds_those_that_are_not_shown(run: Run, folder: Path) -> None:
    asked = (
        "table",
        "passengers.csv",
        "--by",
        "facilities",
        "--stat",
        "share",
        "--net",
        "facilities: Food = cafe, shop",
    )
    run(*asked, "--out", "t.json")
    every = {row["facilities"]: row["estimate"] for row in cells(folder)}
    top = ("--keep-top", "1", "--drop-rest")
    done = run(*asked, *top)
    run(*asked, *top, "--out", "t.json")
    assert "Food: Café and Shop together" in done.stdout
    assert {row["facilities"]: row["estimate"] for row in cells(folder)} == {
        name: pytest.approx(every[name]) for name in ("Café", "Food")
    }


def test_a_net_is_no_part_of_itself(run: Run) -> None:
    nets = ("--net", "staff: A = B, Good", "--net", "staff: B = A, Poor")
    assert "is a part of itself" in run("table", "passengers.csv", "--by", "staff", *nets).stderr


def test_an_order_may_go_by_a_net(run: Run, folder: Path) -> None:
    net = ("--net", "staff: Satisfied = Good, Very good", "--order", "largest-first: Satisfied")
    run("table", "passengers.csv", "--by", "route", "--split", "staff", "--stat", "share", *net, "--out", "t.json")
    satisfied = [row["estimate"] for row in cells(folder) if row["staff"] == "Satisfied"]
    assert satisfied == sorted(satisfied, reverse=True)  # type: ignore[type-var]


def test_letters_of_nets_compare_them_too(run: Run, folder: Path) -> None:
    run("table", "passengers.csv", *OPINION, *SATISFIED, "--stat", "share", "--letters", "--out", "t.json")
    letters = {row["opinion"]: row["letters"] for row in cells(folder) if row["answer"] == "Satisfied"}
    assert len(set(letters.values())) == 3


def test_an_order_may_go_by_the_mean_that_stands_beside_the_shares(run: Run, folder: Path) -> None:
    asked = (*OPINION, "--stat", "share", "--stat", "mean", "--order", "smallest-first: mean", "--out", "t.json")
    assert run("table", "passengers.csv", *asked).returncode == 0
    means = [cell["estimate"] for cell in cells(folder) if cell["statistic"] == "mean"]
    assert len(means) == 3
    assert means == sorted(means, key=str)
    assert "Did you mean `mean`?" in run("table", "passengers.csv", *asked[:-3], "smallest-first: median").stderr


def test_a_figure_beside_the_series_is_written_once_for_all_of_them(run: Run, folder: Path) -> None:
    asked = (*OPINION, "--stat", "share", "--stat", "mean")
    run("table", "passengers.csv", *asked, "--out", "t.json")
    means = [cell for cell in cells(folder) if cell["statistic"] == "mean"]
    assert [(cell["opinion"], cell["answer"]) for cell in means] == [
        ("Cleanliness", None),
        ("Staff", None),
        ("Punctuality", None),
    ]
    run("table", "passengers.csv", *asked, "--wide", "--out", "t.csv")
    heading, *rows = (folder / "t.csv").read_text("utf-8").splitlines()
    assert heading.split(",")[-1] == "Mean answer"
    assert [float(row.split(",")[-1]) for row in rows] == [cell["estimate"] for cell in means]


def test_a_weight_of_0_leaves_out_persons_and_not_their_answers(run: Run, folder: Path) -> None:
    rows = "".join(f"{number},{number % 3},{number % 5 + 1},{number % 4 + 1}\n" for number in range(21))
    (folder / "w.csv").write_text(f"id,w,q1,q2\n{rows}", "utf-8")
    shown = run("table", "w.csv", "--items", "q=q1,q2", "--stat", "share", "--weight", "w")
    assert "Base: 14 records with 28 values; left out: 7 with a weight of 0." in shown.stdout
