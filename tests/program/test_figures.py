"""Statistics, design, limits and comparisons as the installed program gives them."""

import csv
import json
import re
import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path

import pytest

from grainstack.making.kinds import KINDS
from tests.program.conftest import Run


def test_totals_stand_last_and_add_up(run: Run, folder: Path) -> None:
    done = run("table", "passengers.csv", "--by", "route", "--split", "ticket", "--totals", "--out", "t.csv")
    assert done.returncode == 0
    rows = list(csv.DictReader((folder / "t.csv").read_text("utf-8").splitlines()))
    whole = {(row["route"], row["ticket"]): float(row["estimate"]) for row in rows}
    routes = {route for route, _ in whole if route != "All"}
    assert sum(whole[route, "All"] for route in routes) == pytest.approx(whole["All", "All"])
    assert rows[-1]["route"] == rows[-1]["ticket"] == "All"


def test_several_measures_and_statistics_by_panel_and_nested_categories(run: Run) -> None:
    asked = ["--by", "route", "--by", "season", "--panel", "purpose", "--measure", "wait", "--measure", "spend"]
    done = run("table", "passengers.csv", *asked, "--stat", "mean", "--stat", "p90")
    assert done.returncode == 0
    heading = done.stdout.splitlines()[0]
    for title in ("Mean waiting time (minutes)", "Mean spending on board (€)", "90th percentile of waiting time"):
        assert title in heading


def test_a_rate_names_both_columns_and_rests_on_records_that_have_both(run: Run) -> None:
    done = run("table", "passengers.csv", "--by", "route", "--stat", "rate", "--measure", "spend", "--per", "wait")
    assert "Rate of spending on board per waiting time (€ / minutes)" in done.stdout
    assert "Base: 2,395 passengers; left out: 20 without an answer on waiting time." in done.stdout


def test_small_bases_are_left_out_with_what_would_give_them_away(run: Run) -> None:
    done = run("table", "passengers.csv", "--by", "ticket", "--split", "route", "--min-base", "30", "--hide-small")
    hidden = {line.split("  ")[0]: line.count("…") for line in done.stdout.splitlines()}
    assert hidden["On board"] >= 2
    assert hidden["Agent"] >= 2
    assert "figures are left out: those on fewer than 30 records" in done.stdout


def test_shares_rounded_to_add_up_say_so(run: Run) -> None:
    done = run("table", "passengers.csv", "--by", "ticket", "--split", "route", "--stat", "share", "--add-up")
    rows = [line for line in done.stdout.splitlines() if line.startswith(("App", "Website", "Agent"))]
    for row in rows:
        numbers = [int(word.strip("†*")) for word in row.split()[1:7]]
        assert sum(numbers) == 100
    assert "Rounded so that shares add to 100 %." in done.stdout


def test_limits_that_do_not_stand_in_a_table_are_not_spoken_of(run: Run) -> None:
    assert "confidence limits" not in run("table", "passengers.csv", "--by", "route", "--split", "ticket").stdout
    shown = run("table", "passengers.csv", "--by", "route", "--split", "ticket", "--error-bars", "confidence").stdout
    assert "95 % confidence limits" in shown


def test_comparison_prints_differences_and_letters(run: Run, folder: Path) -> None:
    done = run("table", "passengers.csv", "--by", "route", "--measure", "wait", "--letters", "--out", "t.json")
    assert done.returncode == 0
    content = json.loads((folder / "t.json").read_text("utf-8"))
    letters = {cell["route"]: set(cell["letters"]) for cell in content["cells"]}
    for one in content["differences"]:
        differs = one["adjusted_p"] < 0.05
        assert differs == (not letters[one["route"]] & letters[one["compared_with"]])
    sentence = content["provenance"]["sentence"]
    for said in ("mean waiting time by route", "weighted by weight", "95 % confidence limits", "2,395", "Holm"):
        assert said.casefold() in sentence.casefold()


