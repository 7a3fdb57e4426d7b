"""The kinds of tables and charts there are, one module each; a module is loaded when its kind is asked for."""

from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from grainstack.making.kind import Kind

KINDS = {
    "table": "Figures as a table, with limits and bases.",
    "bar": "Bars, in the terminal or as a picture.",
    "pie": "Pie or ring.",
    "treemap": "Nested tiles.",
    "dot": "Dots in place of bars.",
    "distribution": "What lies behind a mean: box, points or histogram.",
}


def kind_named(name: str) -> "Kind":
    """The kind of a name, one of `KINDS`."""
    kind: Kind = import_module(f"grainstack.making.kinds.{name}").KIND
    return kind
