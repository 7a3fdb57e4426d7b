"""What the first rows of a source suggest."""

import re
from collections.abc import Iterable, Sequence
from itertools import pairwise, permutations

import pyarrow as pa

from grainstack.records.kinds import guessed_kind
from grainstack.records.source import Source
from grainstack.records.values import as_texts, unlike_values
from grainstack.records.variable import Kind

_SAMPLE = 2000  # rows that are enough to tell a kind by, in a few milliseconds
_FEW_NUMBERS = 12  # up to a scale of 0 to 10 and one code besides, numbers may be categories
_MOST_PARTS = 60  # of a treemap: more are too small to read
_MOST_YEARS = 40  # years in more numbers than a working life are rather codes
# Names of columns that say how many records a row stands for without saying what these are.
COUNT_NAMES = ("n", "count", "counts", "freq", "frequency", "number", "total", "cases", "times", "anzahl", "fallzahl")
_YEAR = re.compile(r"(19|20)\d\d")


def sampled_codes(head: pa.RecordBatch, names: Sequence[str]) -> dict[str, list[str]]:
    """The different codes of columns among the first rows, blank ones left out.

    Args:
        head: The first rows.
        names: Which columns.
    """
    codes: dict[str, list[str]] = {}
    for name in names:
        if unlike_values(head.schema.field(name).type):
            codes[name] = []  # which hinders only what asks for it
            continue
        texts = as_texts(head.column(name).slice(0, _SAMPLE), name).to_pylist()
        codes[name] = list(dict.fromkeys(text.strip() for text in texts if text and text.strip()))
    return codes


def columns_of_values(source: Source) -> tuple[list[str], list[str]]:
    """The columns of a source that can be used, and a sentence on each of the others.

    Args:
        source: The records.
    """
    schema = source.head().schema
    others = {name: unlike for name in source.columns if (unlike := unlike_values(schema.field(name).type))}
    told = [
        f"`{name}` holds {unlike}, not single values: it is left aside until it is flattened."
        for name, unlike in others.items()
    ]
    return [name for name in source.columns if name not in others], told


def sampled_kinds(head: pa.RecordBatch, names: Sequence[str], decimal: str = ".") -> dict[str, Kind]:
    """The kinds of columns as their first rows suggest them.

    Args:
        head: The first rows.
        names: Which columns.
        decimal: The sign before decimals.
    """
    return {name: guessed_kind(dict.fromkeys(codes, 2), decimal) for name, codes in sampled_codes(head, names).items()}


def year_columns(head: pa.RecordBatch, without: Sequence[str]) -> dict[str, list[str]]:
    """The columns that hold several years, with those met.

    Args:
        head: The first rows of a source.
        without: Columns that are not wanted.
    """
    codes = sampled_codes(head, [name for name in head.schema.names if name not in without])
    return {
        name: sorted(years)
        for name, years in codes.items()
        if 1 < len(years) <= _MOST_YEARS and all(_YEAR.fullmatch(code) for code in years)
    }


def nested_columns(head: pa.RecordBatch, names: Sequence[str]) -> tuple[str, str] | None:
    """Two columns of which each value of the second goes with one of the first only: a group and its parts.

    Args:
        head: The first rows of a source.
        names: Columns of categories.
    """
    codes = {name: as_texts(head.column(name).slice(0, _SAMPLE), name).to_pylist() for name in names}
    levels = {name: len({code for code in found if code}) for name, found in codes.items()}
    for outer, inner in permutations(names, 2):
        pairs = {(one, other) for one, other in zip(codes[outer], codes[inner], strict=True) if one and other}
        apart = 1 < levels[outer] < levels[inner] == len(pairs) and 2 * levels[inner] <= len(codes[inner])
        if apart and levels[inner] <= _MOST_PARTS:
            return outer, inner
    return None


def numbered_anew(head: pa.RecordBatch, name: str) -> str:
    """A code of a column that seems to number things anew within something else; empty where none does.

    Such codes come in runs of equal ones that rise, and start again from a lower one a few times.

    Args:
        head: The first rows of a source.
        name: The column.
    """
    texts = [text for text in as_texts(head.column(name).slice(0, _SAMPLE), name).to_pylist() if text]
    if not texts or not all(text.isdecimal() for text in texts):
        return ""
    runs = [code for place, code in enumerate(texts) if not place or texts[place - 1] != code]
    restarts = sum(int(after) < int(before) for before, after in pairwise(runs))
    again = [code for code in dict.fromkeys(runs) if runs.count(code) > 1]
    rising = 0 < restarts <= len(runs) / 3 and len(texts) >= 2 * len(runs)
    return again[0] if rising and 2 * len(again) > len(set(runs)) else ""


def count_column(names: Iterable[str]) -> str:
    """The column that says by its name how many records a row stands for; empty where none does."""
    return next((name for name in names if name.casefold() in COUNT_NAMES), "")


def number_columns(head: pa.RecordBatch, without: Sequence[str], least: int | None = None) -> list[str]:
    """The columns that hold numbers with more than a few different ones, so that they can be added up.

    Args:
        head: The first rows of a source.
        without: Columns that are not wanted.
        least: How many different numbers there have to be; more than a few where nothing was said.
    """
    codes = sampled_codes(head, [name for name in head.schema.names if name not in without])
    return [
        name
        for name, met in codes.items()
        if len(met) >= (least or _FEW_NUMBERS + 1) and guessed_kind(dict.fromkeys(met, 1)) is Kind.NUMBER
    ]
