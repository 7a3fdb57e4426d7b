"""PNG, drawn pixel by pixel."""

import io
from dataclasses import replace
from functools import partial

import numpy as np
import numpy.typing as npt

from grainstack.chart.look.color import channels
from grainstack.chart.scene import Rect, Scene
from grainstack.paint.canvas import Canvas, draw, outlined

Pixels = npt.NDArray[np.uint8]
_SEEN = 0.2  # pixels: a thinner rectangle is drawn for its tip in other formats, and is nothing here
TRACE = "Trace"  # the name under which a picture carries where it comes from
_ON_PIXEL = 1e-6  # of a pixel: what is lost on the way to points and back
_RUNS = 3  # zlib's way for pictures of few colours: half as long for files a twentieth larger


def on_pixels(rect: Rect, scale: float) -> Rect:
    """A rectangle with its edges on whole pixels, so that equal ones look equal; one that is seen stays a pixel wide.

    Args:
        rect: In points.
        scale: Pixels per point.
    """
    left, top = round(rect.x * scale), round(rect.y * scale)
    right, bottom = round((rect.x + rect.width) * scale), round((rect.y + rect.height) * scale)
    wide = max(right - left, int(rect.width * scale >= _SEEN))
    tall = max(bottom - top, int(rect.height * scale >= _SEEN))
    x, y, width, height = left / scale, top / scale, wide / scale, tall / scale
    return replace(rect, x=x, y=y, width=width, height=height, hatch=rect.shown_hatch)


def _filled(pixels: Pixels, scale: float, rect: Rect) -> bool:
    """Fills a rectangle whose edges lie on whole pixels, many times as fast as a path would; tells whether it is one.

    Args:
        pixels: Those of the picture, shape (height, width, 4).
        scale: Pixels per point.
        rect: In points.
    """
    edges = [edge * scale for edge in (rect.x, rect.y, rect.x + rect.width, rect.y + rect.height)]
    left, top, right, bottom = (max(round(edge), 0) for edge in edges)
    if max(abs(edge - round(edge)) for edge in edges) > _ON_PIXEL:
        return False
    pixels[top:bottom, left:right] = [*(round(255 * part) for part in channels(rect.fill)), 255]
    return True


def paint(scene: Scene, dpi: float) -> bytes:
    """The scene as a PNG with `dpi` pixels to the inch."""
    from matplotlib.backends.backend_agg import RendererAgg  # noqa: PLC0415 - half a second only pixels should cost
    from PIL import Image, PngImagePlugin  # noqa: PLC0415

    width, height = round(scene.width * dpi / 72), round(scene.height * dpi / 72)
    renderer = RendererAgg(width, height, dpi)
    scale = dpi / 72
    marks = tuple(on_pixels(mark, scale) if isinstance(mark, Rect) else mark for mark in scene.marks)
    pixels = np.asarray(renderer.buffer_rgba())
    draw(Canvas(renderer, scale, float(height), outlined, partial(_filled, pixels, scale)), replace(scene, marks=marks))
    about = PngImagePlugin.PngInfo()
    about.add_itxt("Title", scene.title)
    about.add_itxt("Description", scene.alt)
    if scene.trace:
        about.add_itxt(TRACE, scene.trace)
    picture = Image.fromarray(pixels).convert("RGB")
    target = io.BytesIO()
    picture.save(target, "PNG", dpi=(dpi, dpi), pnginfo=about, compress_type=_RUNS)
    return target.getvalue()
