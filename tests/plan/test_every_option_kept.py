"""Every option of every kind, kept in a plan, is read back as it was asked for, and fits the schema."""

import json
import tomllib
from pathlib import Path

import pytest
from jsonschema import Draft7Validator

from grainstack.errors import GrainStackError
from grainstack.making.kind import Product
from grainstack.making.kinds import kind_named
from grainstack.plan.file.reading import read_plan
from grainstack.plan.file.saving import NewEntry, extended
from grainstack.plan.file.schema import FOLDER
from grainstack.requests import filled
from tests.making.test_every_option import BY, TRIES, Fields, _options, folder

__all__ = ["folder"]

FORMATS = {Product.TABLE: ("csv", "json", "md"), Product.CHART: ("png", "svg", "pdf")}
SCHEMA = Draft7Validator(json.loads((FOLDER / "plan.schema.json").read_text("utf-8")))


def _asked(kind_name: str, name: str, folder: Path) -> list[Fields]:
    """What the option is tried with, as far as the kind has all of it."""
    kind = kind_named(kind_name)
    known = {entry_name for kind_of_it, entry_name in _options() if kind_of_it == kind_name}
    found = []
    for before, besides in TRIES[name]:
        if (set(before) | set(besides)) <= known:
            fields = {"file": (str(folder / "records.csv"),), **BY[kind_name], **before, **besides}
            if "codebook" in fields:
                fields["codebook"] = str(folder / fields["codebook"])
            try:
                kind.settle(filled(kind.models, fields))
            except GrainStackError:
                continue
            found.append(fields)
    return found


@pytest.mark.parametrize(("kind_name", "name"), list(_options()))
def test_what_is_kept_is_what_was_asked_for(kind_name: str, name: str, folder: Path, tmp_path: Path) -> None:
    kind = kind_named(kind_name)
    for fields in _asked(kind_name, name, folder):
        requests = filled(kind.models, fields)
        try:
            requests.check()
        except GrainStackError:
            continue
        kept = extended(tmp_path / "plan.toml", NewEntry(kind, requests, FORMATS[kind.product][:2]))
        kept.path.write_text(kept.text, "utf-8")
        plan = read_plan(kept.path, FORMATS)
        plan.check()
        entry = plan.entries[-1]
        assert entry.kind.name == kind_name
        assert entry.requests == requests
        assert entry.formats == FORMATS[kind.product][:2]
        assert [error.message for error in SCHEMA.iter_errors(tomllib.loads(kept.text))] == []
        kept.path.unlink()


def test_nearly_every_option_is_kept_somewhere(folder: Path) -> None:
    kept = {name for kind_name, name in _options() if _asked(kind_name, name, folder)}
    assert len({name for _, name in _options()} - kept) < 8
