"""Writes what editors and type checkers know of `import grainstack`: python -m grainstack.api.stubs FILE."""

import builtins
import sys
from pathlib import Path

from grainstack.api.functions import options_of, type_in_words
from grainstack.making.kind import Product
from grainstack.making.kinds import KINDS, kind_named
from grainstack.option_fields import Entry

_HEAD = """# Made by `make generated` from the request models; see `grainstack.api`.

from collections.abc import Sequence
from os import PathLike

from grainstack.api.data import CodebookLike as CodebookLike
from grainstack.api.data import Data as Data
from grainstack.api.results import Result as Result
from grainstack.errors import GrainStackError as Error

__all__ = [
{names}
]
__version__: str
"""


def stubs() -> str:
    """The text of the stub file."""
    every = ("CodebookLike", "Data", "Error", "Result", "__version__", *sorted(KINDS))
    names = "\n".join(f'    "{name}",' for name in every)
    return _HEAD.format(names=names) + "\n" + "".join(_function(name) for name in sorted(KINDS))


def _function(name: str) -> str:
    arguments = [_argument(one, entry) for one, entry in options_of(kind_named(name)).items()]
    first = ["    data: Data,", "    *,", "    codebook: CodebookLike | None = None,"]
    if kind_named(name).product is Product.CHART:
        first.append("    like: str | PathLike[str] | None = None,")
    return "\n".join([f"def {name}(", *first, *arguments, ") -> Result: ...", ""])


def _argument(name: str, entry: Entry) -> str:
    reason = "  # noqa: A002 - as the option is called" if hasattr(builtins, name) else ""
    return f"    {name}: {type_in_words(entry)} = ...,{reason}"


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(stubs(), "utf-8")
