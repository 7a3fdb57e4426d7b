"""Which options of a chart are its looks, and not what it shows: those that another chart can take over."""

from collections.abc import Mapping, Sequence
from typing import Any

from grainstack.option_fields import Request, entries

_GROUPS = ("Layout and labels", "Colours", "Picture", "Numbers")
_BESIDES = ("legend", "no_note", "ticks")
_NO_LOOKS = ("swap", "opposite", "neutral", "highlight", "show_records")  # in those groups, but about what is shown


def look_names(models: Sequence[type[Request]]) -> tuple[str, ...]:
    """The options of some models that are looks.

    Args:
        models: The request models of a kind.
    """
    every = [entry for model in models for entry in entries(model) if entry.name not in _NO_LOOKS]
    return tuple(entry.name for entry in every if entry.word.group in _GROUPS or entry.name in _BESIDES)


def looks_in(asked: Mapping[str, Any], models: Sequence[type[Request]]) -> dict[str, Any]:
    """The looks in what was asked of another chart, as far as these models have them.

    Args:
        asked: What was asked, by option.
        models: The request models of the chart that takes them over.
    """
    wanted = set(look_names(models))
    return {name: value for name, value in asked.items() if name in wanted}
