"""Figures in the texts of a report: each is that of the table, and one that is not there is told with its line."""

import json
import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from grainstack.plan.file.references import reference, references_in
from tests.program.conftest import Run

PLAN = """[records]
file = "passengers.csv"

[[table]]
name = "wait"
by = "route"
measure = "wait"
stat = ["mean", "median"]
error_bars = "confidence"
formats = "json"

[[table]]
name = "tickets"
by = "route"
split = "ticket"
stat = "share"
totals = true
formats = "json"

[report]
formats = "md"

[[report.part]]
text = '''{}'''
"""


def _text(run: Run, folder: Path, text: str) -> str:
    (folder / "plan.toml").write_text(PLAN.replace("{}", text), "utf-8")
    done = run("build", "plan.toml", "--quiet")
    assert done.returncode == 0, done.stderr
    return (folder / "out/report.md").read_text("utf-8").strip()


def _cells(folder: Path, name: str) -> list[dict[str, object]]:
    found: list[dict[str, object]] = json.loads((folder / f"out/{name}.json").read_text("utf-8"))["cells"]
    return found


def _line_of(folder: Path, words: str) -> int:
    lines = (folder / "plan.toml").read_text("utf-8").splitlines()
    return next(number for number, line in enumerate(lines, 1) if f"{words}" in line.removeprefix("{{"))


def test_every_figure_of_a_table_can_be_named(run: Run, folder: Path) -> None:
    _text(run, folder, "none")
    cells = _cells(folder, "wait")
    parts = [
        f"{{{{wait: {cell['statistic']}, {cell['route']}; 0.0000}}}} {{{{wait: base of {cell['statistic']}, "
        f"route={cell['route']}}}}} {{{{wait: low of {cell['statistic']} wait, {cell['route']}; 0.0000}}}}"
        for cell in cells
    ]
    for text, cell in zip(_text(run, folder, "\n\n".join(parts)).split("\n\n"), cells, strict=True):
        estimate, base, low = text.split()
        assert float(estimate) == pytest.approx(cell["estimate"], abs=6e-5)
        assert int(base.replace(",", "")) == cell["base"]
        assert float(low) == pytest.approx(cell["low"], abs=6e-5)


def test_it_is_written_as_the_table_writes_it(run: Run, folder: Path) -> None:
    text = _text(run, folder, "{{wait: mean, Dunmar}} ({{wait: limits of mean, Dunmar}}), {{tickets: share, 4, app}}")
    assert text == "22.2 (19.4–25.1), 22\N{NO-BREAK SPACE}%"


def test_a_total_stands_for_a_column_that_is_not_named(run: Run, folder: Path) -> None:
    text = _text(run, folder, "{{tickets: share, App}}")
    share = next(
        one["estimate"] for one in _cells(folder, "tickets") if one["route"] == "All" and one["ticket"] == "App"
    )
    assert text == f"{share:.0%}".replace("%", "\N{NO-BREAK SPACE}%")


@pytest.mark.parametrize(
    ("wrong", "told"),
    [
        ("wait", "is no reference to a figure"),
        ("waits: mean, Dunmar", "no entry `waits`. Did you mean `wait`?"),
        ("wait: mean, Dunmer", "no level `Dunmer`. Did you mean `Dunmar`?"),
        ("wait: mean", "does not say which level of route"),
        ("wait: Dunmar", "no figure `Dunmar`"),
        ("wait: base, Dunmar", "several figures. Name one: mean wait or median wait"),
        ("wait: wait, Dunmar", "may be several of its figures"),
        ("wait: mean, purpose=Work", "It is not by `purpose`"),
        ("wait: mean, Dunmar, Osk Harbour", "route is named twice"),
        ("wait: error of median, Dunmar", "There is no such figure here"),
    ],
)
def test_a_wrong_one_is_told_with_its_line_and_nothing_is_written(
    run: Run, folder: Path, wrong: str, told: str
) -> None:
    text = f"First line.\n{{{{wait: mean, Dunmar}}}}\n{{{{{wrong}}}}}"
    (folder / "plan.toml").write_text(PLAN.replace("{}", text), "utf-8")
    for command in ("build", "check"):
        done = run(command, "plan.toml")
        said = done.stderr + done.stdout
        assert done.returncode == 2
        assert told in said
        assert f"plan.toml, line {_line_of(folder, f'{wrong}}}}}')}, report part 1" in said
    assert not (folder / "out").exists()


def test_what_must_not_be_shown_is_not_quoted(run: Run, folder: Path) -> None:
    for what in ("mean", "base of mean"):
        plan = PLAN.replace('error_bars = "confidence"', "min_base = 50\nhide_small = true")
        (folder / "plan.toml").write_text(plan.replace("{}", f"{{{{wait: {what}, Vey Sands}}}}"), "utf-8")
        done = run("build", "plan.toml")
        assert done.returncode == 2
        assert "must not be shown" in done.stderr


def test_all_wrong_ones_are_told_at_once(run: Run, folder: Path) -> None:
    text = "{{wait: mean, Nowhere}} {{tickets: mean, Dunmar}} {{wait: mean, Elsewhere}}"
    (folder / "plan.toml").write_text(PLAN.replace("{}", text), "utf-8")
    done = run("build", "plan.toml")
    assert done.stderr.count(f"plan.toml, line {_line_of(folder, text)}") == 3


def test_params_and_the_level_of_a_set_stand_in_references(run: Run, folder: Path) -> None:
    plan = PLAN.replace("{}", "{{wait: mean, {season}; 0}}").replace('by = "route"\nmeasure', 'by = "season"\nmeasure')
    plan = f'[params]\nseason = "Summer"\n\n{plan}'
    (folder / "plan.toml").write_text(plan, "utf-8")
    summer = run("build", "plan.toml", "--quiet")
    assert summer.returncode == 0, summer.stderr
    first = (folder / "out/report.md").read_text("utf-8")
    assert re.fullmatch(r"\d+\n", first)
    each = plan.replace("{{wait: mean, {season}; 0}}", "{route}: {{wait: mean, {season}; 0}}")
    (folder / "plan.toml").write_text(each.replace('by = "route"\nsplit', 'by = "season"\nsplit'), "utf-8")
    done = run("build", "plan.toml", "--quiet", "--for-each", "route")
    assert done.returncode == 0, done.stderr
    texts = {path.parent.name: path.read_text("utf-8") for path in (folder / "out").glob("*/report.md")}
    assert len(texts) == 6
    assert all(re.fullmatch(r"[\w ]+: \d+\n", text) for text in texts.values())
    assert len(set(texts.values())) == 6


@given(st.text(max_size=60))
def test_whatever_stands_in_braces_is_a_reference_or_told(text: str) -> None:
    from grainstack.errors import RequestError  # noqa: PLC0415 - what a person may meet

    for found in references_in(f"Some {{{{{text}}}}} words"):
        try:
            assert reference(found).entry
        except RequestError as error:
            assert "is no reference" in error.message  # noqa: PT017 - either is right


@given(
    st.text("ab,;={}", min_size=1, max_size=8).filter(
        lambda text: "}}" not in text and "{" not in text and "}" not in text
    )
)
def test_a_quoted_level_is_whole(level: str) -> None:
    assert reference(f'entry: share, "{level}"').levels == (("", level),)
