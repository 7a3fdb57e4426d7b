"""Many changes in a row, as of somebody who tries things: the command shown makes the picture, undo the first."""

import random
import shlex
from pathlib import Path
from typing import Any

import pytest

from grainstack.cli.edit import open_page
from grainstack.editing.drawing import Drawn
from grainstack.editing.forms import FORMS
from grainstack.editing.session import Answer, Session
from grainstack.editing.state import Change
from grainstack.errors import GrainStackError
from tests.program.conftest import Run, drawn
from tests.soak import daily

CHANGES: dict[str, list[Any]] = {
    "by": [["route"], ["season"], ["route", "season"], ["facilities"], ["staff"]],
    "split": ["ticket", "season", "vehicle", "nowhere"],
    "panel": ["season", "purpose"],
    "measure": [["wait"], ["spend"]],
    "stat": [["median"], ["share"], ["sum"], ["count"]],
    "order": ["largest-first", "smallest-first", "codebook", "Dunmar"],
    "split_order": ["alphabetical", "largest-first"],
    "keep_top": [2, 3, 20],
    "only": [["route=1,2,3"], ["season=Summer"]],
    "except": [["route=6"]],
    "layout": ["stacked", "grouped", "percent", "diverging"],
    "error_bars": ["confidence", "none", "sd"],
    "confidence": [80, 99],
    "compare": ["pairs"],
    "title": ["A “title”", "", "none"],
    "subtitle": ["Sub"],
    "palette": ["kiln", "meadow"],
    "highlight": ["Dunmar", "App"],
    "legend": ["bottom", "none", "right"],
    "size": ["120x80mm", "70x105mm", "254x143mm"],
    "label": ["none", "count", "share"],
    "reference": [["mean"], ["12=Goal"]],
    "annotation": [["Dunmar: busy"], ["top-right: note"]],
    "min_base": [50],
    "hide_small": [True],
    "totals": [True],
    "direction": ["horizontal", "vertical"],
    "no_design": [True],
    "value_range": ["0,50"],
    "format": ["0.0"],
    "language": ["de"],
}
LONG = 50  # changes


def changed(session: Session, choose: random.Random) -> Answer:
    """What one change leads to: an option, another form, or a step back and another on."""
    kind = choose.random()
    if kind < 0.12:
        return session.take_form(choose.choice(FORMS).name)
    if kind < 0.2:
        session.undo()
    name = choose.choice(list(CHANGES))
    value = None if choose.random() < 0.3 else choose.choice(CHANGES[name])
    try:
        return session.change(Change({name: value}))
    except GrainStackError:  # an option that this kind does not have
        return session.show()


def picture(answer: Answer) -> Drawn:
    assert answer.drawn is not None
    assert bool(answer.drawn.picture) != bool(answer.drawn.fault)
    return answer.drawn


@pytest.mark.parametrize("seed", daily(range(10), range(1)))
def test_fifty_changes_end_where_their_command_does_and_go_back(
    folder: Path, run: Run, monkeypatch: pytest.MonkeyPatch, seed: int
) -> None:
    monkeypatch.chdir(folder)
    server = open_page(("passengers.csv",), None)
    session, choose = server.session, random.Random(seed)  # noqa: S311 - no secret
    first = picture(session.show())
    for number in range(LONG):
        answer = changed(session, choose)
        shown = picture(answer)
        if shown.picture.startswith("<svg") and (number % 25 == 0 or number == LONG - 1):
            done = run(*shlex.split(shown.command)[1:], "--out", "x.svg")
            assert done.returncode == 0, (shown.command, done.stderr)
            (folder / "page.svg").write_text(shown.picture, "utf-8")
            assert drawn(folder / "page.svg") == drawn(folder / "x.svg"), shown.command
    answer, steps = session.show(), 0
    last = picture(answer)
    while answer.undo:
        answer, steps = session.undo(), steps + 1
    assert picture(answer).picture == first.picture
    for _ in range(steps):
        answer = session.redo()
    assert picture(answer).picture == last.picture
    server.server_close()
    again = open_page(("passengers.csv",), None)  # as after a restart
    assert picture(again.session.show()).picture == last.picture
    again.server_close()
