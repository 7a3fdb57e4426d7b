"""Weights that meet known totals, from the command line."""

import csv
from pathlib import Path

import pytest

from tests.program.conftest import Run

WEIGH = ("weigh", "passengers.csv")


def rows(path: Path) -> list[dict[str, str]]:
    with path.open(encoding="utf-8") as file:
        return list(csv.DictReader(file))


def totals(path: Path, column: str, weight: str = "weight_calibrated") -> dict[str, float]:
    found: dict[str, float] = {}
    for row in rows(path):
        found[row[column]] = found.get(row[column], 0.0) + float(row[weight])
    return found


def test_every_known_total_is_met(run: Run, folder: Path) -> None:
    done = run(*WEIGH, "--target", "targets.csv", "--out", "w.csv")
    assert done.returncode == 0, done.stderr
    assert "every total is met" in done.stdout
    by_route, by_season = (totals(folder / "w.csv", name) for name in ("route", "season"))
    assert by_route["1"] == pytest.approx(86200)
    assert by_route["6"] == pytest.approx(4400)
    assert by_season["summer"] == pytest.approx(117300)
    used = run("table", "w.csv", "--by", "route", "--weight", "weight_calibrated", "--stat", "count").stdout
    assert "86,200" in used


def test_one_target_is_post_stratification_of_the_starting_weights(run: Run, folder: Path) -> None:
    typed = "season: Spring=10, Summer=20, Autumn=30, Winter=40"
    done = run(*WEIGH, "--target", typed, "--weight-name", "w", "--out", "w.csv")
    assert "Post-stratified" in done.stdout
    assert "Targets were taken as shares" in done.stdout
    before, after = totals(folder / "w.csv", "season", "weight"), totals(folder / "w.csv", "season", "w")
    assert after["winter"] / sum(after.values()) == pytest.approx(0.4)
    assert sum(after.values()) == pytest.approx(sum(before.values()))
    winter = [float(row["w"]) / float(row["weight"]) for row in rows(folder / "w.csv") if row["season"] == "winter"]
    assert max(winter) == pytest.approx(min(winter))


def test_bands_and_columns_together_are_targets_too(run: Run, folder: Path) -> None:
    purposes = sorted({row["purpose"] for row in rows(folder / "passengers.csv")})
    pairs = [(season, purpose) for season in ("Spring", "Summer", "Autumn", "Winter") for purpose in purposes]
    lines = [f"{season},{purpose},{100 + 10 * n}" for n, (season, purpose) in enumerate(pairs)]
    (folder / "both.csv").write_text("\n".join(["season,purpose,total", *lines]) + "\n", "utf-8")
    done = run(*WEIGH, "--target", "both.csv", "--no-design", "--out", "w.parquet")
    assert done.returncode == 0, done.stderr
    assert "Season × Purpose" in done.stdout


@pytest.mark.parametrize(
    ("asked", "message"),
    [
        ((), "nothing to weigh by"),
        (("--target", "season: Spring=10, Summer=20"), "There is no target for `Autumn`"),
        (("--target", "season: Spring=1, Summer=2, Autumn=3, Winter=4, Monsoon=5"), "No record has `Monsoon`"),
        (("--target", "season: Spring=many"), "`many` is no number"),
        (("--target", "season: Spring=-3"), "must be above 0"),
        (("--target", "season"), "is incomplete"),
        (("--target", "none.csv"), "cannot be read"),
        (("--target", "targets.csv", "--target", "season: Spring=1, Summer=2, Autumn=3, Winter=4"), "two targets"),
        (("--target", "ticket: App=1, Website=2, Ticket desk=3, On board=4, Agent=5"), "26 records have no answer"),
        (
            ("--target", "route: 1=500, 2=1, 3=1, 4=1, 5=1, 6=1", "--lowest", "0.9", "--highest", "1.1"),
            "cannot all be met",
        ),
        (("--target", "targets.csv", "--lowest", "0.5"), "--highest"),
    ],
)
def test_what_cannot_be_weighed_is_refused_and_nothing_written(
    run: Run, folder: Path, asked: tuple[str, ...], message: str
) -> None:
    done = run(*WEIGH, *asked, "--out", "w.csv")
    assert done.returncode == 2
    assert message in done.stderr
    assert not (folder / "w.csv").exists()


def test_bounds_hold(run: Run, folder: Path) -> None:
    asked = ("--target", "targets.csv", "--lowest", "0.9", "--highest", "1.13")
    assert run(*WEIGH, *asked, "--out", "w.csv").returncode == 0
    found = rows(folder / "w.csv")
    scale = sum(float(row["weight_calibrated"]) for row in found) / sum(float(row["weight"]) for row in found)
    factors = [float(row["weight_calibrated"]) / float(row["weight"]) / scale for row in found]
    assert min(factors) >= 0.9
    assert max(factors) <= 1.13
    assert totals(folder / "w.csv", "route")["6"] == pytest.approx(4400)


def test_targets_that_do_not_agree_are_refused(run: Run, folder: Path) -> None:
    text = (folder / "targets.csv").read_text("utf-8").replace("117300", "97300")
    (folder / "targets.csv").write_text(text, "utf-8")
    assert "The targets add to" in run(*WEIGH, "--target", "targets.csv", "--out", "w.csv").stderr


def test_limits_take_account_of_totals_that_the_codebook_names(run: Run, folder: Path) -> None:
    run(*WEIGH, "--target", "targets.csv", "--out", "w.csv")
    book = (folder / "codebook.toml").read_text("utf-8").replace('weight = "weight"', 'weight = "weight_calibrated"')
    (folder / "codebook.toml").write_text(book, "utf-8")
    asked = ("table", "w.csv", "--by", "ticket", "--stat", "count")
    plain = run(*asked).stdout
    (folder / "codebook.toml").write_text(book.replace("[design]", '[design]\ntargets = "targets.csv"', 1), "utf-8")
    calibrated = run(*asked).stdout
    assert "calibrated to known totals of route and season" in calibrated
    assert "calibrated to" not in plain

    def width(text: str) -> int:
        low, _, high = text.splitlines()[2].split()[-2].partition("–")
        return int(high.replace(",", "")) - int(low.replace(",", ""))

    assert width(calibrated) < width(plain)
    known = run("table", "w.csv", "--by", "route", "--stat", "count").stdout
    assert "–" not in known.splitlines()[2]  # a total that is known has no limits


def test_text_is_kept_from_spreadsheets_unless_it_is_for_other_programs(run: Run, folder: Path) -> None:
    (folder / "r.csv").write_text("name,side\n=1+1,a\n@x,b\nplain,b\n", "utf-8")
    asked = ("weigh", "r.csv", "--target", "side: a=50, b=50")
    done = run(*asked, "--out", "w.csv")
    assert done.returncode == 0, done.stderr
    assert "2 texts as formulas" in done.stderr
    assert "'=1+1" in (folder / "w.csv").read_text("utf-8")
    assert run(*asked, "--out", "w.csv", "--plain-csv").returncode == 0
    assert "\n=1+1," in (folder / "w.csv").read_text("utf-8")
    for command in (asked, ("derive", "r.csv", "--recode", "side: a -> c")):
        idle = run(*command, "--out", "w.parquet", "--plain-csv", "--strict")
        assert idle.returncode == 2
        assert "--plain-csv makes no difference: no CSV is written." in idle.stderr
