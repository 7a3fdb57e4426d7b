"""XML as descriptions of surveys are written in: read without entities and network, written with extras beside."""

import json
import math
import re
from typing import Any

from lxml import etree

from grainstack.errors import RecordsError
from grainstack.records.codebook.extras import extras_from

Element = Any  # lxml carries no types
_NO_XML = re.compile("[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
_EXTRAS = "codebook"  # the processing instruction that holds what the standard has no place for


def root_of(content: bytes, name: str) -> Element:
    """The outermost element of a file.

    Args:
        content: The file.
        name: What it is called in messages.

    Raises:
        RecordsError: It is no XML; names the line.
    """
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
    try:
        return etree.fromstring(content, parser)
    except etree.XMLSyntaxError as reason:
        raise RecordsError(f"{name} is no XML: {reason}.", "Export the description again.") from reason


def called(element: Element) -> str:
    """The name of an element without its namespace; empty for comments and the like."""
    return etree.QName(element).localname if isinstance(element.tag, str) else ""


def inside(element: Element, *path: str) -> list[Element]:
    """The elements below one, by their names step by step."""
    found = [element]
    for name in path:
        found = [child for one in found for child in one if called(child) == name]
    return found


def text_in(element: Element, *path: str) -> str:
    """The text of the first element below one, with blanks put together; empty where there is none."""
    found = inside(element, *path)
    return " ".join("".join(found[0].itertext()).split()) if found else ""


def number_in(element: Element | None, attribute: str) -> float | None:
    """The number an attribute of an element says; None where there is no element, or it says none."""
    try:
        number = float("nan" if element is None else element.get(attribute, "nan"))
    except ValueError:
        return None
    return number if math.isfinite(number) else None


def add(parent: Element, tag: str, text: str = "", /, **attributes: str) -> Element:
    """A new element below one, in its namespace, without the characters that XML cannot hold."""
    space = etree.QName(parent).namespace
    given = {name: _NO_XML.sub("", value) for name, value in attributes.items()}
    child = etree.SubElement(parent, f"{{{space}}}{tag}" if space else tag, given)
    child.text = _NO_XML.sub("", text) or None
    return child


def add_extras(parent: Element, extras: dict[str, Any]) -> None:
    """Writes extras below an element; nothing where there are none."""
    if extras:
        text = json.dumps(extras).replace("?>", "?\\u003e")
        parent.append(etree.ProcessingInstruction(_EXTRAS, text))


def extras_in(parent: Element, file: str) -> dict[str, Any]:
    """The extras below an element.

    Raises:
        RecordsError: They are none.
    """
    for child in parent:
        if isinstance(child, etree._ProcessingInstruction) and child.target == _EXTRAS:  # noqa: SLF001 - lxml's name
            return extras_from(child.text or "", file)
    return {}


def as_bytes(root: Element) -> bytes:
    """A document as it is written."""
    etree.indent(root)
    return bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8", pretty_print=True))


def new_root(tag: str, space: str = "", /, **attributes: str) -> Element:
    """A new outermost element."""
    return etree.Element(f"{{{space}}}{tag}" if space else tag, attributes, nsmap={None: space} if space else None)
