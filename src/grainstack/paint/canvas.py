"""Scenes on Matplotlib's renderers, used for nothing but shapes and letters at given places.

In a PNG, letters are filled as the very outlines they were measured with. In a PDF they stay text, so that a reader can
search and copy them.
"""

from collections.abc import Callable
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from grainstack.chart.look.color import channels
from grainstack.chart.scene import Dot, Face, Image, Line, Mark, MarkRole, Rect, Scene, Sector, Text, arc_points
from grainstack.chart.writing.fonts import font
from grainstack.chart.writing.text import runs
from grainstack.paint.hatching import STROKE, strokes_over

if TYPE_CHECKING:
    from matplotlib.backend_bases import GraphicsContextBase, RendererBase
    from matplotlib.path import Path
    from matplotlib.transforms import Affine2D

    TextPainter = Callable[[RendererBase, GraphicsContextBase, Text, float, float], None]

_MOVE, _LINE, _QUADRATIC, _CUBIC, _CLOSE = 1, 2, 3, 4, 79


def draw(renderer: "RendererBase", scene: Scene, scale: float, height: float, letters: "TextPainter") -> None:
    """Draws every mark; `scale` turns points into the renderer's units, whose y grows upwards.

    Args:
        renderer: The canvas of the format.
        scene: The picture, in points.
        scale: Units of the canvas per point.
        height: The height of the canvas in its units, as it counts from below.
        letters: How texts are drawn.
    """
    from matplotlib.path import Path  # noqa: PLC0415 - see `paint_png`
    from matplotlib.transforms import Affine2D  # noqa: PLC0415

    place = Affine2D().scale(scale, -scale).translate(0, height)
    paper = [Rect(0, 0, scene.width, scene.height, scene.paper, MarkRole.PAPER)] if scene.paper else []
    clips: list[object] = []  # the renderer tells clip paths apart by where they lie in memory, so none may go yet
    mark: Mark
    for mark in (*paper, *scene.marks):
        pen = renderer.new_gc()
        if isinstance(mark, Rect | Dot | Sector):
            clips += _fill(renderer, pen, mark, place, scene.outline)
        elif isinstance(mark, Line):
            pen.set_linewidth(mark.thickness)
            pen.set_foreground(channels(mark.stroke), isRGBA=False)
            pen.set_capstyle("butt")
            renderer.draw_path(pen, Path([(mark.x1, mark.y1), (mark.x2, mark.y2)]), place)
        elif isinstance(mark, Image):
            _picture(renderer, pen, mark, scale, height)
        else:
            pen.set_linewidth(0)
            pen.set_foreground(channels(mark.fill))
            letters(renderer, pen, mark, scale, height)
        pen.restore()


def _picture(renderer: "RendererBase", pen: "GraphicsContextBase", mark: Image, scale: float, height: float) -> None:
    """Lays a picture into its place, in pixels of the canvas or, where it has none, in its own."""
    import io  # noqa: PLC0415 - few charts carry a logo

    import numpy as np  # noqa: PLC0415
    from PIL import Image as Pillow  # noqa: PLC0415

    left, bottom = mark.x * scale, height - (mark.y + mark.height) * scale
    picture = Pillow.open(io.BytesIO(mark.data)).convert("RGBA").transpose(Pillow.Transpose.FLIP_TOP_BOTTOM)
    wide, tall = mark.width * scale, mark.height * scale
    if renderer.option_scale_image():
        from matplotlib.transforms import Affine2D  # noqa: PLC0415 - see `paint_png`

        renderer.draw_image(pen, left, bottom, np.array(picture), Affine2D().scale(wide, tall))
        return
    fitted = picture.resize((max(round(wide), 1), max(round(tall), 1)), Pillow.Resampling.LANCZOS)
    renderer.draw_image(pen, round(left), round(bottom), np.array(fitted))


def _fill(
    renderer: "RendererBase",
    pen: "GraphicsContextBase",
    mark: Rect | Dot | Sector,
    place: "Affine2D",
    thickness: float,
) -> list[object]:
    """Fills a shape with its colour, outline and pattern; gives the clip path used, which must be kept."""
    from matplotlib.path import Path  # noqa: PLC0415 - see `paint_png`
    from matplotlib.transforms import TransformedPath  # noqa: PLC0415

    path = _rectangle(mark) if isinstance(mark, Rect) else _disc(mark) if isinstance(mark, Dot) else _slice(mark)
    outline = mark.outline
    opacity = 1.0 if isinstance(mark, Sector) else mark.opacity
    pen.set_snap(False)  # where pixels matter, edges lie on them already
    pen.set_linewidth(thickness if outline else 0)
    if outline:
        pen.set_foreground(channels(outline))
    if opacity < 1:
        pen.set_alpha(opacity)
    renderer.draw_path(pen, path, place, channels(mark.fill))
    if isinstance(mark, Dot) or not mark.hatch:
        return []
    pen.set_alpha(1.0)
    pen.set_linewidth(STROKE)
    pen.set_foreground(channels(mark.pattern))
    box = path.get_extents()
    clips: list[object] = []
    if isinstance(mark, Rect):
        pen.set_clip_rectangle(box.transformed(place))  # a path would be a mask of the whole canvas
    else:
        clips = [TransformedPath(path, place)]
        pen.set_clip_path(clips[0])  # type: ignore[arg-type]
    strokes = [((x1, y1), (x2, y2)) for x1, y1, x2, y2 in strokes_over(mark.hatch, box.x0, box.y0, box.x1, box.y1)]
    if strokes:
        corners = [corner for stroke in strokes for corner in stroke]
        renderer.draw_path(pen, Path(corners, [_MOVE, _LINE] * len(strokes)), place)
    return clips


