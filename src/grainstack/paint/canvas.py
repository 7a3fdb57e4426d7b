"""Scenes on a page of Matplotlib's PDF, used for nothing but shapes and letters at given places.

Letters stay text, so that a reader can search and copy them.
"""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from grainstack.chart.look.color import channels
from grainstack.chart.scene import Dot, Image, Line, MarkRole, Rect, Scene, Sector, Text, arc_points
from grainstack.chart.writing.text import runs
from grainstack.paint.hatching import STROKE, strokes_over
from grainstack.paint.together import drawn_together
from grainstack.quick import dataclass

if TYPE_CHECKING:
    import numpy.typing as npt
    from matplotlib.backend_bases import GraphicsContextBase, RendererBase
    from matplotlib.path import Path
    from matplotlib.transforms import Affine2D

_MOVE, _LINE, _CLOSE = 1, 2, 79


@dataclass(frozen=True, slots=True)
class Canvas:
    """What scenes are drawn on.

    Attributes:
        renderer: Matplotlib's, of a page.
        height: Its height in points, as it counts from below.
    """

    renderer: "RendererBase"
    height: float

    @property
    def place(self) -> "Affine2D":
        """What takes points of a scene, whose y grows downwards, to the page."""
        from matplotlib.transforms import Affine2D  # noqa: PLC0415 - only PDF should cost Matplotlib

        return Affine2D().scale(1, -1).translate(0, self.height)


def draw(canvas: Canvas, scene: Scene) -> None:
    """Draws every mark of a scene."""
    from matplotlib.path import Path  # noqa: PLC0415 - only PDF should cost Matplotlib

    renderer, place = canvas.renderer, canvas.place
    if scene.paper:
        _rectangles(canvas, [Rect(0, 0, scene.width, scene.height, scene.paper, MarkRole.PAPER)], 0.0)
    clips: list[object] = []  # the renderer tells clip paths apart by where they lie in memory, so none may go yet
    for group in drawn_together(scene.marks, scene.outline / 2):
        mark = group[0]
        if isinstance(mark, Rect):
            clips += _rectangles(canvas, [one for one in group if isinstance(one, Rect)], scene.outline)
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
            _picture(canvas, pen, mark)
        else:
            pen.set_linewidth(0)
            pen.set_foreground(channels(mark.fill))
            _letters(canvas, pen, mark)
        pen.restore()


def _rectangles(canvas: Canvas, rects: Sequence[Rect], thickness: float) -> list[object]:
    """Fills rectangles that are apart, one look after the other, then draws their patterns; gives the clip paths.

    Each change of colour is written down, and takes longer than a rectangle.
    """
    looks: defaultdict[tuple[str, str, float], list[Rect]] = defaultdict(list)
    patterns: defaultdict[tuple[str, str], list[Rect]] = defaultdict(list)
    for rect in rects:
        looks[rect.fill, rect.outline, rect.opacity].append(rect)
        if rect.shown_hatch:
            patterns[rect.hatch, rect.pattern].append(rect)
    place = canvas.place
    for alike in looks.values():
        _fill(canvas.renderer, [_corners([rect]) for rect in alike], alike[0], place, thickness)
    return [clip for alike in patterns.values() for clip in _pattern(canvas.renderer, alike, place)]


def _picture(canvas: Canvas, pen: "GraphicsContextBase", mark: Image) -> None:
    """Lays a picture into its place, in its own pixels."""
    import io  # noqa: PLC0415 - few charts carry a logo

    from matplotlib.transforms import Affine2D  # noqa: PLC0415 - only PDF should cost Matplotlib
    from PIL import Image as Pillow  # noqa: PLC0415

    picture = Pillow.open(io.BytesIO(mark.data)).convert("RGBA").transpose(Pillow.Transpose.FLIP_TOP_BOTTOM)
    size = Affine2D().scale(mark.width, mark.height)
    canvas.renderer.draw_image(pen, mark.x, canvas.height - (mark.y + mark.height), np.array(picture), size)


def _fill(
    renderer: "RendererBase", paths: "Iterable[Path]", mark: Rect | Dot | Sector, place: "Affine2D", thickness: float
) -> None:
    """Fills paths with the colour of a mark, and draws its outline."""
    pen = renderer.new_gc()
    opacity = 1.0 if isinstance(mark, Sector) else mark.opacity
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
    from matplotlib.path import Path  # noqa: PLC0415 - only PDF should cost Matplotlib
    from matplotlib.transforms import Bbox, TransformedPath  # noqa: PLC0415

    first, clips = alike[0], []
    pen = renderer.new_gc()
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
    from matplotlib.path import Path  # noqa: PLC0415 - only PDF should cost Matplotlib

    return Path.circle((mark.x, mark.y), mark.radius)


def _slice(mark: Sector) -> "Path":
    """A slice of a disc or ring; angles run clockwise from twelve o'clock, y downwards."""
    from matplotlib.path import Path  # noqa: PLC0415 - only PDF should cost Matplotlib

    outer = arc_points(mark.x, mark.y, mark.radius, mark.start, mark.end)
    inner = arc_points(mark.x, mark.y, mark.inner, mark.end, mark.start) if mark.inner else [(mark.x, mark.y)]
    corners = [*outer, *inner, outer[0]]
    return Path(corners, closed=True)


def _corners(rects: Sequence[Rect]) -> "Path":
    """A path around each of some rectangles."""
    from matplotlib.path import Path  # noqa: PLC0415 - only PDF should cost Matplotlib

    corners = []
    for rect in rects:
        left, top, right, bottom = rect.x, rect.y, rect.x + rect.width, rect.y + rect.height
        corners += [(left, top), (right, top), (right, bottom), (left, bottom), (left, top)]
    return Path(corners, [_MOVE, _LINE, _LINE, _LINE, _CLOSE] * len(rects))


def _letters(canvas: Canvas, pen: "GraphicsContextBase", mark: Text) -> None:
    """Sets the letters as text, one stretch per font."""
    from matplotlib.font_manager import FontProperties  # noqa: PLC0415 - only PDF should cost Matplotlib

    along = -mark.before
    for run in runs(mark.content, mark.weight):
        face = FontProperties(fname=run.face.path, size=mark.size)
        x, y = (mark.x, mark.y - along) if mark.turned else (mark.x + along, mark.y)
        canvas.renderer.draw_text(pen, x, canvas.height - y, run.content, face, 90 * mark.turned)
        along += run.width * mark.size
