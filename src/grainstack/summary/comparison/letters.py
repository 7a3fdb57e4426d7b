"""Comparison letters by insert-and-absorb.

Piepho HP (2004), An algorithm for a letter-based representation of all-pairwise comparisons, Journal of Computational
and Graphical Statistics 13, 456–466.
"""

from collections.abc import Iterable
from string import ascii_letters


def comparison_letters(count: int, different: Iterable[tuple[int, int]]) -> list[str]:
    """The letters of each item: two items share a letter exactly when they do not differ.

    Args:
        count: How many items there are.
        different: The pairs that differ, as places of items.
    """
    columns: list[frozenset[int]] = [frozenset(range(count))]
    for one, other in different:
        split: list[frozenset[int]] = []
        for column in columns:
            if one in column and other in column:
                split += [column - {one}, column - {other}]
            else:
                split.append(column)
        columns = _absorbed(split)
    columns.sort(key=sorted)
    letters = ["" for _ in range(count)]
    for place, column in enumerate(columns):
        for item in column:
            letters[item] += _letter(place)
    return letters


def _absorbed(columns: list[frozenset[int]]) -> list[frozenset[int]]:
    """The columns that are not part of another one."""
    different = list(dict.fromkeys(columns))
    return [column for column in different if not any(column < other for other in different)]


def _letter(place: int) -> str:
    """The letter of a column: a to z, A to Z, then a2, b2 and so on."""
    turn, letter = divmod(place, len(ascii_letters))
    return ascii_letters[letter] + (str(turn + 1) if turn else "")
