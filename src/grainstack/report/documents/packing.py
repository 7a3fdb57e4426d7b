"""Packed files of word processors and presentations: without a clock, and with drawings beside their bitmaps."""

import io
import zipfile
from html import escape
from typing import Any
from uuid import UUID

from lxml import etree

from grainstack.making.trace import KEYWORD

EARLIEST = (1980, 1, 1, 0, 0, 0)  # the clock of a packed file, so that the same report is the same file
CUSTOM_PART = "/docProps/custom.xml"
CUSTOM_TYPE = "application/vnd.openxmlformats-officedocument.custom-properties+xml"
_CUSTOM_NAMES = (
    'xmlns="http://schemas.openxmlformats.org/officeDocument/2006/custom-properties" '
    'xmlns:vt="http://schemas.openxmlformats.org/officeDocument/2006/docPropsVTypes"'
)
_PROPERTY_SET = f"{{{UUID('d5cdd5052e9c101b939708002b2cf9ae')}}}".upper()  # of properties that people add
_LONGEST = 250  # characters of a property
_SVG_NAMES = 'xmlns:asvg="http://schemas.microsoft.com/office/drawing/2016/SVG/main"'
_SVG_EXTENSION = f"{{{UUID('96dac5417b7a43d38b7937d633b846f1')}}}".upper()  # by which a picture names its drawing


def custom_properties(trace: str) -> bytes:
    """The properties of a packed document that carry where it comes from.

    Args:
        trace: Where that is.
    """
    parts = [
        f'<property fmtid="{_PROPERTY_SET}" pid="{number}" name="{name}">'
        f"<vt:lpwstr>{legal(text)}</vt:lpwstr></property>"
        for number, (name, text) in enumerate(properties_of(trace).items(), 2)
    ]
    opening = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>'
    return f"{opening}<Properties {_CUSTOM_NAMES}>{''.join(parts)}</Properties>".encode()


def has_own_properties(package: Any) -> bool:  # noqa: ANN401 - of libraries without types
    """Whether a template has properties of its own already, which stay as they are.

    Args:
        package: The parts of a document.
    """
    relations = package.rels if hasattr(package, "rels") else package._rels  # noqa: SLF001 - named so in one of them
    return any(one.reltype.endswith("/custom-properties") for one in relations.values())


def properties_of(trace: str) -> dict[str, str]:
    """Where something comes from, in properties that are short enough for office programs.

    Args:
        trace: Where that is.
    """
    parts = [trace[start : start + _LONGEST] for start in range(0, len(trace), _LONGEST)]
    return {f"{KEYWORD} {number}": part for number, part in enumerate(parts, 1)}


def repacked(content: bytes) -> bytes:
    """A packed file with the same parts, each as old as any other.

    Args:
        content: The file.
    """
    result = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as source, zipfile.ZipFile(result, "w", zipfile.ZIP_DEFLATED) as target:
        for name in source.namelist():
            about = zipfile.ZipInfo(name, EARLIEST)
            about.compress_type = zipfile.ZIP_DEFLATED
            target.writestr(about, source.read(name))
    return result.getvalue()


def drawing_beside(blip: Any, relation: str) -> None:  # noqa: ANN401 - an element of a library without types
    """Names the drawing of a bitmap, which readers show in its place where they can.

    Args:
        blip: The element that names the bitmap.
        relation: The relation to the drawing.
    """
    main = blip.nsmap["a"]
    relations = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
    blip.append(
        etree.fromstring(
            f'<a:extLst xmlns:a="{main}" xmlns:r="{relations}" {_SVG_NAMES}><a:ext uri="{_SVG_EXTENSION}">'
            f'<asvg:svgBlip r:embed="{relation}"/></a:ext></a:extLst>'
        )
    )


def legal(text: str) -> str:
    """Text as XML can hold it.

    Args:
        text: The text.
    """
    return escape("".join(max(letter, " ") for letter in text))
