"""PNG: the pixels of a scene in a file, with what they show in words."""

import io

from grainstack.chart.scene import Scene
from grainstack.paint.pixels import painted

TRACE = "Trace"  # the name under which a picture carries where it comes from
_RUNS = 3  # zlib's way for pictures of few colours: half as long for files a twentieth larger


def paint(scene: Scene, dpi: float) -> bytes:
    """The scene as a PNG with `dpi` pixels to the inch."""
    from PIL import Image, PngImagePlugin  # noqa: PLC0415 - the painting may find no room for its pixels first

    about = PngImagePlugin.PngInfo()
    about.add_itxt("Title", scene.title)
    about.add_itxt("Description", scene.alt)
    if scene.trace:
        about.add_itxt(TRACE, scene.trace)
    target = io.BytesIO()
    picture = Image.merge("RGB", [Image.fromarray(plane) for plane in painted(scene, dpi)])
    picture.save(target, "PNG", dpi=(dpi, dpi), pnginfo=about, compress_type=_RUNS)
    return target.getvalue()
