"""Cells of a sheet that look filled and hold no value: formulas nobody worked out, and errors."""

import posixpath
import re
import zipfile
from collections.abc import Iterator
from typing import BinaryIO

from msgspec import Struct

from grainstack.errors import listed
from grainstack.language import phrase, phrases
from grainstack.records.codebook.xml_tree import root_of

# A sheet has a million cells: only those that stand near a formula or an error are looked at, by their text.
_CELL = re.compile(rb"<c\s([^>]*[^/])>(.*?)</c>", re.DOTALL)
_PLACE = re.compile(rb"\br=\"([A-Z]+\d+)\"")
_VALUE = re.compile(rb"<v[^>]*>[^<]+</v>|<is>")
_CHUNK, _LONGEST_CELL = 1 << 20, 1 << 16  # bytes
_NAMED = 3  # cells are enough to find the others


class EmptyCells(Struct):
    """Cells of a sheet that hold no value.

    Attributes:
        formulas: Those of formulas without one.
        errors: Those of errors.
    """

    formulas: list[str]
    errors: list[str]

    def in_words(self, sheet: str, file: str) -> tuple[str, ...]:
        """What is told of them; nothing where there are none."""
        found = []
        if self.formulas:
            count = phrases(
                "{n} formula without a stored value", "{n} formulas without stored values", len(self.formulas)
            )
            found.append(f"{count} ({listed(self.formulas, _NAMED)})")
        if self.errors:
            found.append(f"{phrases('{n} error', '{n} errors', len(self.errors))} ({listed(self.errors, _NAMED)})")
        if not found:
            return ()
        text = phrase(
            "Sheet `{sheet}` of {file} has {cells}, which are read as empty.",
            sheet=sheet,
            file=file,
            cells=phrase(" and ").join(found),
        )
        return (text,)


def cells_without_values(file: BinaryIO, sheet: str) -> EmptyCells:
    """The cells of a sheet of a packed spreadsheet that hold a formula without a value, or an error.

    Args:
        file: The file; none but Office Open XML says it.
        sheet: The name of the sheet.
    """
    empty = EmptyCells([], [])
    file.seek(0)
    if not zipfile.is_zipfile(file):
        return empty
    with zipfile.ZipFile(file) as packed:
        part = _part_of(packed, sheet)
        if part is None:
            return empty
        for about, inner in _cells(packed, part):
            place = _PLACE.search(about)
            name = place[1].decode() if place else "?"
            if b't="e"' in about:
                empty.errors.append(name)
            elif b"<f" in inner and not _VALUE.search(inner):
                empty.formulas.append(name)
    return empty


def _part_of(packed: zipfile.ZipFile, sheet: str) -> str | None:
    """The part of a workbook that holds a sheet; None for other files."""
    names = ("xl/workbook.xml", "xl/_rels/workbook.xml.rels")
    if not set(names) <= set(packed.namelist()):
        return None
    book, relations = (root_of(packed.read(name), name) for name in names)
    found = next((dict(one.attrib) for one in book.iter("{*}sheet") if one.get("name") == sheet), {})
    relation = next((value for name, value in found.items() if name.endswith("}id")), None)
    target = next((one.get("Target", "") for one in relations if one.get("Id") == relation), "")
    part = posixpath.normpath(posixpath.join("/xl", target)).lstrip("/")
    return part if part in packed.namelist() else None


def _cells(packed: zipfile.ZipFile, part: str) -> Iterator[tuple[bytes, bytes]]:
    """The attributes and the inside of each filled cell of a sheet that is a formula or an error."""
    rest = b""
    with packed.open(part) as sheet:
        while chunk := sheet.read(_CHUNK):
            text = rest + chunk
            end = text.rfind(b"</c>") + len(b"</c>")
            rest = text[end:] if end > len(b"</c>") - 1 else text[-_LONGEST_CELL:]
            if b"<f" in text or b't="e"' in text:
                yield from ((found[1], found[2]) for found in _CELL.finditer(text[:end]))
