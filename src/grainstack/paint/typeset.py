"""The typesetter that makes every PDF, with the very font files that texts were measured with."""

import tempfile
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path

from typst import Fonts, TypstError
from typst import compile as typeset_source

from grainstack.chart.marks import Face, Text, Weight
from grainstack.chart.writing.fonts import typefaces
from grainstack.chart.writing.text import runs
from grainstack.errors import ChartError, OutputError
from grainstack.paint.svg import FontName

_EPOCH = 0  # the time a file says it was made at: the same input gives the same bytes


def faces_of(texts: Iterable[Text], more: str = "") -> frozenset[Face]:
    """The fonts that texts are set in, in the typefaces of now, with those that are there for anything else.

    Args:
        texts: The texts.
        more: Other text to be set in both weights.
    """
    faces = {family.face(weight) for family in typefaces() for weight in Weight}
    faces.update(run.face for text in texts for run in runs(text.content, text.weight))
    faces.update(run.face for weight in (Weight if more else ()) for run in runs(more, weight))
    return frozenset(faces)


@contextmanager
def fonts_for(faces: Iterable[Face]) -> Iterator[tuple[Fonts, Mapping[Face, FontName]]]:
    """Fonts ready for the typesetter, and what it knows each of them by.

    The typesetter looks for fonts in folders and knows them by the names within their files, so that just the files
    that are wanted are linked into a folder of their own, and their names are read from there.

    Args:
        faces: The fonts.

    Raises:
        OutputError: There is no room for temporary files.
    """
    faces = sorted(faces, key=lambda face: (face.path, face.name))
    with _temporary_folder() as folder:
        paths = dict.fromkeys(face.path for face in faces)
        files = {path: _linked(Path(path).resolve(), Path(folder), place) for place, path in enumerate(paths)}
        fonts = Fonts(include_system_fonts=False, include_embedded_fonts=False, font_paths=[folder])
        known = {
            one.path: FontName(one.family, one.weight, one.style) for one in reversed(fonts.fonts())
        }  # of a collection, its first font
        yield fonts, {face: known[files[face.path]] for face in faces if files[face.path] in known}


def _temporary_folder() -> "tempfile.TemporaryDirectory[str]":
    try:
        return tempfile.TemporaryDirectory(prefix="grainstack-fonts-")
    except OSError as reason:
        what = f"Cannot write temporary files: {reason.strerror or reason}."
        raise OutputError(what, "Make room where they go, or set TMPDIR to a folder of your own.") from reason


def _linked(file: Path, folder: Path, place: int) -> str:
    """Has a file stand in a folder too, as a copy where a system has no links; gives the path it is then known by."""
    link = folder / f"{place}{file.suffix}"
    try:
        link.symlink_to(file)
    except OSError:
        link.write_bytes(file.read_bytes())
        return str(link)
    return str(file)


def typeset(source: str, inputs: Mapping[str, str], fonts: Fonts) -> bytes:
    """A PDF that screen readers can read, the same bytes each time.

    Args:
        source: What to set, as the typesetter reads it.
        inputs: Texts it takes from `sys.inputs`, so that nothing in them is read as markup.
        fonts: The fonts there are.

    Raises:
        ChartError: The typesetter refuses it.
    """
    try:
        return bytes(
            typeset_source(
                source.encode(),
                format="pdf",
                font_paths=fonts,
                sys_inputs=dict(inputs),
                pdf_standards=["ua-1"],
                timestamp=_EPOCH,
            )
        )
    except TypstError as error:
        raise ChartError(
            f"The typesetter refuses the document: {error.message}.", "Write SVG or HTML instead."
        ) from error
