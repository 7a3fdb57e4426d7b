"""Figures in the texts of a report: references that name an entry, a figure and its levels, and never code.

`{{wait: mean, Dunmar}}` is the mean of the entry `wait` for Dunmar as its table writes it; `{{wait: base, Dunmar}}` the
records it rests on, `{{wait: limits of mean, Dunmar}}` its limits, `{{wait: level, latest}}` the name of a level,
`{{ticket: share, route=Dunmar, ticket=App; 0.0}}` a share of named columns in a number pattern. A level with a comma,
semicolon or brace in it stands in double quotes; `latest`, `previous` and `same-last-year` are levels by their place in
time.
"""

import re
from collections.abc import Iterator

from msgspec import Struct

from grainstack.errors import RequestError

OF_FIGURE = ("low", "high", "limits", "base", "error", "level")  # what may be told in the place of a figure
_REFERENCE = re.compile(r"\{\{((?:[^{}]|\{\w+\})*)\}\}")  # with params and the level of a set in it
_HOW = "Write {{entry: figure, level, level; pattern}}, as in {{wait: mean, Dunmar}}."


class Reference(Struct, frozen=True):
    """A figure that a text names.

    Attributes:
        text: As it stands in the text, without its braces.
        entry: The name of the entry.
        of_figure: What is told of the figure, one of `OF_FIGURE`; empty for the figure itself.
        figure: The statistic, the measure, or both; empty where the entry has one figure only.
        levels: Column and level of each dimension named; an empty column where the level alone tells.
        pattern: A number pattern as in Unicode CLDR; empty for the way the table writes it.
    """

    text: str
    entry: str
    of_figure: str
    figure: str
    levels: tuple[tuple[str, str], ...]
    pattern: str


def references_in(text: str) -> Iterator[str]:
    """The references of a text as they stand there, without their braces.

    Args:
        text: The text.
    """
    yield from (match[1] for match in _REFERENCE.finditer(text))


def with_figures(text: str, figures: dict[str, str]) -> str:
    """A text with figures in the place of its references.

    Args:
        text: The text.
        figures: What stands for each reference, by its text; one that is not known stays.
    """
    return _REFERENCE.sub(lambda match: figures.get(match[1], match[0]), text)


def reference(text: str) -> Reference:
    """A reference taken apart.

    Args:
        text: The reference, without its braces.

    Raises:
        RequestError: It is not written like one.
    """
    entry, colon, rest = text.partition(":")
    rest, pattern = _split_pattern(rest)
    first, *levels = list(_pieces(rest)) or [""]
    if not colon or not entry.strip() or not first or not all(levels):
        raise RequestError(f"{{{{{text}}}}} is no reference to a figure.", _HOW)
    named, of, figure = first.partition(" of ")
    if not of and named in OF_FIGURE:
        of_figure, figure = named, ""
    elif of and named in OF_FIGURE:
        of_figure = named
    else:
        of_figure, figure = "", first
    return Reference(text, entry_of(text), of_figure, figure.strip(), tuple(map(_level, levels)), pattern)


def literal(text: str) -> str:
    """Text as a report's CommonMark shows it just as it stands; params and references in it count for nothing.

    Args:
        text: The text.
    """
    escaped = re.sub(r"([\\`*_\[\]<>&])", r"\\\1", " ".join(text.split()))
    escaped = re.sub(r"^(\d{1,9})([.)])|^([-+#=~])", lambda match: f"{match[1] or ''}\\{match[2] or match[3]}", escaped)
    return escaped.replace("{", "&#123;")


def entry_of(text: str) -> str:
    """The entry that a reference names, whatever else is wrong with it.

    Args:
        text: The reference, without its braces.
    """
    return text.partition(":")[0].strip()


def _level(text: str) -> tuple[str, str]:
    """The column and the level of a piece; a quoted level of no column is whole."""
    column, equals, level = text.partition("=")
    return (column.strip(), level.strip().strip('"')) if equals and not text.startswith('"') else ("", text.strip('"'))


def _split_pattern(text: str) -> tuple[str, str]:
    """What stands before and behind the semicolon that is in no quotes."""
    quoted = False
    for place, letter in enumerate(text):
        quoted ^= letter == '"'
        if letter == ";" and not quoted:
            return text[:place], text[place + 1 :].strip()
    return text, ""


def _pieces(text: str) -> Iterator[str]:
    """The parts between commas that are in no quotes."""
    quoted, start = False, 0
    for place, letter in enumerate(f"{text},"):
        quoted ^= letter == '"'
        if letter == "," and not quoted:
            yield text[start:place].strip()
            start = place + 1
