"""What stands beside the figures of random charts, against the slow computation: note, legend, labels, signs."""

import re
from pathlib import Path
from random import Random

import pytest

from grainstack.chart.marks import Dot, MarkRole, Rect, Sector, Text
from grainstack.chart.scene import Scene
from grainstack.errors import GrainStackError
from grainstack.making.kinds import kind_named
from grainstack.making.make import Made, make
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.report.cells import cell_rows
from grainstack.requests import filled
from grainstack.summary.table import Role, SummaryTable
from tests.chart.test_meaning import check_colors, check_signs
from tests.oracle.asking import Asked, random_chart
from tests.oracle.slow import Expected, expected
from tests.oracle.survey import Survey, random_survey
from tests.oracle.test_oracle import BATCHES, REQUESTS, START

Place = tuple[tuple[str, ...], tuple[str, ...], tuple[str, ...]]
MARKED = (MarkRole.BAR, MarkRole.DOT, MarkRole.SLICE, MarkRole.TILE)


@pytest.mark.parametrize("batch", range(BATCHES))
def test_what_stands_beside_the_figures_of_a_chart_is_so(tmp_path: Path, batch: int) -> None:
    drawn = 0
    for seed in range(START + batch, START + REQUESTS, BATCHES):
        random = Random(seed)  # noqa: S311 - nothing here is secret
        survey, (kind, asked, as_table) = random_survey(random), random_chart(random)
        try:
            made = _made(tmp_path, survey, kind, asked)
            scene = made.picture()
        except GrainStackError:
            continue
        drawn += 1
        try:
            _check_note(scene, expected(survey, as_table))
            _check_legend(scene, made)
            _check_labels(scene, made)
            check_colors(scene)
            check_signs(scene, str(asked))
        except AssertionError as error:
            raise AssertionError(f"seed {seed}, {kind} {asked}: {error}") from error
    assert drawn > REQUESTS / BATCHES / 4, drawn


def _made(folder: Path, survey: Survey, name: str, asked: Asked) -> Made:
    (folder / "visits.csv").write_text(survey.csv(), "utf-8")
    (folder / "codebook.toml").write_text(survey.codebook, "utf-8")
    kind = kind_named(name)
    requests = filled(kind.models, {"file": (str(folder / "visits.csv"),), **asked})
    return make(kind, requests, open_records(requests[RecordsRequest]))


def _texts(scene: Scene, *roles: MarkRole) -> list[Text]:
    return [mark for mark in scene.marks if isinstance(mark, Text) and mark.role in roles]


def _check_note(scene: Scene, wanted: Expected) -> None:
    """The base is that of the slow computation, and so is each number of records that the note leaves out."""
    note = " ".join(mark.content for mark in _texts(scene, MarkRole.FOOTNOTE)).replace(",", "")
    base = re.search(r"Base: (\d+)", note)
    assert base, note
    assert int(base[1]) == (wanted.used if wanted.owners is None else wanted.owners), note
    account = wanted.account
    lacking = [*account.unanswered.values(), *account.unmeasured.values()]
    for words, counts in (
        ("without an answer", lacking),
        ("filtered away", [account.filtered]),
        ("with a weight of 0", [account.weightless]),
    ):
        for count in re.findall(rf"(\d+) {words}", note):
            assert wanted.owners is not None or int(count) in counts, (words, note)
    no_band = sum(map(int, re.findall(r"(\d+) whose", note)))
    assert wanted.owners is not None or no_band == account.no_band, note
    if wanted.owners is None:  # what is left out is told, too
        told = set(map(int, re.findall(r"\d+", note)))
        assert {*lacking, account.filtered, account.weightless} - {0} <= told, note


def _check_legend(scene: Scene, made: Made) -> None:
    """Each entry is a level of the series, each level that is drawn has one, and they stand in the order drawn."""
    entries = [mark.key.series or mark.key.category for mark in _texts(scene, MarkRole.LEGEND)]
    if not entries:
        return
    marks = [mark for mark in scene.marks if isinstance(mark, Rect | Dot | Sector) and mark.role in MARKED]
    shown = {mark.key.series or mark.key.category for mark in marks}
    assert len(set(entries)) == len(entries), entries
    assert shown <= set(entries), (shown, entries)
    if made.table.series is not None:
        order = [(level.key,) for level in made.table.series.levels]
        assert [one for one in order if one in entries] in (entries, entries[::-1]), (order, entries)


def _check_labels(scene: Scene, made: Made) -> None:
    """A figure written at a mark is one of its row, rounded as it is written."""
    estimates: dict[Place, list[float]] = {}
    for number, row in enumerate(cell_rows(made.table)):
        if row["estimate"] is not None:
            figure = row["estimate"] * (100 if row["statistic"] == "share" else 1)
            estimates.setdefault(_place(made.table, number % len(made.table.keys)), []).append(figure)
    for mark in _texts(scene, MarkRole.VALUE):
        written = re.match(r"[−-]?[\d,]+(?:\.\d+)?", mark.content)
        figures = estimates.get((mark.key.panel, mark.key.category, mark.key.series))
        if written and figures:
            text = written[0].replace(",", "").replace("−", "-")
            rounding = 0.5001 * 10 ** -len(text.partition(".")[2])
            assert any(abs(abs(float(text)) - abs(figure)) <= rounding for figure in figures), (mark, figures)


def _place(table: SummaryTable, cell: int) -> Place:
    """The levels of a cell as the keys of marks name them."""
    named = list(zip(table.levels_of(cell), table.dimensions, strict=True))
    panel, category, series = (
        tuple(level.key for level, one in named if one.role is role)
        for role in (Role.PANEL, Role.CATEGORY, Role.SERIES)
    )
    return panel, category, series
