"""The formats of pictures: one painter each, found by the ending of a file."""

from collections.abc import Sequence

from grainstack.chart.scene import Scene
from grainstack.chart.writing.fonts import set_in
from grainstack.endings import PICTURE_ENDINGS
from grainstack.later import Later

_PAINTERS = {ending: Later(f"paint.{ending[1:]}", "paint") for ending in PICTURE_ENDINGS}


def painted(scene: Scene, ending: str, dpi: float) -> bytes:
    """A scene in the format of a file ending, one of `PICTURE_ENDINGS`.

    Args:
        scene: The picture.
        ending: The ending, in lower case.
        dpi: Pixels per inch, for formats made of pixels.
    """
    content: bytes = _PAINTERS[ending](scene, dpi)
    return content


def painted_in(scene: Scene, endings: Sequence[str], dpi: float) -> tuple[bytes, ...]:
    """A scene in several formats, in the typefaces it was composed in.

    Args:
        scene: The picture.
        endings: The endings, in lower case, each one of `PICTURE_ENDINGS`.
        dpi: Pixels per inch, for formats made of pixels.
    """
    with set_in(scene.typefaces):
        return tuple(painted(scene, ending, dpi) for ending in endings)
