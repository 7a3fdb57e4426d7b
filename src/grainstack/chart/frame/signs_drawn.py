"""Which signs of unsure figures a picture has: each is explained, and none that is not drawn."""

from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence

from grainstack.chart.marks import Key, Mark, MarkRole, Text
from grainstack.chart.writing.signs import SIGNS
from grainstack.chart.writing.wording import Words

_FIGURES = frozenset(  # texts that hold figures and their signs, and no names
    (
        MarkRole.ASIDE,
        MarkRole.BASE,
        MarkRole.LETTER,
        MarkRole.SECOND_VALUE,
        MarkRole.TOTAL,
        MarkRole.VALUE,
    )
)
_EVERY = frozenset(SIGNS.values())


def signs_drawn(marks: Sequence[Mark], names: Collection[MarkRole] = ()) -> Mapping[Key, frozenset[str]]:
    """The signs at each figure, by its key.

    Args:
        marks: Everything that is drawn.
        names: Roles of names that end in signs.
    """
    found: defaultdict[Key, frozenset[str]] = defaultdict(frozenset)
    for mark in marks:
        if not isinstance(mark, Text):
            continue
        if mark.role in _FIGURES:
            found[mark.key] |= _EVERY & set(mark.content)
        elif mark.role in names:
            name = mark.content.removesuffix(")")  # of a base in brackets
            ending = name[len(name.rstrip("".join(_EVERY - {"…"}))) :]
            found[mark.key] |= _EVERY & set(ending)
    return found


def explaining(words: Words, marks: Sequence[Mark], names: Collection[MarkRole] = ()) -> Words:
    """Words whose note explains the signs that are drawn, and no other.

    Args:
        words: The words with the meaning of every sign there may be.
        marks: Everything that is drawn.
        names: Roles of names that end in signs.
    """
    return words.explaining(frozenset[str]().union(*signs_drawn(marks, names).values()))


def explains(words: Words, marks: Sequence[Mark], names: Collection[MarkRole] = ()) -> bool:
    """Whether a note explains no sign that is not drawn.

    Args:
        words: The words of the note.
        marks: Everything that is drawn.
        names: Roles of names that end in signs.
    """
    return not words.meanings or explaining(words, marks, names) == words
