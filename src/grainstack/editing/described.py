"""The options of every kind as the page needs them: what they are called, say and take. Nothing is listed twice."""

from typing import Any

from grainstack.chart.look.palette import FIELDS, FURROW, KILN, MEADOW
from grainstack.making.kind import Product
from grainstack.making.kinds import KINDS, kind_named
from grainstack.option_fields import Entry, entries
from grainstack.option_names import Naming, worded
from grainstack.other_words import meanings

COLORS = tuple(dict.fromkeys((*FIELDS, *MEADOW, *KILN, *FURROW)))  # those of the palettes, to choose from
SIZES = {
    "": "as the style",
    "170x106mm": "report column",
    "170x240mm": "full page",
    "254x143mm": "slide",
    "80x60mm": "two columns",
    "70x105mm": "phone",
}
_READ_ONLY = ("file", "codebook", "engine", "scheduler", "explain")  # which the page was opened with


def named_on_page(name: str, value: str | None) -> str:
    """An option in a message of the page, with the value it should have or None."""
    label = f"“{name.rstrip('_').replace('_', ' ')}”"
    return label if value is None else f"{label} {value}"


ON_PAGE = Naming(named_on_page, lambda kind: kind)


def meant(words: str) -> list[tuple[str, str | None]]:
    """The options that words are other words for, with the value they name; the nearest first.

    Args:
        words: What somebody calls it.
    """
    return [(one.field, one.value) for _, one in meanings(words)]


def described() -> list[dict[str, Any]]:
    """Each kind with its options, group by group in the order of the help."""
    found = []
    for name, summary in KINDS.items():
        kind = kind_named(name)
        every = [entry for model in kind.models for entry in entries(model) if entry.name not in _READ_ONLY]
        chart = kind.product is Product.CHART
        found.append({"name": name, "about": summary, "chart": chart, "options": [_described(one) for one in every]})
    return found


def _described(entry: Entry) -> dict[str, Any]:
    word = entry.word
    form = "text"
    if entry.type is bool:
        form = "switch"
    elif entry.type == tuple[str, ...]:
        form = "list"
    elif word.choices:
        form = "choice"
    elif entry.type in (int, float, int | None, float | None):
        form = "number"
    return {
        "name": entry.name.rstrip("_"),
        "group": word.group,
        "help": worded(word.help, ON_PAGE),
        "form": form,
        "choices": word.choices,
        "hint": word.metavar,
        "default": entry.default if isinstance(entry.default, str | float | int) else None,
        "columns": word.metavar == "COLUMN",
        "needs": word.needs,
    }
