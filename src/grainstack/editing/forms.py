"""The forms along the top of the page: each is a change of what is asked for, with what it is good for."""

from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from grainstack.editing.figure_rows import FigureRows
from grainstack.editing.state import Change, State
from grainstack.records.variable import Kind

_FORM_OPTIONS = ("layout", "joined", "form")  # that tell forms of one kind apart


class Form(Struct, frozen=True):
    """A form.

    Attributes:
        name: As it is called.
        kind: The kind of chart or table.
        options: The options that make it.
        about: What it is good for.
    """

    name: str
    kind: str
    options: Mapping[str, Any]
    about: str


FORMS = (
    Form("bars", "bar", {}, "Lengths from one zero compare best."),
    Form("side by side", "bar", {"layout": "grouped"}, "Every figure compares with its neighbours."),
    Form("stacked", "bar", {"layout": "stacked"}, "The whole and its first part compare; the others less."),
    Form("percent", "bar", {"layout": "percent"}, "Shares compare, however many there are of each."),
    Form("diverging", "bar", {"layout": "diverging"}, "Good and bad answers part at the middle."),
    Form("dots", "dot", {}, "Means compare without a bar from zero; limits are seen best."),
    Form("lines", "dot", {"joined": True}, "A rise or fall over time is seen at once."),
    Form("areas", "bar", {"layout": "percent", "joined": True}, "Shares of a whole over time."),
    Form("pie", "pie", {}, "A few parts of one whole."),
    Form("treemap", "treemap", {}, "Many parts of one whole, within groups."),
    Form("distribution", "distribution", {}, "All values of a number, not only their mean."),
    Form("histogram", "distribution", {"form": "histogram"}, "How often each value of a number occurs."),
    Form("table", "table", {}, "The figures themselves."),
)


def change_to(form: Form, state: State) -> Change:
    """What leads from a state to a form.

    Args:
        form: The form.
        state: What is asked for. A treemap nests columns where other forms have series.
    """
    options = {**dict.fromkeys(_FORM_OPTIONS), **form.options}
    split = state.values.get("split")
    if form.kind == "treemap" and split:
        options |= {"by": [*state.values.get("by", []), split], "split": None}
    return Change(options, form.kind)


def is_form(state: State, form: Form) -> bool:
    """Whether a state has a form.

    Args:
        state: What is asked for.
        form: The form.
    """
    given = {name: state.values[name] for name in _FORM_OPTIONS if state.values.get(name)}
    return state.kind == form.kind and given == form.options


def best_form(state: State, shown: FigureRows, kinds: Mapping[str, str]) -> str:
    """The name of the form that suits the columns best.

    Args:
        state: What is asked for.
        shown: The columns with their levels.
        kinds: The kind of each column.
    """
    values = state.values
    if values.get("joined"):
        return "areas" if state.kind == "bar" else "lines"  # somebody sees an order that the column does not tell
    of_role = {one.role: one for one in shown.columns}
    over_time = "category" in of_role and kinds.get(of_role["category"].name) == Kind.DATE
    adds_up = set(values.get("stat", ())) <= {"sum", "share"} and bool(values.get("stat"))
    if values.get("measure") and not (adds_up and values.get("split")):
        return "lines" if over_time else "dots" if values.get("split") else "bars"
    if values.get("split"):
        return "areas" if over_time else "percent"
    return "bars"
