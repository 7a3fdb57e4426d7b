"""How much is tried in the suite, and how much with `make soak`."""

import os
from collections.abc import Collection, Iterable
from typing import Any

import pytest

SOAK = int(os.environ.get("SOAK", "1"))  # how many times the usual number of examples; from 2 on, other ones each run


def daily(every: Iterable[Any], wanted: Collection[Any]) -> list[Any]:
    """The cases of a test, of which only some are tried each day and all with `make soak`.

    Args:
        every: The cases; a tuple holds the arguments of one.
        wanted: Those that are tried each day.
    """
    return [
        pytest.param(*(one if isinstance(one, tuple) else (one,)), marks=() if one in wanted else pytest.mark.soak)
        for one in every
    ]
