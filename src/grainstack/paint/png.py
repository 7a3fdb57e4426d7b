"""PNG: the PDF of a scene in pixels, with what it shows in words."""

import io

from msgspec.structs import replace
from PIL.PngImagePlugin import PngInfo
from pypdfium2 import PdfDocument

from grainstack.chart.marks import Line, Mark, Rect
from grainstack.chart.scene import Scene
from grainstack.paint import pdf

TRACE = "Trace"  # the name under which a picture carries where it comes from
_RUNS = 3  # zlib's way for pictures of few colours: half as long for files a twentieth larger
_SEEN = 0.2  # pixels: a thinner rectangle is drawn for its tip in other formats, and is nothing here
_STRAIGHT = 0.01  # pixels: a line that leaves the pixels by less is meant to run along them


def paint(scene: Scene, dpi: float) -> bytes:
    """The scene as a PNG with `dpi` pixels to the inch."""
    about = PngInfo()
    about.add_itxt("Title", scene.title)
    about.add_itxt("Description", scene.alt)
    if scene.trace:
        about.add_itxt(TRACE, scene.trace)
    sheet = on_pixels(scene.scaled(dpi / 72))
    document = PdfDocument(pdf.paint(replace(sheet, trace="")))
    try:
        picture = document[0].render(scale=1, rev_byteorder=True).to_pil()
    finally:
        document.close()
    target = io.BytesIO()
    picture.save(target, "PNG", dpi=(dpi, dpi), pnginfo=about, compress_type=_RUNS)
    return target.getvalue()


def on_pixels(scene: Scene) -> Scene:
    """A scene measured in pixels, of whole ones, whose rectangles and straight lines lie on them.

    Bars of equal length then look equal, and none has a blurred edge.

    Args:
        scene: The picture, each of whose points is to be one pixel.
    """
    marks = tuple(_settled(mark) for mark in scene.marks)
    return replace(scene, width=round(scene.width), height=round(scene.height), marks=marks)


def _settled(mark: Mark) -> Mark:
    if isinstance(mark, Rect):
        left, top = round(mark.x), round(mark.y)
        right = max(round(mark.x + mark.width), left + (mark.width >= _SEEN))
        bottom = max(round(mark.y + mark.height), top + (mark.height >= _SEEN))
        return replace(mark, x=left, y=top, width=right - left, height=bottom - top)
    if isinstance(mark, Line):
        level, upright = abs(mark.y2 - mark.y1) < _STRAIGHT, abs(mark.x2 - mark.x1) < _STRAIGHT
        if level:
            y = _crisp(mark.y1, mark.thickness)
            return replace(mark, x1=round(mark.x1), x2=round(mark.x2), y1=y, y2=y)
        if upright:
            x = _crisp(mark.x1, mark.thickness)
            return replace(mark, x1=x, x2=x, y1=round(mark.y1), y2=round(mark.y2))
    return mark


def _crisp(at: float, thickness: float) -> float:
    """Where the middle of a line along the pixels stands: in that of a pixel if it is an odd number of them thick."""
    return int(at // 1) + 0.5 if round(thickness) % 2 or thickness < 1 else float(round(at))
