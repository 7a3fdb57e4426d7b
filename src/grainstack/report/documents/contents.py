"""The contents of a DOCX: a field that word processors fill in, filled in already with links to the headings."""

from collections.abc import Sequence
from typing import Any

from docx.oxml import OxmlElement, parse_xml
from docx.oxml.ns import nsdecls, qn
from msgspec import Struct

from grainstack.report.documents.packing import legal

_CODE = r'TOC \o "1-3" \h \z'
_INDENT = 220  # twentieths of a point that headings of each further level stand to the right
_BETWEEN, _AFTER = 40, 280  # twentieths of a point between headings, and below the last
_FIRST = 1_000  # the number of the first bookmark, beyond those a template may have


class Heading(Struct, frozen=True):
    """A heading of a document.

    Attributes:
        level: How deep it stands, from 1.
        text: Its words.
    """

    level: int
    text: str


def contents(headings: Sequence[Heading]) -> list[Any]:
    """The paragraphs of the contents, as elements of OOXML.

    Args:
        headings: What there is, in its order; at least one.
    """
    found = []
    for number, heading in enumerate(headings):
        begin = _mark("begin") + _run(f'<w:instrText xml:space="preserve">{_CODE}</w:instrText>') + _mark("separate")
        link = f'<w:hyperlink w:anchor="{_name(number)}" w:history="1">{_text(heading.text)}</w:hyperlink>'
        indent = f'<w:ind w:left="{_INDENT * (heading.level - 1)}"/>'
        after = _AFTER if number == len(headings) - 1 else _BETWEEN
        about = f'<w:pPr><w:spacing w:after="{after}"/>{indent}</w:pPr>'
        parts = [begin if number == 0 else "", link, _mark("end") if number == len(headings) - 1 else ""]
        found.append(parse_xml(f"<w:p {nsdecls('w')}>{about}{''.join(parts)}</w:p>"))
    return found


def bookmark(paragraph: Any, number: int) -> None:  # noqa: ANN401 - no types
    """Gives a heading the name by which the contents lead to it.

    Args:
        paragraph: The element of its paragraph.
        number: Its number among the headings, from 0.
    """
    start, end = OxmlElement("w:bookmarkStart"), OxmlElement("w:bookmarkEnd")
    for one in (start, end):
        one.set(qn("w:id"), str(_FIRST + number))
    start.set(qn("w:name"), _name(number))
    paragraph.insert(1 if paragraph.pPr is not None else 0, start)
    paragraph.append(end)


def _name(number: int) -> str:
    return f"_Toc{_FIRST + number}"


def _run(content: str) -> str:
    return f"<w:r>{content}</w:r>"


def _mark(kind: str) -> str:
    """The beginning, the middle or the end of a field."""
    return _run(f'<w:fldChar w:fldCharType="{kind}"/>')


def _text(words: str) -> str:
    return _run(f'<w:t xml:space="preserve">{legal(words)}</w:t>')
