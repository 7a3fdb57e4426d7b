"""Text measured in the character columns of a terminal."""

from wcwidth import wcwidth

from grainstack.chart.marks import ELLIPSIS

_COMBINING = "\u0300"  # Latin letters, with or without accents, come before the first combining mark
_MARKS = 16  # characters in one column, of which all but one are marks upon it: more are written by nobody
_NARROW = frozenset("–—−×·•●○◉…─│├┤┃▒░▓█†‡")  # signs of our own that every terminal shows in one column


def columns_wide(text: str) -> int:
    """How many columns a text takes: wide East Asian characters take two, combining marks none."""
    if text.isascii() or all(character < _COMBINING or character in _NARROW for character in text):
        return len(text)
    return sum(max(wcwidth(character), 0) for character in text)


def fitted(text: str, room: int) -> str:
    """The text if it fits into `room` columns, else as much of it as fits before an ellipsis.

    Args:
        text: The characters.
        room: How many columns there are.
    """
    most = _MARKS * (room + 1)
    if len(text) <= most and columns_wide(text) <= room:
        return text
    text = text[:most]
    while text and columns_wide(text) >= room:
        text = text[:-1]
    return text.rstrip() + ELLIPSIS if room > 0 else ""


def lines_within(text: str, room: int) -> list[str]:
    """The text in lines of at most `room` columns, broken between words.

    Args:
        text: The characters.
        room: How many columns a line has.
    """
    lines: list[str] = []
    for word in text.split():
        if lines and columns_wide(lines[-1]) + 1 + columns_wide(word) <= room:
            lines[-1] += f" {word}"
        else:
            lines.append(fitted(word, room))
    return lines
