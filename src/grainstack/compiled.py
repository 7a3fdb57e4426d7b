"""Compiled parts: they are optional, and give the same as what stands in for them."""

import os
from importlib import import_module
from typing import Any


def compiled(name: str) -> Any:  # noqa: ANN401 - a module that may not be there
    """A compiled module; None where it was not built, or where GRAINSTACK_PURE is set, which is for comparing both."""
    if os.environ.get("GRAINSTACK_PURE"):
        return None
    try:
        return import_module(name)
    except ImportError:
        return None
