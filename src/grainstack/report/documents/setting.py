"""Text set in lines: words of several weights, broken where they have no more room."""

from collections.abc import Sequence

from grainstack.chart.scene import Weight
from grainstack.chart.writing.text import shortened, width
from grainstack.quick import dataclass
from grainstack.report.documents.commonmark import Passage, PassageKind, Span


@dataclass(frozen=True, slots=True)
class Piece:
    """Characters in one weight that stand together.

    Attributes:
        text: The characters.
        weight: How heavy they are set; what is stressed is set like what is strong, as there is no slanted type.
        address: Where a link from them leads; empty for none.
    """

    text: str
    weight: Weight = Weight.REGULAR
    address: str = ""


@dataclass(frozen=True, slots=True)
class Placed:
    """A piece in its line.

    Attributes:
        piece: The piece.
        left: How far it stands from the start of the line, in points.
        width: Its width in points.
    """

    piece: Piece
    left: float
    width: float


def lines_of(spans: Sequence[Span], size: float, room: float, weight: Weight = Weight.REGULAR) -> list[list[Placed]]:
    """Words in lines.

    Args:
        spans: The words.
        size: Type size in points.
        room: The width of a line in points.
        weight: How heavy words are set that are not strong.
    """
    space = width(" ", size, weight)
    lines: list[list[Placed]] = [[]]
    along = 0.0
    for word in _words(spans, weight):
        if word is None:  # a line ends here
            lines.append([])
            along = 0.0
            continue
        parts = [(one, width(one.text, size, one.weight)) for one in word]
        wide = sum(each for _, each in parts)
        if wide > room:
            cut = Piece(shortened("".join(one.text for one in word), size, room, word[0].weight), word[0].weight)
            parts = [(cut, width(cut.text, size, cut.weight))]
            wide = parts[0][1]
        start = along + space if lines[-1] else 0.0
        if start + wide > room and lines[-1]:
            lines.append([])
            start = 0.0
        along = start
        for one, each in parts:
            lines[-1].append(Placed(one, along, each))
            along += each
    return [_joined(line, size, space) for line in lines]


def _joined(line: Sequence[Placed], size: float, space: float) -> list[Placed]:
    """A line in as few pieces as it has styles: what is set in one piece can be searched and copied as one."""
    found: list[Placed] = []
    for one in line:
        before = found[-1] if found else None
        style = (one.piece.weight, one.piece.address)
        if before is None or (before.piece.weight, before.piece.address) != style:
            found.append(one)
            continue
        apart = one.left - before.left - before.width > space / 2
        text = f"{before.piece.text}{' ' if apart else ''}{one.piece.text}"
        found[-1] = Placed(Piece(text, *style), before.left, width(text, size, one.piece.weight))
    return found


def _words(spans: Sequence[Span], weight: Weight) -> list[list[Piece] | None]:
    """The words of a passage, each in pieces of one weight; None where a line ends."""
    found: list[list[Piece] | None] = []
    joined = False  # whether the next characters belong to the word before
    for span in spans:
        heavy = Weight.SEMIBOLD if span.bold or span.italic else weight
        for number, line in enumerate(span.text.split("\n")):
            if number:
                found.append(None)
                joined = False
            rest = line
            while rest:
                stripped = rest.lstrip(" ")
                joined = joined and stripped == rest
                word, blank, _ = stripped.partition(" ")
                if word:
                    last = found[-1] if found and joined else None
                    if last is None:
                        last = []
                        found.append(last)
                    last.append(Piece(word, heavy, span.address))
                joined = bool(word) and not blank
                rest = stripped[len(word) :]
    return found


def indent_of(passage: Passage, step: float) -> float:
    """How far a passage stands from the margin, in points.

    Args:
        passage: The passage.
        step: How far each level of a list stands from the one before it.
    """
    return step * passage.level if passage.kind in (PassageKind.BULLET, PassageKind.NUMBERED) else 0.0
