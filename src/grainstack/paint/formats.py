"""The formats of pictures: one painter each, found by the ending of a file."""

from collections.abc import Sequence
from importlib import import_module
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from grainstack.chart.scene import Scene

_PAINTERS = {".png": "png", ".svg": "svg", ".pdf": "pdf"}
PICTURE_ENDINGS = tuple(_PAINTERS)
CHART_ENDINGS = (*PICTURE_ENDINGS, ".html")  # a page around a picture is written where reports are


def painted(scene: "Scene", ending: str, dpi: float) -> bytes:
    """A scene in the format of a file ending, one of `PICTURE_ENDINGS`.

    Args:
        scene: The picture.
        ending: The ending, in lower case.
        dpi: Pixels per inch, for formats made of pixels.
    """
    content: bytes = import_module(f"grainstack.paint.{_PAINTERS[ending]}").paint(scene, dpi)
    return content


def painted_in(scene: "Scene", endings: Sequence[str], dpi: float) -> tuple[bytes, ...]:
    """A scene in several formats, in the typefaces it was composed in.

    Args:
        scene: The picture.
        endings: The endings, in lower case, each one of `PICTURE_ENDINGS`.
        dpi: Pixels per inch, for formats made of pixels.
    """
    from grainstack.chart.writing.fonts import set_in  # noqa: PLC0415 - known endings alone need none of it

    with set_in(scene.typefaces):
        return tuple(painted(scene, ending, dpi) for ending in endings)
