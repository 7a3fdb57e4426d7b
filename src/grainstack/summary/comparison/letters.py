"""Comparison letters by insert-and-absorb.

Piepho HP (2004), An algorithm for a letter-based representation of all-pairwise comparisons, Journal of Computational
and Graphical Statistics 13, 456–466.
"""

from collections.abc import Iterable
from string import ascii_letters, ascii_uppercase


def comparison_letters(count: int, different: Iterable[tuple[int, int]]) -> list[str]:
    """The letters of each item: two items share a letter exactly when they do not differ.

    Args:
        count: How many items there are.
        different: The pairs that differ, as places of items.
    """
    columns = [(1 << count) - 1]  # each a set of items, as the bits of a number
    for one, other in different:
        pair = 1 << one | 1 << other
        kept = [column for column in columns if column & pair != pair]
        parts = [column & ~(1 << item) for column in columns if column & pair == pair for item in (one, other)]
        columns = kept + _unabsorbed(parts, kept)
    letters = ["" for _ in range(count)]
    for place, items in enumerate(sorted([item for item in range(count) if column >> item & 1] for column in columns)):
        for item in items:
            letters[item] += _letter(place)
    return letters


def column_letter(place: int) -> str:
    """The letter of a column by its place: A to Z, then AA, AB and so on.

    Args:
        place: Its place, from 0.
    """
    turn, letter = divmod(place, len(ascii_uppercase))
    return (column_letter(turn - 1) if turn else "") + ascii_uppercase[letter]


def _unabsorbed(parts: list[int], kept: list[int]) -> list[int]:
    """The parts of columns just split that are within no other column; those kept cannot be within them."""
    different = list(dict.fromkeys(parts))
    return [
        part
        for part in different
        if not any(part & column == part for column in kept)
        and not any(part & other == part and part != other for other in different)
    ]


def _letter(place: int) -> str:
    """The letter of a column: a to z, A to Z, then a2, b2 and so on."""
    turn, letter = divmod(place, len(ascii_letters))
    return ascii_letters[letter] + (str(turn + 1) if turn else "")