@pytest.mark.parametrize("design", [True, False])
def test_association_is_printed_under_the_table(run: Run, *, design: bool) -> None:
    asked = ["--by", "route", "--split", "ticket", "--association", *([] if design else ["--no-design"])]
    said = run("table", "passengers.csv", *asked).stdout
    assert ("Rao–Scott, second order" in said) == design
    assert "Cramér's V = 0.23" in said


def test_there_is_no_interval_for_an_extreme(run: Run) -> None:
    done = run(
        "table", "passengers.csv", "--by", "route", "--stat", "max", "--measure", "wait", "--interval", "bootstrap"
    )
    assert done.returncode == 2
    assert "There is no interval for a max" in done.stderr


def test_the_same_seed_gives_the_same_bootstrap(run: Run) -> None:
    asked = [
        "table",
        "passengers.csv",
        "--by",
        "route",
        "--measure",
        "wait",
        "--interval",
        "bootstrap",
        "--repeats",
        "200",
    ]
    first, again, other = (run(*asked, "--seed", seed).stdout for seed in ("1", "1", "2"))
    assert first == again != other.replace("seed 2", "seed 1")


@pytest.mark.parametrize(
    ("asked", "heavy"),
    [
        (("-h",), ("numpy", "pyarrow", "sqlglot", "scipy", "typst")),
        (("bar", "passengers.csv", "--by", "route", "--no-design"), ("sqlglot", "scipy", "typst")),
    ],
    ids=["help", "count"],
)
def test_what_a_request_does_not_need_is_not_loaded(asked: Sequence[str], heavy: Sequence[str], folder: Path) -> None:
    code = (
        "import sys; from grainstack.cli.main import app; app(sys.argv[1:], standalone_mode=False); "
        f"print([name for name in {heavy!r} if name in sys.modules])"
    )
    done = subprocess.run([sys.executable, "-c", code, *asked], cwd=folder, capture_output=True, text=True, check=True)
    assert done.stdout.splitlines()[-1] == "[]"


@pytest.mark.parametrize(
    ("extra", "loaded"),
    [((), False), (("--measure", "wait"), False), (("--stat", "share", "--interval", "exact"), True)],
)
def test_scipy_is_loaded_only_for_what_needs_it(folder: Path, extra: tuple[str, ...], *, loaded: bool) -> None:
    code = (
        "import sys; from grainstack.cli.main import app; app(sys.argv[1:], standalone_mode=False); "
        "print('scipy' in sys.modules)"
    )
    asked = ["table", "passengers.csv", "--by", "route", "--no-design", *extra]
    done = subprocess.run([sys.executable, "-c", code, *asked], cwd=folder, capture_output=True, text=True, check=True)
    assert done.stdout.splitlines()[-1] == str(loaded)


REPLICATED = "route,weight,wait,rep_1,rep_2\nOsk,1,4,2,0\nOsk,3,8,2,6\nPell,1,2,0,2\nPell,2,5,3,1\n"


@pytest.mark.usefixtures("bare")
def test_replicate_weights_of_a_codebook_keep_their_weight(run: Run, folder: Path) -> None:
    (folder / "r.csv").write_text(REPLICATED, "utf-8")
    asked = ("table", "r.csv", "--by", "route", "--measure", "wait", "--error-bars", "standard-error")
    typed = run(*asked, "--weight", "weight", "--replicates", "rep_*", "--replicate-method", "brr").stdout
    design = '[design]\nweight = "weight"\nreplicates = "rep_*"\nreplicate_method = "brr"\n'
    (folder / "codebook.toml").write_text(design, "utf-8")
    assert run(*asked).stdout == typed
    [osk, _] = typed.splitlines()[2:4]
    # Weighted mean (1·4 + 3·8) / 4 = 7; replicates (2·4 + 2·8) / 4 = 6 and 8; SE = √(½ · (1 + 1)) = 1
    assert osk.split()[2:] == ["7*", "6–8", "2"]


