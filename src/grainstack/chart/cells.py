"""Text measured in the character cells of a terminal."""

import unicodedata

from grainstack.chart.scene import ELLIPSIS


def cells_wide(text: str) -> int:
    """How many cells a text takes: wide East Asian characters take two, combining marks none."""
    if text.isascii():
        return len(text)
    wide = sum(unicodedata.east_asian_width(character) in "WF" for character in text)
    return len(text) + wide - sum(unicodedata.combining(character) > 0 for character in text)


def fitted(text: str, room: int) -> str:
    """The text if it fits into `room` cells, else as much of it as fits before an ellipsis."""
    if cells_wide(text) <= room:
        return text
    while text and cells_wide(text) >= room:
        text = text[:-1]
    return text.rstrip() + ELLIPSIS if room > 0 else ""


def lines_within(text: str, room: int) -> list[str]:
    """The text in lines of at most `room` cells, broken between words."""
    lines: list[str] = []
    for word in text.split():
        if lines and cells_wide(lines[-1]) + 1 + cells_wide(word) <= room:
            lines[-1] += f" {word}"
        else:
            lines.append(fitted(word, room))
    return lines
