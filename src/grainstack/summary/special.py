"""Functions of distributions, loaded once a figure needs one: SciPy's take longer to load than most tables to make."""

from functools import cache
from typing import Any


@cache
def special() -> Any:  # noqa: ANN401 - SciPy carries no types
    """SciPy's special functions."""
    from scipy import special as functions  # noqa: PLC0415 - a fifth of a second that only limits and tests should cost

    return functions
