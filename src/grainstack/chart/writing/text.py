"""How wide text is, measured with the very font files that paint it."""

from collections.abc import Iterator
from functools import lru_cache
from unicodedata import bidirectional

import uharfbuzz
from msgspec import Struct

from grainstack.chart.marks import ELLIPSIS, Face, Weight
from grainstack.chart.writing.fonts import Typefaces, face_for, font, typefaces
from grainstack.visible import visible

_FIRST_RIGHT_TO_LEFT = "\u0590"  # no script before it is written from the right


_MOST = 4_000  # characters in one line: four metres of the smallest type


class Run(Struct, frozen=True):
    """A stretch of text set in one font file.

    Attributes:
        face: The font.
        content: The characters, in the order they are read.
        glyphs: For each glyph its number in the font, and its x and y offset from the start of the run, in em.
        width: In em.
        leftwards: Whether it is written from the right.
    """

    face: Face
    content: str
    glyphs: tuple[tuple[int, float, float], ...]
    width: float
    leftwards: bool = False


def runs(content: str, weight: Weight = Weight.REGULAR) -> tuple[Run, ...]:
    """The text cut into stretches of one font and direction each, from left to right, shaped with kerning.

    Args:
        content: The characters.
        weight: How heavy they are set.
    """
    return _runs(content, weight, typefaces())


@lru_cache(maxsize=4096)
def _runs(content: str, weight: Weight, chosen: Typefaces) -> tuple[Run, ...]:  # noqa: ARG001 - part of the key
    return tuple(_shaped(*stretch) for stretch in _in_visual_order(list(_stretches(visible(content), weight))))


def width(content: str, size: float, weight: Weight = Weight.REGULAR) -> float:
    """The width in points of one line of text at a type size in points.

    Args:
        content: The characters.
        size: Type size in points; the width is in points too.
        weight: How heavy they are set.

    Returns:
        The width; of more characters than any picture has room for, about that.
    """
    if len(content) > _MOST:
        return width(content[:_MOST], size, weight) * len(content) / _MOST
    return size * _ems(content, weight, typefaces())


@lru_cache(maxsize=65_536)  # a picture is drafted several times, with thousands of labels
def _ems(content: str, weight: Weight, chosen: Typefaces) -> float:
    """The width of a line of text in type sizes."""
    return sum(run.width for run in _runs(content, weight, chosen))


def wrapped(content: str, size: float, room: float, most: int, weight: Weight = Weight.REGULAR) -> tuple[str, ...]:
    """The text in lines no wider than `room`, broken between words; the last line is shortened if need be.

    Args:
        content: The text.
        size: Type size in points.
        room: Width in points.
        most: How many lines there may be, at least one.
        weight: How heavy it is set.
    """
    lines: list[str] = []
    words: list[str] = []
    for word in content.split():
        if word.startswith("%") and words:  # a number and its percent sign stay together
            words[-1] += f" {word}"
        else:
            words.append(word)
    while words and len(lines) < most - 1:
        taken = 1
        while taken < len(words) and width(" ".join(words[: taken + 1]), size, weight) <= room:
            taken += 1
        lines.append(shortened(" ".join(words[:taken]), size, room, weight))
        words = words[taken:]
    if words or not lines:
        lines.append(shortened(" ".join(words), size, room, weight))
    return tuple(lines)


def balanced(content: str, size: float, room: float, most: int, weight: Weight = Weight.REGULAR) -> tuple[str, ...]:
    """Like `wrapped`, but with lines of about the same length, so that no word is left alone on the last one.

    Args:
        content: The characters.
        size: Type size in points.
        room: The width there is, in points.
        most: How many lines there may be.
        weight: How heavy they are set.
    """
    lines = wrapped(content, size, room, most, weight)
    if len(lines) < 2:
        return lines
    narrow, wide = width(content, size, weight) / len(lines), room
    while wide - narrow > size / 2:
        middle = (narrow + wide) / 2
        tried = wrapped(content, size, middle, most, weight)
        if len(tried) == len(lines) and " ".join(tried) == " ".join(lines):
            wide = middle
        else:
            narrow = middle
    return wrapped(content, size, wide, most, weight)


def shortened(content: str, size: float, room: float, weight: Weight = Weight.REGULAR) -> str:
    """The text if it fits into `room` points, else as much of it as fits before an ellipsis; maybe nothing.

    Args:
        content: The characters.
        size: Type size in points.
        room: The width there is, in points.
        weight: How heavy they are set.
    """
    if width(content, size, weight) <= room:
        return content
    few, many = 0, min(len(content), _MOST)
    while few < many:
        middle = (few + many + 1) // 2
        if width(content[:middle].rstrip() + ELLIPSIS, size, weight) <= room:
            few = middle
        else:
            many = middle - 1
    return content[:few].rstrip() + ELLIPSIS if few else ""


def _stretches(content: str, weight: Weight) -> Iterator[tuple[Face, str, int]]:
    """Stretches of one font and one level of direction, in the order they are read; odd levels run from the right."""
    levels = _levels(content)
    start = 0
    current: tuple[Face, int] | None = None
    for place, character in enumerate(content):
        face = face_for(character, weight, current[0] if current else None)
        level = levels[place] if levels else 0
        if current is not None and (face, level) != current:
            yield current[0], content[start:place], current[1]
            start = place
        current = face, level
    if current is not None:
        yield current[0], content[start:], current[1]


def _levels(content: str) -> list[int]:
    """The level of direction of each character (Unicode Standard Annex 9); empty where all runs from the left."""
    if not any(character >= _FIRST_RIGHT_TO_LEFT for character in content):
        return []
    from bidi import algorithm  # noqa: PLC0415 - few labels are written from the right

    storage = algorithm.get_empty_storage()
    storage["base_level"], storage["base_dir"] = 0, "L"  # as a label among others that run from the left
    algorithm.get_embedding_levels(content, storage, False, False)  # noqa: FBT003 - it names them no other way
    steps = (
        algorithm.explicit_embed_and_overrides,
        algorithm.resolve_weak_types,
        algorithm.resolve_neutral_types,
        algorithm.resolve_implicit_levels,
    )
    try:
        for step in steps:
            step(storage, False)  # noqa: FBT003
    except AssertionError:  # characters that stand for none, as damaged text has: the library stumbles over them
        return [int(bidirectional(character) in ("R", "AL")) for character in content]
    levels = [int(one["level"]) for one in storage["chars"]]
    return levels if any(levels) and len(levels) == len(content) else []


def _in_visual_order(stretches: list[tuple[Face, str, int]]) -> list[tuple[Face, str, int]]:
    """Stretches from left to right: from the highest level down, whatever lies at it or above is turned round (L2)."""
    found = list(stretches)
    for level in range(max((level for _, _, level in found), default=0), 0, -1):
        start = 0
        while start < len(found):
            end = start
            while end < len(found) and found[end][2] >= level:
                end += 1
            found[start:end] = found[start:end][::-1]
            start = max(end, start + 1)
    return found


def _shaped(face: Face, stretch: str, level: int) -> Run:
    ready = font(face)
    buffer = uharfbuzz.Buffer()
    buffer.add_str(stretch)
    buffer.guess_segment_properties()
    buffer.direction = "rtl" if level % 2 else "ltr"
    uharfbuzz.shape(ready, buffer)
    em = ready.face.upem
    glyphs, pen = [], 0
    for info, position in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
        glyphs.append((info.codepoint, (pen + position.x_offset) / em, position.y_offset / em))
        pen += position.x_advance
    return Run(face, stretch, tuple(glyphs), pen / em, bool(level % 2))
