"""Packed files of word processors and presentations: without a clock, and with drawings beside their bitmaps."""

import io
import zipfile
from html import escape
from typing import Any
from uuid import UUID

EARLIEST = (1980, 1, 1, 0, 0, 0)  # the clock of a packed file, so that the same report is the same file
_SVG_NAMES = 'xmlns:asvg="http://schemas.microsoft.com/office/drawing/2016/SVG/main"'
_SVG_EXTENSION = f"{{{UUID('96dac5417b7a43d38b7937d633b846f1')}}}".upper()  # by which a picture names its drawing


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
    from lxml import etree  # noqa: PLC0415 - documents have loaded it

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
