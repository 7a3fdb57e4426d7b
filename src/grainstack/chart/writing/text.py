"""How wide text is, measured with the very font files that paint it."""

from collections.abc import Iterator
from functools import cache, lru_cache
from importlib.util import find_spec
from pathlib import Path
from typing import Any

from grainstack.chart.scene import ELLIPSIS, Weight
from grainstack.errors import ChartError
from grainstack.quick import dataclass

FAMILIES = ("Source Sans Pro", "DejaVu Sans")
_FILES = {
    Weight.REGULAR: ("SourceSansPro-Regular.ttf", "DejaVuSans.ttf"),
    Weight.SEMIBOLD: ("SourceSansPro-Semibold.ttf", "DejaVuSans-Bold.ttf"),
}


@dataclass(frozen=True, slots=True)
class Run:
    """A stretch of text set in one font file.

    Attributes:
        family: 0 for the chart's typeface, 1 for the one that fills its gaps.
        content: The characters.
        glyphs: For each glyph its number in the font, and its x and y offset from the start of the run, in em.
        width: In em.
    """

    family: int
    content: str
    glyphs: tuple[tuple[int, float, float], ...]
    width: float


@cache
def font_path(family: int, weight: Weight) -> Path:
    """The font file of a typeface (0 or 1, see `FAMILIES`) in a weight.

    Args:
        family: Its place in `FAMILIES`.
        weight: How heavy it is.
    """
    package, folder = (("font_source_sans_pro", "files"), ("matplotlib", "mpl-data/fonts/ttf"))[family]
    spec = find_spec(package)
    if spec is None or spec.origin is None:
        raise ChartError(f"The fonts of the package {package} are missing.", "Install grainstack again with pip.")
    return Path(spec.origin).parent / folder / _FILES[weight][family]


@cache
def font(family: int, weight: Weight) -> Any:  # noqa: ANN401 - uharfbuzz carries no types
    """The font, ready for shaping and for its outlines.

    Args:
        family: Its place in `FAMILIES`.
        weight: How heavy it is.
    """
    import uharfbuzz  # noqa: PLC0415 - a terminal view measures in characters and never needs it

    return uharfbuzz.Font(uharfbuzz.Face(uharfbuzz.Blob.from_file_path(str(font_path(family, weight)))))


@cache
def _characters(family: int, weight: Weight) -> frozenset[int]:
    return frozenset(font(family, weight).face.unicodes)


@lru_cache(maxsize=4096)
def runs(content: str, weight: Weight = Weight.REGULAR) -> tuple[Run, ...]:
    """The text cut into stretches of one font each, shaped with kerning.

    Args:
        content: The characters.
        weight: How heavy they are set.

    Raises:
        ChartError: A character is in neither font; it is named rather than drawn as an empty box.
    """
    return tuple(_shaped(family, stretch, weight) for family, stretch in _stretches(content, weight))


def width(content: str, size: float, weight: Weight = Weight.REGULAR) -> float:
    """The width in points of one line of text at a type size in points.

    Args:
        content: The characters.
        size: Type size in points; the width is in points too.
        weight: How heavy they are set.
    """
    return size * sum(run.width for run in runs(content, weight))


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
    few, many = 0, len(content)
    while few < many:
        middle = (few + many + 1) // 2
        if width(content[:middle].rstrip() + ELLIPSIS, size, weight) <= room:
            few = middle
        else:
            many = middle - 1
    return content[:few].rstrip() + ELLIPSIS if few else ""


def _stretches(content: str, weight: Weight) -> Iterator[tuple[int, str]]:
    start, current = 0, 0
    for place, character in enumerate(content):
        family = _family_of(character, weight, current)
        if family != current:
            if place > start:
                yield current, content[start:place]
            start, current = place, family
    if content[start:]:
        yield current, content[start:]


def _family_of(character: str, weight: Weight, current: int) -> int:
    code = ord(character)
    if character == " ":
        return current
    for family in range(len(FAMILIES)):
        if code in _characters(family, weight):
            return family
    import unicodedata  # noqa: PLC0415 - only on the way to an error

    name = unicodedata.name(character, "a control character")
    raise ChartError(
        f"The character {character!r} (U+{code:04X}, {name}) is in none of the chart fonts.",
        "Replace it in the label, or draw in the terminal.",
    )


def _shaped(family: int, stretch: str, weight: Weight) -> Run:
    import uharfbuzz  # noqa: PLC0415 - see `font`

    face = font(family, weight)
    buffer = uharfbuzz.Buffer()
    buffer.add_str(stretch)
    buffer.guess_segment_properties()
    uharfbuzz.shape(face, buffer)
    em = face.face.upem
    glyphs, pen = [], 0
    for info, position in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
        glyphs.append((info.codepoint, (pen + position.x_offset) / em, position.y_offset / em))
        pen += position.x_advance
    return Run(family, stretch, tuple(glyphs), pen / em)