@pytest.mark.usefixtures("bare")
@pytest.mark.parametrize("name", ["none.csv", "none.parquet"])
def test_a_file_without_records_keeps_its_columns(run: Run, folder: Path, name: str) -> None:
    (folder / "one.csv").write_text("route,wait\nOsk,3\n", "utf-8")
    (folder / "none.csv").write_text("route,wait\n", "utf-8")
    if name != "none.csv":
        run("derive", "none.csv", "--out", name)
    assert "There are: route, wait." in run("table", name, "--by", "nothing").stderr
    done = run("table", name, "--by", "route")
    assert done.returncode != 0
    assert "no records" in done.stderr


@pytest.mark.parametrize("kind", KINDS)
def test_what_a_kind_can_be_asked_for_is_known_without_loading_libraries(kind: str) -> None:
    code = (
        f"import sys; from grainstack.cli.commands import command_named; command_named({kind!r}); "
        "print(*{'numpy', 'pyarrow', 'scipy', 'matplotlib', 'pandas', 'uharfbuzz'} & set(sys.modules))"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout == "\n"


LONG = ("--to-long", "item,score=cleanliness,staff,punctuality", "--by", "item")


def test_long_form_keeps_labels_order_missing_codes_and_people(run: Run, folder: Path) -> None:
    long = run("table", "passengers.csv", *LONG, "--measure", "score", "--account", "--out", "long.json")
    cells = json.loads((folder / "long.json").read_text("utf-8"))["cells"]
    for cell, item in zip(cells, ("cleanliness", "staff", "punctuality"), strict=True):
        run("table", "passengers.csv", "--measure", item, "--out", "alone.json")
        [alone] = json.loads((folder / "alone.json").read_text("utf-8"))["cells"]
        for name in ("estimate", "low", "high", "base"):
            assert cell[name] == alone[name]
    assert "7,245 values of 2,415 passengers read = 7,075 used + 170 without an answer" in long.stderr
    shown = run("bar", "passengers.csv", *LONG, "--split", "score", "--layout", "percent").stdout
    assert "██ Very poor   ░░ Poor   ▓▓ Fair   ▒▒ Good   ▚▚ Very good\n" in shown
    assert "Base: 2,415 passengers with 7,075 values" in shown


def test_columns_that_disagree_in_the_codebook_are_said_to(run: Run) -> None:
    done = run("table", "passengers.csv", "--to-long", "item,score=staff,age", "--by", "item", "--measure", "score")
    assert (
        "`score` is read without kind, levels, unit, bands, range: its columns disagree in the codebook." in done.stderr
    )
    assert [line.split()[2] for line in done.stdout.splitlines()[2:4]] == ["3.8", "41.3"]


@pytest.mark.usefixtures("bare")
def test_given_values_have_shares_and_their_own_base(run: Run, folder: Path) -> None:
    (folder / "v.csv").write_text("k,v\na,530\nb,20\nc,50\n", "utf-8")
    slices = run("pie", "v.csv", "--by", "k", "--value", "v", "--value-is", "sum").stdout
    assert [line.split("  ")[-1] for line in slices.splitlines() if " %" in line[:20]] == ["88 %", "8 %", "3 %"]
    for kind in ("bar", "dot", "treemap"):
        drawn = run(kind, "v.csv", "--by", "k", "--value", "v", "--value-is", "sum", "--label", "value,share")
        assert "530 (88 %)" in drawn.stdout
        assert "Base: 3 given sums." in drawn.stdout


@pytest.mark.usefixtures("bare")
@pytest.mark.parametrize(
    "asked",
    [
        ("pie", "--by", "k"),
        ("treemap", "--by", "k"),
        ("bar", "--by", "k", "--split", "s", "--layout", "stacked"),
        ("bar", "--by", "k", "--split", "s", "--layout", "percent"),
        ("bar", "--by", "k", "--label", "share"),
        ("dot", "--by", "k", "--keep-top", "1"),
        ("table", "--by", "k", "--totals"),
        ("table", "--by", "k", "--stat", "share"),
    ],
)
def test_given_values_are_put_together_only_if_they_add_up(run: Run, folder: Path, asked: tuple[str, ...]) -> None:
    (folder / "v.csv").write_text("k,s,v\na,x,530\nb,x,20\nc,x,50\n", "utf-8")
    kind, *options = asked
    given = (kind, "v.csv", *options, "--value", "v")
    unsaid = run(*given)
    assert unsaid.returncode == 2
    assert "nobody said what those of `v` are" in unsaid.stderr
    assert "Add --value-is count, sum or share" in unsaid.stderr
    for kept in ("count", "sum", "share"):
        done = run(*given, "--value-is", kept)
        assert done.returncode == 0, done.stderr
        assert f"Base: 3 given {kept}s" in done.stdout
    for refused in ("mean", "other"):
        done = run(*given, "--value-is", refused)
        assert done.returncode == 2
        assert "figures that add up" in done.stderr


@pytest.mark.usefixtures("bare")
def test_the_rest_of_given_sums_is_their_sum_without_limits(run: Run, folder: Path) -> None:
    (folder / "v.csv").write_text("k,v,e\na,530,9\nb,20,2\nc,50,3\n", "utf-8")
    asked = ("v.csv", "--by", "k", "--value", "v", "--error-size", "e", "--value-is", "sum", "--keep-top", "1")
    done = run("table", *asked, "--out", "t.json")
    assert done.returncode == 0, done.stderr
    cells = json.loads((folder / "t.json").read_text("utf-8"))["cells"]
    assert [(cell["k"], cell["estimate"], cell["low"]) for cell in cells] == [("a", 530, 521), ("Other", 70, None)]
    stacked = run("bar", "v.csv", "--by", "e", "--split", "k", *asked[3:7], "--value-is", "sum", "--layout", "stacked")
    assert "parts of a bar carry no ready-made limits" in stacked.stderr


@pytest.mark.parametrize("kind", ["pie", "treemap"])
def test_a_whole_is_not_drawn_without_its_rest(run: Run, kind: str) -> None:
    done = run(kind, "costs.csv", "--by", "item", "--measure", "amount", "--keep-top", "3", "--drop-rest")
    assert done.returncode == 2
    assert "Parts without the rest are no whole." in done.stderr


SUMS, MIXED = ("--stat", "sum"), ("--stat", "mean", "--stat", "max")


@pytest.mark.usefixtures("bare")
@pytest.mark.parametrize(
    ("asked", "shown"),
    [
        ((*SUMS, "--order", "largest-first"), ("bac", "largest first by all figures together")),
        ((*SUMS, "--order", "largest-first: p"), ("cab", "largest first by p")),
        ((*SUMS, "--order", "smallest-first: q"), ("cab", "smallest first by q")),
        ((*MIXED, "--order", "largest-first"), ("cab", "largest first by mean p")),
        ((*MIXED, "--order", "largest-first: max"), ("cab", "largest first by max")),
    ],
)
def test_an_order_says_which_of_several_figures_it_goes_by(
    run: Run, folder: Path, asked: tuple[str, ...], shown: tuple[str, str]
) -> None:
    (folder / "pq.csv").write_text("k,p,q\na,10,30\nb,5,50\nc,20,1\n", "utf-8")
    text = run("table", "pq.csv", "--by", "k", "--measure", "p", "--measure", "q", *asked).stdout
    assert "".join(line[0] for line in text.splitlines()[2:5]) == shown[0]
    assert text.rstrip().endswith(f"Order – k: {shown[1]}.")


def test_an_order_by_a_figure_there_is_not_names_those_there_are(run: Run) -> None:
    asked = ("--by", "route", "--measure", "wait", "--measure", "spend", "--order", "largest-first: spent")
    assert "there is no figure `spent`.\n  Did you mean `spend`?" in run("table", "passengers.csv", *asked).stderr


@pytest.mark.usefixtures("bare")
def test_derived_columns_never_take_the_place_of_others(run: Run, folder: Path) -> None:
    (folder / "id.csv").write_text("id,age_band,age\n9007199254740993,old,5\n", "utf-8")
    twice = run("derive", "id.csv", "--band", "age=10", "--band", "age=20,40", "--out", "d.csv")
    assert "`age` is cut into bands twice." in twice.stderr
    taken = run("derive", "id.csv", "--band", "age=10", "--out", "d.csv")
    assert "A column `age_band` would be derived, but there is one" in taken.stderr
    assert not (folder / "d.csv").exists()


@pytest.mark.usefixtures("bare")
@pytest.mark.parametrize("ending", ["csv", "jsonl", "parquet"])
def test_long_whole_numbers_stay_exact(run: Run, folder: Path, ending: str) -> None:
    (folder / "id.csv").write_text("id,age\n9007199254740993,5\n12,6\n", "utf-8")
    run("derive", "id.csv", "--recode", "age: 5 -> five", "--out", f"d.{ending}")
    table = run("table", f"d.{ending}", "--by", "id").stdout
    assert {line.split()[0] for line in table.splitlines()[2:4]} == {"9007199254740993", "12"}


@pytest.mark.usefixtures("bare")
@pytest.mark.parametrize("ending", ["csv", "json"])
def test_a_category_is_not_written_over_by_a_figure(run: Run, folder: Path, ending: str) -> None:
    (folder / "b.csv").write_text("base,v\nx,1\ny,2\n", "utf-8")
    done = run("table", "b.csv", "--by", "base", "--measure", "v", "--out", f"t.{ending}")
    assert "would be one column of the file." in done.stderr
    assert not (folder / f"t.{ending}").exists()


@pytest.mark.usefixtures("bare")
def test_row_numbers_without_a_name_are_called_row(run: Run, folder: Path) -> None:
    (folder / "u.csv").write_text(",v\n1,3\n2,4\n", "utf-8")
    assert "row     number" in run("look", "u.csv").stdout
    assert run("table", "u.csv", "--by", "row", "--measure", "v", "--stat", "sum").returncode == 0


def test_a_file_that_cannot_hold_differences_says_so(run: Run, folder: Path) -> None:
    asked = ("table", "passengers.csv", "--by", "route", "--measure", "wait", "--compare", "pairs")
    done = run(*asked, "--out", "t.json", "--out", "t.csv")
    assert "A .csv has a row for each figure and none for differences." in done.stderr
    assert not (folder / "t.json").exists()
    assert run(*asked, "--letters", "--out", "t.csv").returncode == 0
    run(*asked, "--out", "t.json")
    assert len(json.loads((folder / "t.json").read_text("utf-8"))["differences"]) == 15


@pytest.mark.usefixtures("bare")
def test_a_share_that_is_not_nothing_is_not_written_as_nothing(run: Run, folder: Path) -> None:
    (folder / "s.csv").write_text("k,s\n" + "a,x\n" * 400 + "b,y\n", "utf-8")
    table = run("table", "s.csv", "--by", "k", "--split", "s", "--stat", "share", "--base", "all").stdout
    assert [line.split()[1:3] for line in table.splitlines()[2:4]] == [["100", "0"], ["0", "<1"]]
    assert "<1" in run("bar", "s.csv", "--by", "k", "--stat", "share").stdout


@pytest.mark.usefixtures("bare")
def test_shares_of_given_values_and_of_several_measures_stand_in_tables_too(run: Run, folder: Path) -> None:
    (folder / "kv.csv").write_text("k,s,v\na,x,10\na,y,30\nb,x,5\nb,y,5\n", "utf-8")
    (folder / "pq.csv").write_text("k,p,q\na,10,30\nb,5,5\n", "utf-8")
    for asked in (
        ("kv.csv", "--by", "k", "--split", "s", "--value", "v", "--value-is", "count"),
        ("pq.csv", "--by", "k", "--measure", "p", "--measure", "q", "--base", "measures"),
    ):
        table = run("table", *asked, "--stat", "share", "--order", "alphabetical").stdout
        figures = [[part for part in line.split() if part in ("25", "50", "75")] for line in table.splitlines()[2:4]]
        assert [sorted(line) for line in figures] == [["25", "75"], ["50", "50"]]
        assert "Each k adds to 100 %." in table
        assert "limits" not in table
        refused = run("table", *asked, "--stat", "share", "--error-bars", "confidence")
        assert "these figures are all there is and no estimates" in refused.stderr
    given = ("kv.csv", "--by", "k", "--split", "s", "--value", "v", "--value-is", "count")
    refused = run("table", *given, "--stat", "share", "--compare", "pairs")
    assert "--compare tests estimates; these figures are all there is." in refused.stderr


@pytest.mark.parametrize(
    ("asked", "start"),
    [
        (("--measure", "wait", "--compare", "pairs"), "difference"),
        (("--measure", "wait", "--compare", "Dunmar"), "difference"),
        (("--split", "ticket", "--association"), "Pearson's X²"),
    ],
)
def test_tests_follow_the_design_whether_limits_are_shown_or_not(run: Run, asked: tuple[str, ...], start: str) -> None:
    texts = [
        run("table", "passengers.csv", "--by", "route", *asked, *limits).stdout
        for limits in ((), ("--error-bars", "none"))
    ]
    shown, hidden = (text.partition(start)[2] for text in texts)
    assert shown
    assert shown == hidden
    assert all("corrected for the design" in text or "design-based t-tests" in text for text in texts)


@pytest.mark.parametrize(
    "asked",
    [
        ("--measure", "amount"),
        ("--stat", "share"),
        ("--split", "vessel", "--stat", "share"),
        ("--measure", "amount", "--stat", "median", "--stat", "p90", "--stat", "sum", "--stat", "sd"),
        ("--measure", "amount", "--stat", "share"),
        ("--measure", "amount", "--per", "change", "--stat", "rate"),
    ],
)
def test_complete_records_have_no_sampling_error_and_no_small_bases(
    run: Run, folder: Path, asked: tuple[str, ...]
) -> None:
    book = folder / "codebook.toml"
    complete = run("table", "costs.csv", "--by", "item", *asked).stdout
    assert "limits" not in complete
    assert "*" not in complete
    book.write_text(book.read_text("utf-8").replace('"complete"', '"sample"'), "utf-8")
    assert run("table", "costs.csv", "--by", "item", *asked, "--complete").stdout == complete
    if "--measure" not in asked or len(asked) == 2:
        sample = run("table", "costs.csv", "--by", "item", *asked).stdout
        assert ("*" in sample) == ("--measure" in asked or "--split" in asked)
        assert ("limits" in sample) == ("--split" not in asked)


def test_complete_records_still_have_a_spread_and_no_tests(run: Run) -> None:
    asked = ("costs.csv", "--by", "department", "--measure", "amount")
    assert "From the lower to the upper quartile" in run("table", *asked, "--error-bars", "quartiles").stdout
    for refused in (("--letters",), ("--error-bars", "confidence"), ("--confidence", "90"), ("--cluster", "vessel")):
        said = run("table", *asked, *refused, "--strict")
        assert said.returncode == 2
        assert "these figures are all there is" in said.stderr
    bad = run("table", *asked, "--codebook", "bad.toml")
    assert "There is no codebook bad.toml" in bad.stderr


def test_kind_of_records_is_checked_and_kept_in_other_forms(run: Run, folder: Path) -> None:
    book = folder / "codebook.toml"
    assert run("codebook", "costs.csv", "--codebook", "codebook.toml", "--out", "c.json").returncode == 0
    kinds = json.loads((folder / "c.json").read_text("utf-8"))["kinds"]
    assert kinds["costs.csv"] == "complete"
    assert "limits" not in run("table", "costs.csv", "--measure", "amount", "--codebook", "c.json").stdout
    book.write_text('[records]\nkind = "all"\n', "utf-8")
    assert 'codebook.toml, line 2: `kind` must be "sample" or "complete"' in run("look", "costs.csv").stderr


def test_rows_that_stand_for_many_records_are_counted_in_records(run: Run, folder: Path) -> None:
    asked = ("crossings.csv", "--by", "month", "--times", "crossings", "--only", "year=2025", "--account")
    done = run("table", *asked, "--stat", "share")
    assert "Base: 24,960 crossings; left out: 49,920 filtered away." in done.stdout
    assert "Share of crossings (%)" in done.stdout
    assert "74,880 crossings read = 24,960 used + 49,920 filtered away." in done.stderr
    assert "limits" not in done.stdout
    (folder / "answers.csv").write_text("answer,n\nyes,30\nno,12\n", "utf-8")
    plain = run("table", "answers.csv", "--by", "answer", "--times", "n", "--stat", "share")
    assert "Base: 42 records." in plain.stdout
    assert (
        "Wilson"
        in run(
            *("table", "answers.csv", "--by", "answer", "--times", "n", "--stat", "share"), "--error-bars", "confidence"
        ).stdout
    )


def test_bands_may_have_a_name_of_their_own(run: Run, folder: Path) -> None:
    asked = ("--band", "age_group: age=20", "--band", "wide: age=50")
    done = run("derive", "passengers.csv", *asked, "--band", "age=10", "--out", "d.csv")
    assert done.returncode == 0, done.stderr
    first = next(csv.DictReader((folder / "d.csv").read_text("utf-8").splitlines()))
    assert [first[name] for name in ("age", "age_group", "wide", "age_band")] == ["51", "40–59", "50–99", "50–59"]
    means = run("table", "passengers.csv", "--band", "age_group: age=20", "--by", "age_group", "--measure", "age")
    assert "40–59" in means.stdout
    assert "Mean age (years)" in means.stdout
    kept = run("table", "passengers.csv", "--band", "a: age=20", "--by", "a", "--only", "a=20–39,60–79").stdout
    assert [band for band in ("0–19", "20–39", "40–59", "60–79") if f"\n{band}" in kept] == ["20–39", "60–79"]
    for wrong, said in (
        (("--band", "route: age=20", "--by", "route"), "there is a column `route`"),
        (("--band", "a: age=20", "--band", "a: wait=5", "--by", "a"), "`a` is cut into bands twice"),
        (("--band", "a: age=20", "--by", "a", "--where", "a > 3"), "there is no column `a`"),
        (("--band", "a: age=20", "--by", "a", "--measure", "a"), "`a` holds the bands of `age`"),
        ((*asked, "--by", "age_group"), "--band of `wide` makes no difference"),
    ):
        refused = run("table", "passengers.csv", *wrong)
        assert refused.returncode == 2
        assert said in refused.stderr


def test_given_shares_of_so_many_records_have_limits(run: Run, folder: Path) -> None:
    # Wilson (1927), J. Am. Stat. Assoc. 22, 209-212: (p + z²/2n ± z √(p(1 − p)/n + z²/4n²)) / (1 + z²/n), by hand.
    for scale, expected in ((1, [("B", "0.441", "0.654"), ("A", "0.336", "0.509")]), (100, [("B", "44", "65")])):
        rows = "".join(f"{name},{share * scale:g},{n}\n" for name, share, n in (("A", 0.42, 120), ("B", 0.55, 80)))
        (folder / "v.csv").write_text(f"k,v,n\n{rows}", "utf-8")
        given = ("table", "v.csv", "--by", "k", "--value", "v", "--value-is", "share", "--times", "n")
        shown = run(*given, "--error-bars", "confidence").stdout
        assert "95 % confidence limits (Wilson score)" in shown
        for name, low, high in expected:
            assert re.search(rf"{name} +\d+ +[\d.]+ +{low}\d?–{high}", shown), shown
        assert "tests estimates" in run(*given, "--letters").stderr
    (folder / "v.csv").write_text("k,v,n\nA,-0.1,120\n", "utf-8")
    assert "`v` holds -0.1, which is no share" in run(*given, "--error-bars", "confidence").stderr
