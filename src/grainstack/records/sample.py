"""What the first rows of a source suggest."""

import re
from collections.abc import Sequence
from itertools import islice

from grainstack.records.kinds import guessed_kind
from grainstack.records.sources.source import Source
from grainstack.records.values import as_texts
from grainstack.records.variable import Kind

_SAMPLE = 2000
_FEW_NUMBERS = 12
_MOST_YEARS = 40
_YEAR = re.compile(r"(19|20)\d\d")


def first_rows(source: Source, count: int) -> list[tuple[str, ...]]:
    """The first rows of a source as text, one tuple per row in the order of its columns."""
    rows: list[tuple[str, ...]] = []
    for batch in source.batches(source.columns):
        columns = [as_texts(batch.column(name), name).to_pylist() for name in source.columns]
        rows += islice(zip(*columns, strict=True), count - len(rows))
        if len(rows) >= count:
            break
    return rows


def sampled_codes(source: Source, names: Sequence[str]) -> dict[str, list[str]]:
    """The different codes of columns among the first rows, blank ones left out."""
    first = next(iter(source.batches(names)), None) if names else None
    if first is None:
        return {name: [] for name in names}
    found = {}
    for name in names:
        texts = as_texts(first.column(name).slice(0, _SAMPLE), name).to_pylist()
        found[name] = list(dict.fromkeys(text.strip() for text in texts if text and text.strip()))
    return found


def sampled_kinds(source: Source, names: Sequence[str]) -> dict[str, Kind]:
    """The kinds of columns as their first rows suggest them."""
    return {name: guessed_kind(dict.fromkeys(codes, 2)) for name, codes in sampled_codes(source, names).items()}


def year_columns(source: Source, without: Sequence[str]) -> dict[str, list[str]]:
    """The columns that hold several years, with those found.

    Args:
        source: The records.
        without: Columns that are not wanted.
    """
    codes = sampled_codes(source, [name for name in source.columns if name not in without])
    return {
        name: sorted(found)
        for name, found in codes.items()
        if 1 < len(found) <= _MOST_YEARS and all(_YEAR.fullmatch(code) for code in found)
    }


def number_columns(source: Source, without: Sequence[str]) -> list[str]:
    """The columns that hold numbers with more than a few different ones, so that they can be added up.

    Args:
        source: The records.
        without: Columns that are not wanted.
    """
    codes = sampled_codes(source, [name for name in source.columns if name not in without])
    return [
        name
        for name, found in codes.items()
        if len(found) > _FEW_NUMBERS and guessed_kind(dict.fromkeys(found, 1)) is Kind.NUMBER
    ]
