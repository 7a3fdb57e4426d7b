"""Nothing of what is written stays in English: every phrase passes the catalogue of the language spoken.

A made-up language turns each letter of a phrase into another alphabet. What is left in Latin letters then comes from
the records, the codebook or what was typed; any other word was never looked up.
"""

import json
import re
import string
from collections.abc import Iterator, Mapping
from html import unescape
from pathlib import Path
from random import Random
from typing import Any

import pytest

from grainstack.advice import NAMES as ADVICE
from grainstack.errors import GrainStackError
from grainstack.language import Language, speaking
from grainstack.making.kinds import KINDS, kind_named
from grainstack.making.make import make
from grainstack.option_fields import entries
from grainstack.option_names import plain
from grainstack.records.opened import open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import filled
from tests.making.test_every_option import BY, TRIES, Asking, written
from tests.making.test_every_option import folder as folder  # noqa: PLC0414 - a fixture
from tests.oracle.asking import random_change, random_chart, random_given, random_request
from tests.oracle.survey import given_values, random_survey
from tests.soak import SOAK

_OTHER = dict(zip(string.ascii_letters, map(chr, range(0x0410, 0x0410 + 52)), strict=True))
_FIELD = re.compile(r"(\{[^}]*\})")
_WORD = re.compile(r"[A-Za-z]{2,}")
_NAMES = {  # of methods and of people, which are the same in every language
    *("Korn", "Graubard", "Woodruff"),
    *("th", "st", "nd", "rd"),  # English ordinals, beside which a translation is given the number
    *(part for name in ADVICE for part in name.split("-")),  # what advice is silenced by
}


def _other(text: str) -> str:
    """A phrase in another alphabet, its facts as they are."""
    parts = _FIELD.split(text)
    return "".join(part if part.startswith("{") else "".join(_OTHER.get(one, one) for one in part) for part in parts)


MADE_UP = Language(
    name="en",  # for number patterns
    translate=_other,
    translate_some=lambda one, many, count: _other(one if count == 1 else many),
    group="’",
    decimal="·",
    months=tuple(f"{month:02}" for month in range(1, 13)),
    weekdays=tuple("1234567"),
)


def _shown(outputs: Mapping[str, bytes]) -> str:
    """What people read of a table or chart."""
    texts = []
    for medium, content in outputs.items():
        if medium in (".md", "terminal"):
            texts.append(re.sub(r"\x1b\[[0-9;]*m", "", content.decode()))
        elif medium == "picture":
            texts.append(unescape(re.sub(r"<style.*?</style>|<[^>]*>", " ", content.decode(), flags=re.DOTALL)))
    return plain("\n".join(texts))


def words_left(text: str, known: str) -> list[str]:
    """The words of a text in Latin letters that are no fact, no option and no name.

    Args:
        text: What is read.
        known: All facts there are.
    """
    every = [entry for name in KINDS for model in kind_named(name).models for entry in entries(model)]
    options = {part for entry in every for one in (entry.name, *entry.word.choices) for part in re.split("[_-]", one)}
    allowed = set(_WORD.findall(known)) | options | {*KINDS} | _NAMES
    allowed |= {word.lower() for word in allowed} | {word.capitalize() for word in allowed}
    return sorted(set(_WORD.findall(text)) - allowed)


def _check(outputs: Mapping[str, bytes], known: str, about: object) -> None:
    left = words_left(_shown(outputs), known)
    assert not left, f"{left} in {about}"


def _every_try() -> Iterator[tuple[str, dict[str, Any]]]:
    for name in KINDS:
        known = {entry.name for model in kind_named(name).models for entry in entries(model)}
        for tries in TRIES.values():
            for before, besides in tries:
                if (set(before) | set(besides)) <= known and "language" not in besides:
                    yield name, BY[name] | before | besides


@pytest.mark.soak
@pytest.mark.parametrize("name", list(KINDS))
def test_every_option_speaks_the_language(folder: Path, name: str) -> None:
    asking, kind = Asking(folder), kind_named(name)
    known = "".join((folder / one).read_text("utf-8") for one in ("records.csv", "codebook.toml", "other.toml"))
    tried = 0
    for kind_name, fields in _every_try():
        if kind_name != name:
            continue
        try:
            with speaking(MADE_UP):
                requests = asking.requests(kind, fields)
                outputs = written(make(kind, requests, open_records(requests[RecordsRequest])))
        except GrainStackError:
            continue
        tried += 1
        _check(outputs, known + json.dumps(fields), fields)
    assert tried > 30


@pytest.mark.parametrize("seed", range(60 * SOAK))
def test_whatever_is_asked_speaks_the_language(tmp_path: Path, seed: int) -> None:
    random = Random(seed)  # noqa: S311 - nothing here is secret
    survey, name, asked = random_survey(random), "table", random_request(random)
    if random.random() < 0.4:
        name, asked, _ = random_chart(random)
    elif random.random() < 0.3:
        asked = random_change(random)
    elif random.random() < 0.2:
        survey, asked = given_values(random), random_given(random)
    (tmp_path / "visits.csv").write_text(survey.csv(), "utf-8")
    (tmp_path / "codebook.toml").write_text(survey.codebook, "utf-8")
    kind = kind_named(name)
    try:
        with speaking(MADE_UP):
            requests = filled(kind.models, {"file": (str(tmp_path / "visits.csv"),), **asked})
            outputs = written(make(kind, requests, open_records(requests[RecordsRequest])))
    except GrainStackError:
        return
    _check(outputs, survey.csv() + survey.codebook + json.dumps(asked), asked)
