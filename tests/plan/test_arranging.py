"""Entries of a plan are moved and copied with their lines as they are, whatever stands around them."""

import tomllib

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grainstack.plan.file.arranging import duplicated, reordered
from grainstack.plan.file.plan import PlanError

HEAD = '[records]\nfile = "a.csv"\n\n'
BLOCKS = {
    "a": '# the first\n[[chart]]\nname = "a"  # here\nkind = "bar"\n\n[[chart.touch]]\nof = "title"\nbold = true\n',
    "b": '[[table]]\nname = "b"\nkind = "table"\n',
    "c": '# of all\n# routes\n[[chart]]\nkind = "pie"\nname = "c"\nby = [\n  "route",\n]\n',
    "d": "[[ chart ]]\nname = 'd'\nkind = \"dot\"\n",
}


def plan_of(names: list[str]) -> str:
    return HEAD + "\n".join(BLOCKS[name] for name in names)


@settings(max_examples=60, deadline=None)
@given(st.permutations(list(BLOCKS)), st.permutations(list(BLOCKS)))
def test_entries_are_moved_with_their_comments(before: list[str], after: list[str]) -> None:
    assert reordered(plan_of(before), after) == plan_of(after)


@settings(max_examples=30, deadline=None)
@given(st.permutations(list(BLOCKS)), st.sampled_from(list(BLOCKS)))
def test_a_copy_says_the_same_under_another_name(order: list[str], name: str) -> None:
    text = duplicated(plan_of(order), name, "new")
    every = [one for section in ("chart", "table") for one in tomllib.loads(text)[section]]
    [copy] = [one for one in every if one["name"] == "new"]
    [original] = [one for one in every if one["name"] == name]
    assert copy == {**original, "name": "new"}
    for block in BLOCKS.values():
        assert block.rstrip() in text


@pytest.mark.parametrize(
    ("text", "names", "told"),
    [
        (plan_of(["a", "b"]), ["a"], "other entries by now"),
        ("[[chart", [], "is no TOML"),
        (HEAD + 'chart = [{name = "a"}]\n', ["a"], "other entries by now"),
    ],
)
def test_what_cannot_be_moved_is_told(text: str, names: list[str], told: str) -> None:
    with pytest.raises(PlanError, match=told):
        reordered(text, names)
    with pytest.raises(PlanError):
        duplicated(text, "nowhere", "x")
