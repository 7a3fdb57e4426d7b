"""An entry of a plan is replaced, all others and the comments stay, and every step is taken back."""

import tomllib
from pathlib import Path
from typing import Any

import pytest
import tomlkit
from hypothesis import given, settings
from hypothesis import strategies as st

from grainstack.plan.file.history import keep, take_back
from grainstack.plan.file.plan import PlanError
from grainstack.plan.file.replacing import replaced
from tests.soak import SOAK

TEXTS = st.text("ab [#\"'=\\\n", max_size=8)
VALUES = st.one_of(TEXTS, st.integers(0, 9), st.booleans(), st.lists(TEXTS, max_size=3))
ENTRIES = st.dictionaries(st.sampled_from(["by", "split", "title", "note", "size"]), VALUES, max_size=4)
PLAN = """# mine
[records]
file = "p.csv" # of May

# the first
[[chart]]
name = "a"
by = "route"  # which they took
title = '''
[[chart]]
two lines'''

[[chart.touch]]
of = "bars"
color = "#555"

# a table
[[table]]
name = "t"
"""


@settings(max_examples=60 * SOAK)
@given(st.lists(st.tuples(st.sampled_from(["chart", "table"]), ENTRIES), min_size=1, max_size=4), ENTRIES, st.data())
def test_all_but_one_entry_stays(
    plan: list[tuple[str, dict[str, Any]]], new: dict[str, Any], data: st.DataObject
) -> None:
    text = ""
    for number, (section, words) in enumerate(plan):
        lines = [f"{key} = {tomlkit.item(value).as_string()}" for key, value in words.items()]
        text += "\n".join([f"# entry {number}", f"[[{section}]]", f"# of {number}", *lines, ""])
    before = tomllib.loads(text)
    section = data.draw(st.sampled_from(sorted(before)))
    place = data.draw(st.integers(0, len(before[section]) - 1))
    try:
        found, changes = replaced(text, section, place, new)
    except PlanError:
        assert any("\n" in str(value) or "[" in str(value) for _, words in plan for value in words.values())
        return
    after = tomllib.loads(found)
    old, before[section][place] = before[section][place], new
    assert after == before
    assert bool(changes) == (old != new)
    assert all(f"# entry {number}" in found and f"# of {number}" in found for number in range(len(plan)))


def test_lines_that_say_the_same_keep_their_comments() -> None:
    found, changes = replaced(
        PLAN.replace("\n[[chart]]\ntwo", "\ntwo"), "chart", 0, {"name": "a", "by": "route", "n": 3}
    )
    assert 'by = "route"  # which they took\nn = 3\n\n# a table\n[[table]]' in found
    assert "# the first\n[[chart]]" in found
    assert [one.partition(" ")[0] for one in changes] == ["n", "title", "touch"]


def test_an_entry_that_looks_like_others_is_not_touched() -> None:
    with pytest.raises(PlanError, match="cannot be replaced without changing others"):
        replaced(PLAN, "chart", 0, {"name": "a"})


def test_versions_are_taken_back_one_by_one(tmp_path: Path) -> None:
    plan = tmp_path / "p.toml"
    texts = [f"# {number}\n" for number in range(60)]
    for text in texts:
        keep(plan, text)
        plan.write_text(text, "utf-8")
    for text in reversed(texts[9:-1]):
        take_back(plan)
        assert plan.read_text("utf-8") == text
    with pytest.raises(PlanError, match="no earlier version"):
        take_back(plan)
    assert [one.name for one in tmp_path.iterdir()] == ["p.toml"]


def test_what_somebody_else_wrote_is_not_lost(tmp_path: Path) -> None:
    plan = tmp_path / "p.toml"
    plan.write_text("# 1\n", "utf-8")
    keep(plan, "# 2\n")
    plan.write_text("# by hand\n", "utf-8")
    with pytest.raises(PlanError, match="was changed since"):
        take_back(plan)
    assert plan.read_text("utf-8") == "# by hand\n"
