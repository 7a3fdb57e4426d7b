"""Spans shade the categories they name, and say why where there is room."""

from pathlib import Path

import pytest

from grainstack.chart.marks import MarkRole, Rect, Text
from grainstack.chart.scene import Scene
from grainstack.making.kinds import kind_named
from grainstack.making.make import make
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import filled
from tests.chart.scenes import check
from tests.program.conftest import Run

ASKED = {"by": ("season",), "measure": ("wait",)}


def drawn(folder: Path, kind: str, **asked: object) -> Scene:
    one = kind_named(kind)
    requests = filled(one.models, {"file": (str(folder / "passengers.csv"),), **ASKED, **asked})
    return make(one, requests, open_records(requests[RecordsRequest])).picture()


@pytest.mark.parametrize("direction", ["vertical", "horizontal"])
@pytest.mark.parametrize("kind", ["bar", "dot"])
@pytest.mark.parametrize("panel", [None, "ticket"])
def test_a_span_covers_its_categories_in_every_plot(folder: Path, kind: str, direction: str, panel: str | None) -> None:
    more = {"panel": panel, "only": ("ticket=app,web",)} if panel else {}
    scene = drawn(folder, kind, span=("Summer, Autumn: Pier closed",), direction=direction, **more)
    check(scene)
    shades = [mark for mark in scene.marks if isinstance(mark, Rect) and mark.role is MarkRole.SPAN]
    assert len(shades) == (2 if panel else 1)
    names = [mark for mark in scene.marks if isinstance(mark, Text) and mark.role is MarkRole.CATEGORY]
    for name in names:
        if direction == "horizontal":
            held = any(shade.y < name.y - name.size / 3 < shade.y + shade.height for shade in shades)
        else:
            held = any(shade.x < name.x < shade.x + shade.width for shade in shades)
        assert held == (name.content in ("Summer", "Autumn")), name.content
    [note] = [mark for mark in scene.marks if isinstance(mark, Text) and mark.role is MarkRole.ANNOTATION]
    first = shades[0]
    assert first.x <= note.box[0]
    assert note.box[2] <= first.x + first.width
    assert first.y <= note.box[1]
    assert note.box[3] <= first.y + first.height
    assert "Summer – Autumn: Pier closed." in scene.alt


@pytest.mark.parametrize(
    ("span", "message"),
    [
        ("Autumn, Summer", "`Summer` stands before `Autumn`"),
        ("Sumer", "no category `Sumer` is shown"),
        ("a, b, c: x", "does not say from which category to which"),
        ("Summer:", "does not say from which category to which"),
    ],
)
def test_a_span_of_nothing_is_told(run: Run, folder: Path, span: str, message: str) -> None:
    done = run("bar", "passengers.csv", "--by", "season", "--span", span, "--out", "x.svg")
    assert done.returncode == 2
    assert message in done.stderr
    assert not (folder / "x.svg").exists()


def test_a_plan_writes_it_in_a_table(run: Run, folder: Path) -> None:
    entry = '[records]\nfile = "passengers.csv"\n[[chart]]\nname = "a"\nkind = "bar"\nby = "season"\nformats = "svg"\n'
    (folder / "p.toml").write_text(f'{entry}[[chart.span]]\nfrom = "Summer"\nto = "Autumn"\ntext = "Strike"\n', "utf-8")
    assert run("build", "p.toml", "--out", "made").returncode == 0
    assert "Summer – Autumn: Strike." in (folder / "made/a.svg").read_text("utf-8")
    (folder / "p.toml").write_text(f'{entry}[[chart.span]]\nfrom = "Summer"\n', "utf-8")
    assert "span must say `from`, `to`" in run("build", "p.toml", "--out", "made").stderr
