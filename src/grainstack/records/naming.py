"""Columns as a person names many of them at once."""

from collections.abc import Sequence
from fnmatch import fnmatchcase

from grainstack.errors import RequestError, nearest

_TO = ".."


def columns_named(wanted: Sequence[str], source: str, columns: Sequence[str]) -> tuple[str, ...]:
    """The columns that names, patterns such as `q_*` and ranges such as `1980..2013` stand for, each once.

    Args:
        wanted: Names, patterns and ranges; a range holds all columns from one to another as they stand in the source.
        source: What the source is called, for messages.
        columns: The columns it has.

    Raises:
        RequestError: One of them matches no column, or a range runs backwards.
    """
    return tuple(dict.fromkeys(name for one in wanted for name in _matching(one, source, columns)))


def _matching(wanted: str, source: str, columns: Sequence[str]) -> Sequence[str]:
    matching = [name for name in columns if name == wanted or fnmatchcase(name, wanted)]
    first, last = (part.strip() for part in wanted.partition(_TO)[::2])
    if not matching and first and last:
        for end in (first, last):
            if end not in columns:
                raise RequestError(f"{source} has no column `{end}`.", nearest(end, columns))
        span = columns[columns.index(first) : columns.index(last) + 1]
        if not span:
            raise RequestError(
                f"`{wanted}` runs backwards: {source} has `{first}` behind `{last}`.", f"Write {last}{_TO}{first}."
            )
        return span
    if not matching:
        raise RequestError(f"{source} has no column `{wanted}`.", nearest(wanted, columns))
    return matching
