"""Font files: the chart's typeface, the one that fills its gaps, and whatever the machine has for other scripts."""

import shutil
import subprocess
import unicodedata
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from functools import cache
from importlib.util import find_spec
from pathlib import Path
from typing import Any

import uharfbuzz

from grainstack.chart.marks import Face, Typeface, Weight
from grainstack.errors import ChartError

_BOX = "□"
_UNSEEN = ("Cc", "Cf")  # controls, and what joins or turns characters
_OUTLINES = ("glyf", "CFF ", "CFF2")  # tables with outlines; fonts of pictures, such as colour emoji, have none


class Typefaces(tuple[Typeface, ...]):
    """Typefaces in the order in which they are tried; the same ones are one object.

    They are a part of what each text is measured by: hashing every path in them would take longer than measuring.
    """

    __slots__ = ()
    __hash__ = object.__hash__

    def __eq__(self, other: object) -> bool:
        return self is other

    def __ne__(self, other: object) -> bool:
        return self is not other


_CHOSEN: ContextVar[Typefaces] = ContextVar("typefaces")


def typefaces() -> Typefaces:
    """The typefaces texts are set in: the first that has a character carries it."""
    return _CHOSEN.get(None) or _usual()


@contextmanager
def set_in(chosen: tuple[Typeface, ...]) -> Iterator[None]:
    """Sets texts in other typefaces for a while, before the usual ones; measuring and painting both.

    Args:
        chosen: The typefaces; none for the usual ones alone.
    """
    token = _CHOSEN.set(_in_order((*chosen, *_usual())))
    try:
        yield
    finally:
        _CHOSEN.reset(token)


@cache
def _in_order(chosen: tuple[Typeface, ...]) -> Typefaces:
    return Typefaces(chosen)


@cache
def _usual() -> Typefaces:
    source = _packaged("font_source_sans_pro", "files")
    wide = Path(__file__).parent / "font_files"
    return _in_order(
        (
            _family("Source Sans Pro", source, "SourceSansPro-Regular.ttf", "SourceSansPro-Semibold.ttf"),
            _family("DejaVu Sans", wide, "DejaVuSans.ttf", "DejaVuSans-Bold.ttf"),
        )
    )


def _family(name: str, folder: Path, regular: str, semibold: str) -> Typeface:
    return Typeface(Face(name, str(folder / regular)), Face(name, str(folder / semibold)))


def _packaged(package: str, folder: str) -> Path:
    spec = find_spec(package)
    if spec is None or spec.origin is None:
        raise ChartError(f"The fonts of the package {package} are missing.", "Install grainstack again with pip.")
    return Path(spec.origin).parent / folder


@cache
def font(face: Face) -> Any:  # noqa: ANN401 - uharfbuzz carries no types
    """A font, ready for shaping and for its outlines.

    Args:
        face: Its file.
    """
    return uharfbuzz.Font(uharfbuzz.Face(uharfbuzz.Blob.from_file_path(face.path)))


@cache
def characters(face: Face) -> frozenset[int]:
    """The characters a font has."""
    return frozenset(font(face).face.unicodes)


def face_for(character: str, weight: Weight, current: Face | None) -> Face:
    """The font that carries a character; a space stays with what is before it.

    Args:
        character: The character.
        weight: How heavy it is set.
        current: The font of the character before it.

    Returns:
        The font; for a character that none has, the first one, which draws a box.
    """
    if character == " " and current is not None:
        return current
    return _with_character(ord(character), weight, typefaces()) or typefaces()[0].face(weight)


def is_missing(character: str) -> bool:
    """Whether no font has a character, which is then drawn as a box.

    Args:
        character: The character.
    """
    return _with_character(ord(character), Weight.REGULAR, typefaces()) is None


def with_boxes(text: str) -> str:
    """A text with a box in the place of each character that no font has.

    Args:
        text: The text.
    """
    missing = [one for one in set(text) if unicodedata.category(one) not in _UNSEEN and is_missing(one)]
    return text.translate(dict.fromkeys(map(ord, missing), _BOX)) if missing else text


@cache
def _with_character(code: int, weight: Weight, chosen: Typefaces) -> Face | None:
    for family in chosen:
        face = family.face(weight)
        if code in characters(face):
            return face
    return _on_this_machine(code, weight)


@cache
def _on_this_machine(code: int, weight: Weight) -> Face | None:
    """A font with outlines that fontconfig knows to have a character; the same one each time."""
    program = shutil.which("fc-list")
    if program is None:
        return None
    query = [program, "--format", "%{family[0]}\t%{style[0]}\t%{file}\n", f":charset={code:x}"]
    listed = subprocess.run(query, capture_output=True, text=True, timeout=20, check=False).stdout  # noqa: S603 - a fixed program
    bold = weight is Weight.SEMIBOLD
    faces = []
    for line in listed.splitlines():
        family, style, path = (*line.split("\t"), "", "")[:3]
        plain = style.lower() in ("regular", "book", "roman", "medium", "")
        heavy = style.lower() in ("bold", "semibold", "demibold")
        rank = (0 if (heavy if bold else plain) else 1 if plain else 2, "mono" in family.lower(), path)
        faces.append((rank, Face(family, path)))
    return next((face for _, face in sorted(faces, key=lambda one: one[0]) if _has_outlines(face)), None)


@cache
def _has_outlines(face: Face) -> bool:
    try:
        return any(tag in _OUTLINES for tag in font(face).face.table_tags)
    except Exception:  # noqa: BLE001 - whatever a broken font file raises, another is looked for
        return False
