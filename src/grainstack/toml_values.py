"""Values of TOML files as options take them: of a codebook's defaults, and of a plan."""

import csv
import io
from collections.abc import Callable

from grainstack.words import Entry

_KINDS: tuple[tuple[type, str, Callable[[object], bool]], ...] = (
    (bool, "true or false", lambda value: isinstance(value, bool)),
    (int, "a whole number", lambda value: isinstance(value, int) and not isinstance(value, bool)),
    (float, "a number", lambda value: isinstance(value, int | float) and not isinstance(value, bool)),
    (str, "text", lambda value: isinstance(value, str | int | float) and not isinstance(value, bool)),
)


def value_of(entry: Entry, value: object) -> object:
    """A value as an option takes it: a number will do for text, one text for a list, a list for text that lists names.

    Args:
        entry: The option.
        value: What the file holds.

    Raises:
        ValueError: It is of another type; says which is wanted, as the end of a sentence.
    """
    if entry.type == tuple[str, ...]:
        items = value if isinstance(value, list) else [value]
        if not all(_KINDS[-1][2](item) for item in items):
            raise ValueError("must be a list of texts")
        return tuple(str(item) for item in items)
    for kind, words, fits in _KINDS:
        if entry.type == kind or entry.type == (kind | None):
            if kind is str and isinstance(value, list) and all(fits(item) for item in value):
                return _joined([str(item) for item in value])
            if not fits(value):
                raise ValueError(f"must be {words}")
            return kind(value)
    raise TypeError(f"no value can be given for {entry.name}: {entry.type}")


def _joined(names: list[str]) -> str:
    """Names as they are listed in one option: `A, B` or `"A, with a comma", B`."""
    target = io.StringIO()
    csv.writer(target, lineterminator="").writerow(names)
    return target.getvalue()
