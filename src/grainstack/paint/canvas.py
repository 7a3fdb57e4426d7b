"""Scenes on Matplotlib's renderers, used for nothing but shapes and letters at given places.

In a PNG, letters are filled as the very outlines they were measured with. In a PDF they stay text, so that a reader can
search and copy them.
"""

from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from grainstack.chart.look.color import channels
from grainstack.chart.scene import Dot, Face, Image, Line, MarkRole, Rect, Scene, Sector, Text, arc_points
from grainstack.chart.writing.fonts import font
from grainstack.chart.writing.text import Run, runs
from grainstack.paint.hatching import STROKE, strokes_over
from grainstack.paint.together import drawn_together
from grainstack.quick import dataclass

if TYPE_CHECKING:
    import numpy.typing as npt
    from matplotlib.backend_bases import GraphicsContextBase, RendererBase
    from matplotlib.path import Path
    from matplotlib.transforms import Affine2D

    TextPainter = Callable[[RendererBase, GraphicsContextBase, Text, float, float], None]
    Filler = Callable[[Rect], bool]

_MOVE, _LINE, _QUADRATIC, _CUBIC, _CLOSE = 1, 2, 3, 4, 79


@dataclass(frozen=True, slots=True)
class Canvas:
    """What scenes are drawn on.

    Attributes:
        renderer: Matplotlib's, of the format.
        scale: Its units per point.
        height: Its height in its units, as it counts from below.
        letters: How texts are drawn.
        fill: Fills a solid rectangle at once, or tells that it cannot; None where there is no such way.
        together: Whether rectangles that are apart are drawn together, colour by colour: where each change of colour is
            written down, it takes longer than the rectangle.
    """

    renderer: "RendererBase"
    scale: float
    height: float
    letters: "TextPainter"
    fill: "Filler | None" = None
    together: bool = False


def draw(canvas: Canvas, scene: Scene) -> None:
    """Draws every mark of a scene, whose y grows downwards."""
    from matplotlib.path import Path  # noqa: PLC0415 - see `paint_png`
    from matplotlib.transforms import Affine2D  # noqa: PLC0415

    renderer, scale, height = canvas.renderer, canvas.scale, canvas.height
    place = Affine2D().scale(scale, -scale).translate(0, height)
    if scene.paper:
        _rectangles(canvas, [Rect(0, 0, scene.width, scene.height, scene.paper, MarkRole.PAPER)], place, 0.0)
    clips: list[object] = []  # the renderer tells clip paths apart by where they lie in memory, so none may go yet
    groups = drawn_together(scene.marks, scene.outline / 2) if canvas.together else ((mark,) for mark in scene.marks)
    for group in groups:
        mark = group[0]
        if isinstance(mark, Rect):
            clips += _rectangles(canvas, [one for one in group if isinstance(one, Rect)], place, scene.outline)
            continue
        if isinstance(mark, Dot | Sector):
            _fill(renderer, [_disc(mark) if isinstance(mark, Dot) else _slice(mark)], mark, place, scene.outline)
            clips += _pattern(renderer, [mark], place) if isinstance(mark, Sector) and mark.shown_hatch else []
            continue
        pen = renderer.new_gc()
        if isinstance(mark, Line):
            pen.set_linewidth(mark.thickness)
            pen.set_foreground(channels(mark.stroke), isRGBA=False)
            pen.set_capstyle("butt")
            renderer.draw_path(pen, Path([(mark.x1, mark.y1), (mark.x2, mark.y2)]), place)
        elif isinstance(mark, Image):
            _picture(renderer, pen, mark, scale, height)
        else:
            pen.set_linewidth(0)
            pen.set_foreground(channels(mark.fill))
            canvas.letters(renderer, pen, mark, scale, height)
        pen.restore()


def _rectangles(canvas: Canvas, rects: Sequence[Rect], place: "Affine2D", thickness: float) -> list[object]:
    """Fills rectangles that are apart, one look after the other, then draws their patterns; gives the clip paths."""
    looks: defaultdict[tuple[str, str, float], list[Rect]] = defaultdict(list)
    patterns: defaultdict[tuple[str, str], list[Rect]] = defaultdict(list)
    for rect in rects:
        if canvas.fill is None or rect.outline or rect.opacity < 1 or not canvas.fill(rect):
            looks[rect.fill, rect.outline, rect.opacity].append(rect)
        if rect.shown_hatch:
            patterns[rect.hatch, rect.pattern].append(rect)
    for alike in looks.values():
        _fill(canvas.renderer, [_corners([rect]) for rect in alike], alike[0], place, thickness)
    return [clip for alike in patterns.values() for clip in _pattern(canvas.renderer, alike, place)]


