"""The command line that makes what was asked for."""

import shlex
from collections.abc import Sequence
from typing import Any

from grainstack.requests import Requests


def command_line(kind: str, files: Sequence[str], requests: Requests) -> str:
    """What to type for the same table or chart.

    Args:
        kind: What it is.
        files: The records it is made of.
        requests: What was asked, before it was settled.
    """
    asked: dict[str, Any] = {}
    for model in requests:
        asked |= model.asked_for()
    words = ["grainstack", kind, *files]
    for name, value in asked.items():
        if name == "file" or value is None:
            continue
        flag = f"--{name.rstrip('_').replace('_', '-')}"
        for one in value if isinstance(value, tuple) else (value,):
            words += [flag] if one is True else [f"--no-{flag[2:]}"] if one is False else [flag, str(one)]
    return shlex.join(words)