def _disc(mark: Dot) -> "Path":
    from matplotlib.path import Path  # noqa: PLC0415 - see `paint_png`

    return Path.circle((mark.x, mark.y), mark.radius)


def _slice(mark: Sector) -> "Path":
    """A slice of a disc or ring; angles run clockwise from twelve o'clock, y downwards."""
    from matplotlib.path import Path  # noqa: PLC0415 - see `paint_png`

    outer = arc_points(mark.x, mark.y, mark.radius, mark.start, mark.end)
    inner = arc_points(mark.x, mark.y, mark.inner, mark.end, mark.start) if mark.inner else [(mark.x, mark.y)]
    corners = [*outer, *inner, outer[0]]
    return Path(corners, closed=True)


def _rectangle(mark: Rect) -> "Path":
    from matplotlib.path import Path  # noqa: PLC0415 - see `paint_png`

    right, bottom = mark.x + mark.width, mark.y + mark.height
    corners = [(mark.x, mark.y), (right, mark.y), (right, bottom), (mark.x, bottom), (mark.x, mark.y)]
    return Path(corners, closed=True)


def outlined(renderer: "RendererBase", pen: "GraphicsContextBase", mark: Text, scale: float, height: float) -> None:
    """Fills the outlines of the letters; the arguments are those of `draw`."""
    from matplotlib.path import Path  # noqa: PLC0415 - see `paint_png`
    from matplotlib.transforms import Affine2D  # noqa: PLC0415

    corners: list[Any] = []
    codes: list[int] = []
    start = 0.0
    for run in runs(mark.content, mark.weight):
        for glyph, x, y in run.glyphs:
            outline, kinds = _outline(run.face, glyph)
            corners += [(start + x + px, y + py) for px, py in outline]
            codes += kinds
        start += run.width
    if not corners:
        return
    place = Affine2D().scale(mark.size).translate(-mark.before, 0)
    place = place.rotate_deg(90) if mark.turned else place
    place = place.translate(mark.x, -mark.y).scale(scale).translate(0, height)
    pen.set_snap(False)
    renderer.draw_path(pen, Path(corners, codes), place, channels(mark.fill))


@lru_cache(maxsize=2048)
def _outline(face: Face, glyph: int) -> tuple[list[tuple[float, float]], list[int]]:
    """The outline of a glyph in em, y upwards, as corners and Matplotlib path codes."""
    import uharfbuzz  # noqa: PLC0415 - loaded by the measuring already

    corners: list[tuple[float, float]] = []
    codes: list[int] = []

    def add(code: int) -> Callable[..., None]:
        def take(*numbers: float) -> None:
            points = list(zip(numbers[:-1:2], numbers[1:-1:2], strict=True))
            corners.extend((x / em, y / em) for x, y in points)
            codes.extend([code] * len(points))

        return take

    def close(_: object) -> None:
        corners.append(corners[-1])
        codes.append(_CLOSE)

    ready = font(face)
    em = ready.face.upem
    draw = uharfbuzz.DrawFuncs()
    draw.set_move_to_func(add(_MOVE))
    draw.set_line_to_func(add(_LINE))
    draw.set_quadratic_to_func(add(_QUADRATIC))
    draw.set_cubic_to_func(add(_CUBIC))
    draw.set_close_path_func(close)
    ready.draw_glyph(glyph, draw, None)
    return corners, codes


def lettered(renderer: "RendererBase", pen: "GraphicsContextBase", mark: Text, scale: float, height: float) -> None:
    """Sets the letters as text, one stretch per font; the arguments are those of `draw`."""
    from matplotlib.font_manager import FontProperties  # noqa: PLC0415 - see `paint_png`

    along = -mark.before
    for run in runs(mark.content, mark.weight):
        face = FontProperties(fname=run.face.path, size=mark.size * scale)
        x, y = (mark.x, mark.y - along) if mark.turned else (mark.x + along, mark.y)
        angle = 90 * mark.turned
        renderer.draw_text(pen, x * scale, height - y * scale, run.content, face, angle)
        along += run.width * mark.size