def _picture(renderer: "RendererBase", pen: "GraphicsContextBase", mark: Image, scale: float, height: float) -> None:
    """Lays a picture into its place, in pixels of the canvas or, where it has none, in its own."""
    import io  # noqa: PLC0415 - few charts carry a logo

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
    renderer: "RendererBase", paths: "Iterable[Path]", mark: Rect | Dot | Sector, place: "Affine2D", thickness: float
) -> None:
    """Fills paths with the colour of a mark, and draws its outline."""
    pen = renderer.new_gc()
    opacity = 1.0 if isinstance(mark, Sector) else mark.opacity
    pen.set_snap(False)  # where pixels matter, edges lie on them already
    pen.set_linewidth(thickness if mark.outline else 0)
    if mark.outline:
        pen.set_foreground(channels(mark.outline))
    if opacity < 1:
        pen.set_alpha(opacity)
    fill = channels(mark.fill)
    # each by itself: viewers put the edges of a lone rectangle on their pixels, so that no seams show
    for path in paths:
        renderer.draw_path(pen, path, place, fill)
    pen.restore()


def _pattern(renderer: "RendererBase", alike: Sequence[Rect] | Sequence[Sector], place: "Affine2D") -> list[object]:
    """Draws the strokes of one pattern within shapes; gives the clip path used, which must be kept."""
    from matplotlib.path import Path  # noqa: PLC0415 - see `paint_png`
    from matplotlib.transforms import Bbox, TransformedPath  # noqa: PLC0415

    first, clips = alike[0], []
    pen = renderer.new_gc()
    pen.set_snap(False)
    pen.set_linewidth(STROKE)
    pen.set_foreground(channels(first.pattern))
    if isinstance(first, Sector):
        path = _slice(first)
        box = path.get_extents()
        within = [(box.x0, box.y0, box.x1, box.y1)]
    else:
        rects = [rect for rect in alike if isinstance(rect, Rect)]
        within = [(rect.x, rect.y, rect.x + rect.width, rect.y + rect.height) for rect in rects]
        path = _corners(rects)
    if isinstance(first, Rect) and len(within) == 1:
        pen.set_clip_rectangle(Bbox.from_extents(*within[0]).transformed(place))  # a path would mask the whole canvas
    else:
        clips.append(TransformedPath(path, place))
        pen.set_clip_path(clips[0])
    strokes = np.array([stroke for extent in within for stroke in strokes_over(first.hatch, *extent)])
    if len(strokes):
        renderer.draw_path(pen, Path(strokes.reshape(-1, 2), _stroke_codes(len(strokes))), place)
    pen.restore()
    return list(clips)


@lru_cache(maxsize=256)
def _stroke_codes(count: int) -> "npt.NDArray[np.uint8]":
    """The path codes of so many strokes."""
    return np.array([_MOVE, _LINE] * count, dtype=np.uint8)


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


def _corners(rects: Sequence[Rect]) -> "Path":
    """A path around each of some rectangles."""
    from matplotlib.path import Path  # noqa: PLC0415 - see `paint_png`

    corners = []
    for rect in rects:
        left, top, right, bottom = rect.x, rect.y, rect.x + rect.width, rect.y + rect.height
        corners += [(left, top), (right, top), (right, bottom), (left, bottom), (left, top)]
    return Path(corners, [_MOVE, _LINE, _LINE, _LINE, _CLOSE] * len(rects))


def outlined(renderer: "RendererBase", pen: "GraphicsContextBase", mark: Text, scale: float, height: float) -> None:
    """Fills the outlines of the letters; `scale` and `height` are those of the canvas."""
    from matplotlib.transforms import Affine2D  # noqa: PLC0415 - see `paint_png`

    path = _outlines(runs(mark.content, mark.weight))
    if path is None:
        return
    place = Affine2D().scale(mark.size).translate(-mark.before, 0)
    place = place.rotate_deg(90) if mark.turned else place
    place = place.translate(mark.x, -mark.y).scale(scale).translate(0, height)
    pen.set_snap(False)
    renderer.draw_path(pen, path, place, channels(mark.fill))


@lru_cache(maxsize=2048)
def _outlines(stretches: tuple[Run, ...]) -> "Path | None":
    """The outlines of the letters of a text in em, y upwards; None where there is nothing to see."""
    from matplotlib.path import Path  # noqa: PLC0415 - see `paint_png`

    corners: list[tuple[float, float]] = []
    codes: list[int] = []
    start = 0.0
    for run in stretches:
        for glyph, x, y in run.glyphs:
            outline, kinds = _outline(run.face, glyph)
            corners += [(start + x + px, y + py) for px, py in outline]
            codes += kinds
        start += run.width
    return Path(corners, codes) if corners else None


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
    """Sets the letters as text, one stretch per font; `scale` and `height` are those of the canvas."""
    from matplotlib.font_manager import FontProperties  # noqa: PLC0415 - see `paint_png`

    along = -mark.before
    for run in runs(mark.content, mark.weight):
        face = FontProperties(fname=run.face.path, size=mark.size * scale)
        x, y = (mark.x, mark.y - along) if mark.turned else (mark.x + along, mark.y)
        angle = 90 * mark.turned
        renderer.draw_text(pen, x * scale, height - y * scale, run.content, face, angle)
        along += run.width * mark.size
