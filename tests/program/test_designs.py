"""Survey designs, as an analyst names them on the command line."""

import json
from pathlib import Path

import pytest

from tests.program.conftest import Run

ROWS = [
    # stratum, cluster, weight, all clusters, all people, town, x
    *(("a", "1", 4, 2, 8, "Osk", x) for x in (3, 8, 5, 9)),
    *(("a", "2", 4, 2, 6, "Osk", x) for x in (2, 7, 4)),
    *(("b", "1", 3, 2, 7, "Pell", x) for x in (6, 1, 12, 4)),
    *(("b", "2", 3, 2, 9, "Pell", x) for x in (9, 5, 13)),
]


@pytest.fixture
def survey(folder: Path) -> Path:
    lines = ["stratum,cluster,weight,clusters,people,town,x", *(",".join(map(str, row)) for row in ROWS)]
    (folder / "s.csv").write_text("\n".join(lines) + "\n", "utf-8")
    return folder


ASKED = ("table", "s.csv", "--by", "town", "--measure", "x")
DRAWN = ("--weight", "weight", "--strata", "stratum", "--cluster", "cluster")


@pytest.mark.usefixtures("bare", "survey")
def test_degrees_of_freedom_stand_in_the_table_and_in_files(run: Run) -> None:
    printed = run(*ASKED, *DRAWN).stdout
    assert printed.splitlines()[0].split()[-4:] == ["95", "%", "limits", "df"]
    done = run(*ASKED, *DRAWN, "--out", "t.json")
    assert done.returncode == 0, done.stderr


@pytest.mark.usefixtures("bare")
def test_a_census_of_clusters_says_what_it_leaves_aside_until_it_is_given(run: Run, survey: Path) -> None:
    first = run(*ASKED, *DRAWN, "--population", "clusters", "--out", "one.json")
    assert "Advice (sampled-within): all clusters of every stratum were drawn" in first.stderr
    [osk, _] = json.loads((survey / "one.json").read_text("utf-8"))["cells"]
    assert osk["low"] is osk["standard_error"] is None
    assert "No limits: nothing was left to chance" in run(*ASKED, *DRAWN, "--population", "clusters").stdout
    both = run(*ASKED, *DRAWN, "--population", "clusters", "--population", "people", "--out", "two.json")
    assert "sampled-within" not in both.stderr
    [osk, _] = json.loads((survey / "two.json").read_text("utf-8"))["cells"]
    assert osk["degrees_of_freedom"] == 5
    assert osk["low"] < osk["estimate"] < osk["high"]
    assert osk["method"] == "95 % confidence limits (design-based Student's t)"


@pytest.mark.usefixtures("bare", "survey")
def test_clusters_that_are_not_nested_or_numbered_anew_are_told(run: Run) -> None:
    assert "Advice (clusters-across-strata): 2 codes of `cluster` occur" in run(*ASKED, *DRAWN).stderr
    assert "Advice (clusters-numbered-anew)" in run(*ASKED, "--cluster", "cluster").stderr
    assert "clusters-numbered-anew" not in run(*ASKED, "--cluster", "x").stderr


@pytest.mark.usefixtures("bare", "survey")
def test_replicate_weights_need_their_method(run: Run) -> None:
    done = run(*ASKED, "--replicates", "weight,people")
    assert done.returncode == 2
    assert "Nobody said how the replicate weights were made" in done.stderr
    done = run(*ASKED, "--replicates", "weight,people", "--replicate-method", "jk1")
    assert "2 replicate weights (jk1, scale 0.5)" in done.stdout
    idle = run(*ASKED, "--replicate-method", "jk1")
    assert "makes no difference without replicate weights" in idle.stderr


@pytest.mark.usefixtures("bare", "survey")
def test_limits_of_skewed_means_are_met_with_advice(run: Run, folder: Path) -> None:
    (folder / "skewed.csv").write_text("x\n" + "\n".join(str(2**n) for n in range(18)) + "\n", "utf-8")
    assert "Advice (skewed-mean)" in run("table", "skewed.csv", "--measure", "x").stderr


@pytest.mark.usefixtures("bare")
def test_a_share_of_nothing_in_three_records_differs_from_nothing(run: Run, folder: Path) -> None:
    many = [f"many,{cluster},{'yes' if record < 3 else 'no'}" for cluster in range(12) for record in range(7)]
    few = [f"few,{cluster},no" for cluster in (20, 21, 22)]
    (folder / "f.csv").write_text("\n".join(["k,c,a", *many, *few]) + "\n", "utf-8")
    asked = ("table", "f.csv", "--by", "k", "--split", "a", "--stat", "share", "--cluster", "c", "--compare", "pairs")
    done = run(*asked, "--out", "t.json")
    assert done.returncode == 0, done.stderr
    (one,) = json.loads((folder / "t.json").read_text("utf-8"))["differences"]
    assert one["low"] < 0 < one["high"]
    assert one["p"] > 0.05
    assert "limits" in one["test"]
