"""Every pair of layers on every kind of bars and dots: drawn with nothing over anything, or refused with what works."""

from importlib.resources import files
from itertools import combinations, product
from pathlib import Path
from typing import Any

import pytest

from grainstack.chart.marks import MarkRole
from grainstack.errors import GrainStackError
from grainstack.making.kinds import kind_named
from grainstack.making.make import make
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import filled
from tests.chart.scenes import check
from tests.soak import daily

FORMS: dict[str, tuple[str, dict[str, Any]]] = {
    "means": ("bar", {"by": ("season",), "measure": ("wait",)}),
    "grouped means": ("bar", {"by": ("season",), "split": "route", "only": ("route=1,2,4",), "measure": ("wait",)}),
    "stacked": ("bar", {"by": ("season",), "split": "ticket"}),
    "percent": ("bar", {"by": ("season",), "split": "ticket", "layout": "percent"}),
    "diverging": ("bar", {"by": ("season",), "split": "staff", "layout": "diverging"}),
    "two sides": (
        "bar",
        {"by": ("season",), "split": "route", "only": ("route=1,4",), "measure": ("age",), "layout": "diverging"},
    ),
    "areas": ("bar", {"by": ("season",), "split": "ticket", "layout": "percent", "joined": True}),
    "dots": ("dot", {"by": ("season",), "split": "route", "only": ("route=1,2,4",), "measure": ("wait",)}),
    "lines": (
        "dot",
        {"by": ("season",), "split": "route", "only": ("route=1,2,4",), "measure": ("wait",), "joined": True},
    ),
}
LAYERS: dict[str, dict[str, Any]] = {
    "limits": {"error_bars": "confidence"},
    "letters": {"letters": True},
    "figures": {"label": "value"},
    "second measure": {"second_measure": "spend"},
    "records": {"show_records": True},
    "reference": {"reference": ("12=Goal", "mean")},
    "note": {"annotation": ("Summer: School holidays",)},
    "span": {"span": ("Summer, Autumn: Pier repairs",)},
    "bracket": {"bracket": ("Spring, Summer",)},
    "touch": {"touch": ("names: bold", "Summer: outline=#222")},
    "panels": {"panel": "purpose", "except_": ("purpose=medical,goods",)},
    "legend": {"legend": "direct"},
    "own axes": {"panel": "purpose", "except_": ("purpose=medical,goods",), "panel_axes": "free"},
}
DRAWN_AS = {
    "limits": MarkRole.WHISKER,
    "second measure": MarkRole.SECOND_DOT,
    "records": MarkRole.RECORD,
    "span": MarkRole.SPAN,
    "letters": MarkRole.LETTER,
}
UNKNOWN = {"dot": {"second measure", "records", "bracket"}}  # no option of these kinds asks for them
NO_TEST = {"letters", "records", "bracket"}  # of counts, and of segments: none stands by itself
REFUSED: dict[str, set[str]] = {
    "means": {"legend"},  # of no series
    "stacked": NO_TEST,
    "percent": NO_TEST | {"reference"},  # shares have no mean
    "diverging": NO_TEST | {"reference"},
    "two sides": NO_TEST,
    "areas": NO_TEST | {"reference", "limits"},
}
REFUSED_TOGETHER = {"second measure", "own axes"}
CASES = [
    (form, one, other)
    for form, (one, other) in product(FORMS, combinations(LAYERS, 2))
    if not UNKNOWN.get(FORMS[form][0], set()) & {one, other}
]


@pytest.mark.parametrize(("form", "one", "other"), daily(CASES, CASES[:: len(CASES) // 60]))
def test_two_layers_stand_together_or_are_refused(demo: Path, form: str, one: str, other: str) -> None:
    kind, asked = FORMS[form]
    layers = {**LAYERS[one], **LAYERS[other]}
    models = kind_named(kind).models
    refused = bool(REFUSED.get(form, set()) & {one, other}) or {one, other} == REFUSED_TOGETHER
    try:
        requests = filled(models, {"file": (str(demo / "passengers.csv"),), **asked, **layers})
        made = make(kind_named(kind), requests, open_records(requests[RecordsRequest]))
        scene = made.picture()
    except GrainStackError as error:
        assert refused, f"{error.message} {error.remedy}"  # noqa: PT017 - most pairs are drawn
        assert error.remedy, error.message  # noqa: PT017
        return
    assert not refused
    check(scene)
    roles = {mark.role for mark in scene.marks}
    missing = dict(scene.left_out)
    for layer in (one, other):
        role = DRAWN_AS.get(layer)
        assert role is None or role in roles or role in missing, f"{layer} is neither drawn nor refused"


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with the demo data."""
    folder = tmp_path_factory.mktemp("layers")
    for item in files("grainstack.demo").joinpath("data").iterdir():
        (folder / item.name).write_bytes(item.read_bytes())
    return folder
