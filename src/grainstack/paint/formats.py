"""The formats of pictures: one painter each, found by the ending of a file."""

from collections.abc import Sequence
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from grainstack.chart.scene import Scene

_PAINTERS = {".png": "png", ".svg": "svg", ".pdf": "pdf"}
PICTURE_ENDINGS = tuple(_PAINTERS)


def painted(scene: "Scene", ending: str, dpi: float) -> bytes:
    """A scene in the format of a file ending, one of `PICTURE_ENDINGS`.

    Args:
        scene: The picture.
        ending: The ending, in lower case.
        dpi: Pixels per inch, for formats made of pixels.
    """
    content: bytes = import_module(f"grainstack.paint.{_PAINTERS[ending]}").paint(scene, dpi)
    return content


def write_pictures(scene: "Scene", targets: Sequence[Path], dpi: float) -> Sequence[Path]:
    """Writes a scene into files, each in the format of its ending; none is written unless all can be painted.

    Raises:
        OutputError: A file that cannot be written.
    """
    from grainstack.chart.writing.fonts import set_in  # noqa: PLC0415 - known endings alone need none of it
    from grainstack.output import write_whole  # noqa: PLC0415

    with set_in(scene.typefaces):
        contents = [painted(scene, target.suffix.lower(), dpi) for target in targets]
    for target, content in zip(targets, contents, strict=True):
        write_whole(target, content)
    return targets
