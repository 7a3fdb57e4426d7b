"""The table of other words for options, commands and values."""

import tomllib
from functools import cache
from pathlib import Path
from typing import Any


@cache
def synonyms() -> dict[str, Any]:
    """What people call things: for `options`, `commands`, `values` and `sentences` the words that mean each."""
    return tomllib.loads((Path(__file__).parent / "other_words.toml").read_text("utf-8"))
