"""Whatever stands at a key of a plan, the plan is read: faults are sentences with their places."""

import datetime as dt
import json
import re
import tomllib
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
import tomlkit
from jsonschema import Draft7Validator

from grainstack.chart.look.style_file import SECTIONS, TOP, style_from
from grainstack.errors import GrainStackError
from grainstack.making.engine import EngineRequest
from grainstack.making.kind import Product
from grainstack.making.kinds import KINDS, kind_named
from grainstack.option_fields import entries
from grainstack.plan.file.plan import PlanError
from grainstack.plan.file.reading import read_plan
from grainstack.plan.file.report import PART, REPORT
from grainstack.plan.file.schema import FILES, FOLDER, own_keys, records_keys, words_of
from grainstack.records.codebook.file import codebook_from_toml
from grainstack.records.codebook.keys import DESIGN, RECORDS, VARIABLE

pytestmark = pytest.mark.soak

FORMATS = {Product.TABLE: ("csv", "json", "md"), Product.CHART: ("png", "svg", "pdf")}
PLAN, CODEBOOK, STYLE = (
    Draft7Validator(json.loads((FOLDER / f"{file}.schema.json").read_text("utf-8"))) for file in FILES
)
VALUES: tuple[Any, ...] = (
    *(3, -1, 1.5, True, "", "x", "{nope}", [], ["x"], [1, ["x"]], [[]], {}, {"a": 1}, [{"a": 1}]),
    *(dt.date(2025, 1, 31), 10**30, float("inf"), "\n", "=1"),
)
CHART = {"name": "c", "kind": "bar", "by": "route"}
SOUND: dict[str, Any] = {"records": {"file": "x.csv"}, "chart": [CHART]}


def _with(section: str, key: str, value: object) -> dict[str, Any]:
    """A sound plan with a value at a key of a section."""
    if section == "report.part":
        return {**SOUND, "report": {"title": "t", "part": [{key: value}]}}
    if section == "chart":
        return {**SOUND, "chart": [{**CHART, key: value}]}
    if section.startswith("style."):
        return {**SOUND, "style": {section.partition(".")[2]: {key: value}}}
    if section == "records":
        return {**SOUND, "records": {"file": "x.csv", key: value}}
    return {**SOUND, section: {key: value}}


KEYS: dict[str, list[str]] = {
    "report": [*REPORT, "part"],
    "report.part": list(PART),
    "engine": [entry.name for entry in entries(EngineRequest)],
    "records": [*records_keys(), "named"],
    "chart": ["kind", *own_keys((".svg",)), *words_of(kind_named("bar"))],
    "defaults": [*KINDS, "no_advice", *words_of(kind_named("bar"))],
    "params": ["year"],
    "style": [*TOP, *SECTIONS],
    **{f"style.{name}": list(keys) for name, keys in SECTIONS.items()},
}


def _read(folder: Path, content: dict[str, Any]) -> None:
    path = folder / "plan.toml"
    path.write_text(tomlkit.dumps(content), "utf-8")
    try:
        faults = read_plan(path, FORMATS).faults
    except PlanError as error:
        faults = error.faults
    if not faults:
        assert [error.message for error in PLAN.iter_errors(content)] == [], content
    for fault in faults:
        assert fault.startswith("plan.toml"), fault
        assert not re.search(r"Traceback|<class|object at", fault), fault


@pytest.mark.parametrize("section", KEYS)
def test_any_value_at_any_key_is_taken_or_told(section: str, tmp_path: Path) -> None:
    for key in KEYS[section]:
        for value in VALUES:
            _read(tmp_path, _with(section, key, value))


@pytest.mark.parametrize("value", VALUES)
def test_any_value_in_the_place_of_a_section_is_told(value: object, tmp_path: Path) -> None:
    for section in ("params", "records", "defaults", "style", "engine", "report", "table", "chart", "other"):
        _read(tmp_path, {**SOUND, section: value})


def _refused(read: Callable[[str], object], content: dict[str, Any]) -> bool:
    """Whether a file is refused, with a sentence."""
    try:
        read(tomlkit.dumps(content))
    except GrainStackError:
        return True
    return False


@pytest.mark.parametrize("section", ["records", "variables", "design"])
def test_any_value_at_any_key_of_a_codebook_is_taken_or_told(section: str) -> None:
    keys = {"records": RECORDS, "variables": VARIABLE, "design": DESIGN}[section]
    for key in keys:
        for value in VALUES:
            content = {"variables": {"a": {key: value}}} if section == "variables" else {section: {key: value}}
            if not _refused(lambda text: codebook_from_toml(text, "codebook.toml"), content):
                assert [error.message for error in CODEBOOK.iter_errors(content)] == [], (key, value)


@pytest.mark.parametrize("section", ["", *SECTIONS])
def test_any_value_at_any_key_of_a_style_is_taken_or_told(section: str) -> None:
    for key in SECTIONS[section] if section else [*TOP, *SECTIONS]:
        for value in VALUES:
            content = {section: {key: value}} if section else {key: value}
            if not _refused(lambda text: style_from(tomllib.loads(text), "style.toml"), content):
                assert [error.message for error in STYLE.iter_errors(content)] == [], (key, value)
