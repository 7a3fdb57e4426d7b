"""The params of a plan: what may be another from build to build, and stands in its texts as `{name}`."""

import re
from collections.abc import Callable, Mapping
from typing import Any

from grainstack.errors import nearest

_PLACE = re.compile(r"(?<!\{)\{([A-Za-z_]\w*)\}")
_TYPES = {bool: "true or false", int: "a whole number", float: "a number"}

Fault = Callable[[str], None]  # takes what is wrong, in a sentence


def typed(params: Mapping[str, Any], texts: Mapping[str, str], fault: Fault) -> dict[str, Any]:
    """The params with the values typed for them, each of the type of its default.

    Args:
        params: What the plan says.
        texts: What was typed, by the names of params.
        fault: Told what is wrong.
    """
    found = dict(params)
    for name, text in texts.items():
        if name not in found:
            fault(f"there is no param `{name}`. {nearest(name, list(found))}")
            continue
        kind = type(found[name])
        try:
            found[name] = {"true": True, "false": False}[text] if kind is bool else kind(text)
        except (ValueError, KeyError):
            fault(f"param {name} must be {_TYPES.get(kind, 'text')}, not `{text}`.")
    return found


def filled(value: Any, params: Mapping[str, Any], fault: Fault, later: str = "") -> Any:  # noqa: ANN401 - as TOML has it
    """A value with the params in its texts.

    Args:
        value: A text, a list of such, or anything else, which stays as it is.
        params: The params.
        fault: Told of a param there is not.
        later: A name that stays as it is, because something takes its place later.
    """
    if isinstance(value, list):
        return [filled(one, params, fault, later) for one in value]
    if not isinstance(value, str):
        return value

    def put(match: "re.Match[str]") -> str:
        if match[1] == later:
            return match[0]
        if match[1] not in params:
            fault(f"there is no param `{match[1]}`. {nearest(match[1], list(params))}")
            return match[0]
        return str(params[match[1]])

    return _PLACE.sub(put, value)
