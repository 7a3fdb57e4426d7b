"""Text in CommonMark as passages of plain and emphasised words, for documents that are no markup themselves."""

import io
from base64 import b64decode
from collections.abc import Iterator, Sequence
from enum import StrEnum
from typing import Any

from markdown_it import MarkdownIt
from msgspec import Struct
from PIL import Image

_DEEPEST = 4  # levels of headings that documents have styles for
_USUAL_DPI = 96  # pixels of a picture that says nothing of its size, as CSS has it
_BULLET = "•"


class PassageKind(StrEnum):
    """What a passage is."""

    PARAGRAPH = "paragraph"
    HEADING = "heading"
    BULLET = "bullet"
    NUMBERED = "numbered"
    CODE = "code"
    PICTURE = "picture"


class Span(Struct, frozen=True):
    """Words in one style.

    Attributes:
        text: The words.
        bold: Whether they are strong.
        italic: Whether they are stressed.
        address: Where a link from them leads; empty for none.
    """

    text: str
    bold: bool = False
    italic: bool = False
    address: str = ""


class Passage(Struct, frozen=True):
    """A paragraph, a heading, or an item of a list.

    Attributes:
        kind: Which of these.
        spans: Its words.
        level: How deep a heading stands, from 1; how deep an item does, from 1; else 0.
        mark: What stands before an item; empty elsewhere, and in further paragraphs of an item.
        picture: The content of a picture, a PNG or JPEG, whose words say what it shows; empty for text.
    """

    kind: PassageKind
    spans: tuple[Span, ...]
    level: int = 0
    mark: str = ""
    picture: bytes = b""

    @property
    def picture_size(self) -> tuple[float, float]:
        """The width and height of its picture in points, as its file says, or at 96 pixels to the inch."""
        with Image.open(io.BytesIO(self.picture)) as picture:
            across, down = picture.info.get("dpi", (_USUAL_DPI, _USUAL_DPI))
            wide, tall = picture.size
        return wide * 72 / float(across or _USUAL_DPI), tall * 72 / float(down or _USUAL_DPI)

    @property
    def text(self) -> str:
        """Its words without their style."""
        return "".join(span.text for span in self.spans)


def as_html(text: str) -> str:
    """Text in CommonMark as HTML; markup in it is shown, not obeyed.

    Args:
        text: The text.
    """
    html: str = _parser().render(text)
    return html.rstrip("\n")


def passages(text: str) -> Iterator[Passage]:
    """The passages of a text in CommonMark; markup in it is shown, not obeyed.

    Args:
        text: The text.
    """
    lists: list[_List] = []
    heading = 0
    for token in _parser().parse(text):
        if token.type in ("bullet_list_open", "ordered_list_open"):
            lists.append(_List(token.type, int(token.attrs.get("start", 1)) - 1))
        elif token.type in ("bullet_list_close", "ordered_list_close"):
            lists.pop()
        elif token.type == "list_item_open":
            lists[-1].begin()
        elif token.type == "heading_open":
            heading = min(int(token.tag[1:]), _DEEPEST)
        elif token.type == "inline":
            words, pictures = _parted(token.children or [])
            yield from pictures
            if spans := tuple(_spans(words)):
                yield _of_words(spans, heading, lists)
            heading = 0
        elif token.type in ("fence", "code_block"):
            yield Passage(PassageKind.CODE, (Span(token.content.rstrip("\n")),))


def _of_words(spans: tuple[Span, ...], heading: int, lists: "Sequence[_List]") -> Passage:
    """A passage of words, as deep as it stands: in a heading, in some lists, or by itself."""
    if heading:
        return Passage(PassageKind.HEADING, spans, heading)
    if lists:
        return Passage(lists[-1].kind, spans, len(lists), lists[-1].mark())
    return Passage(PassageKind.PARAGRAPH, spans)


class _List:
    """A list while it is being read."""

    def __init__(self, opened: str, before: int) -> None:
        self.kind = PassageKind.BULLET if opened == "bullet_list_open" else PassageKind.NUMBERED
        self._number, self._marked = before, True

    def begin(self) -> None:
        """Begins an item."""
        self._number, self._marked = self._number + 1, False

    def mark(self) -> str:
        """What stands before the next passage: the mark of an item before its first one."""
        if self._marked:
            return ""
        self._marked = True
        return _BULLET if self.kind is PassageKind.BULLET else f"{self._number}."


def _parser() -> Any:  # noqa: ANN401 - as the library has it
    return MarkdownIt("commonmark", {"html": False})


def _parted(tokens: Sequence[Any]) -> tuple[list[Any], list[Passage]]:
    """Words, and the pictures among them, which stand before these."""
    pictures = [token for token in tokens if _content_of(token)]
    found = [Passage(PassageKind.PICTURE, (Span(one.content),), picture=_content_of(one)) for one in pictures]
    words = [token for token in tokens if token not in pictures]
    blank = pictures and not any(token.content.strip() for token in words)
    return ([] if blank else words), found


def _content_of(token: Any) -> bytes:  # noqa: ANN401 - as the library has it
    """The picture a token holds; empty for none."""
    address = str(token.attrs.get("src", "")) if token.type == "image" else ""
    return b64decode(address.partition(",")[2]) if address.startswith("data:image/") else b""


def _spans(tokens: Sequence[Any]) -> Iterator[Span]:
    """Words with their emphasis."""
    bold = italic = False
    address = ""
    for token in tokens:
        if token.type in ("strong_open", "strong_close"):
            bold = token.type == "strong_open"
        elif token.type in ("em_open", "em_close"):
            italic = token.type == "em_open"
        elif token.type in ("link_open", "link_close"):
            address = str(token.attrs.get("href", "")) if token.type == "link_open" else ""
        else:
            words = {"softbreak": " ", "hardbreak": "\n"}.get(token.type, token.content)
            if words:
                yield Span(words, bold, italic, address)
