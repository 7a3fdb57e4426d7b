"""Where the characters of a PDF stand."""

import ctypes

import pypdfium2
import pypdfium2.raw as pdfium

Letter = tuple[str, float, float]  # a character, and where its baseline starts, in points from the top left


def letters_of(content: bytes) -> list[Letter]:
    """The characters of its first page but blanks, in the order they were painted."""
    document = pypdfium2.PdfDocument(content)
    page = document[0]
    text = page.get_textpage()
    found = []
    for place in range(text.count_chars()):
        character = chr(pdfium.FPDFText_GetUnicode(text.raw, place))
        x, y = ctypes.c_double(), ctypes.c_double()
        if not character.isspace() and pdfium.FPDFText_GetCharOrigin(text.raw, place, x, y):
            found.append((character, x.value, page.get_height() - y.value))
    return found
